"""Registers the app with Django."""

from django.apps import AppConfig


class SourcesConfig(AppConfig):
    """Sources, their catalogs, notes, policies and examples."""

    name = "harquel.service.sources"
    label = "sources"
