"""Registers the app with Django."""

from django.apps import AppConfig


class OutboxConfig(AppConfig):
    """What is sent on."""

    name = "harquel.service.outbox"
    label = "outbox"
