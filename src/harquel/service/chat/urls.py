"""Paths of this area, below the API's prefix."""

from django.urls import path

from harquel.service.operations.http import Way, routes

from .door import hear
from .operations.find_chat import list_chats
from .operations.links import end_link, list_links
from .operations.make_code import make_code

urlpatterns = [
    *routes(
        {
            "chats": {"GET": list_chats},
            "chats/links": {"GET": list_links},
            "chats/links/<int:link>": {"DELETE": Way(end_link, 204)},
            "chats/<str:chat>/codes": {"POST": Way(make_code, 201)},
        }
    ),
    path("chats/<str:name>/messages", hear),
]
