"""Registers the app with Django."""

from django.apps import AppConfig


class LedgerConfig(AppConfig):
    """Ledger entries and the texts beside them."""

    name = "harquel.service.ledger"
    label = "ledger"
