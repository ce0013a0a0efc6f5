"""Registers the app with Django."""

from django.apps import AppConfig


class CasebooksConfig(AppConfig):
    """Kept collections of answers."""

    name = "harquel.service.casebooks"
    label = "casebooks"
