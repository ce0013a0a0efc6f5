"""Registers the app with Django."""

from django.apps import AppConfig


class AccessConfig(AppConfig):
    """People and their tokens."""

    name = "harquel.service.access"
    label = "access"
