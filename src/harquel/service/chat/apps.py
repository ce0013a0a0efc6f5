"""Registers the app with Django."""

from django.apps import AppConfig


class ChatConfig(AppConfig):
    """What is heard in chats, and who is who there."""

    name = "harquel.service.chat"
    label = "chat"
