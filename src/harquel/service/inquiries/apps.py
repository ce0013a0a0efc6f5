"""Registers the app with Django."""

from django.apps import AppConfig


class InquiriesConfig(AppConfig):
    """Inquiries and their results."""

    name = "harquel.service.inquiries"
    label = "inquiries"
