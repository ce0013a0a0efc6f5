"""Registers the app with Django."""

from django.apps import AppConfig


class OpenLinksConfig(AppConfig):
    """What is shown to people without an account."""

    name = "harquel.service.open_links"
    label = "open_links"
