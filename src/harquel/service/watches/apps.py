"""Registers the app with Django."""

from django.apps import AppConfig


class WatchesConfig(AppConfig):
    """What is watched."""

    name = "harquel.service.watches"
    label = "watches"
