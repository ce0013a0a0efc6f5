"""Registers the app with Django."""

from django.apps import AppConfig


class UsageConfig(AppConfig):
    """Calls of language models."""

    name = "harquel.service.usage"
    label = "usage"
