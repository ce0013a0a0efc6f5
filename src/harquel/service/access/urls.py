"""Paths of this area, below the API's prefix."""

from django.urls import path

from harquel.service.operations.http import Way, routes

from .operations.begin_visit import begin_visit
from .operations.create_token import create_token
from .operations.list_tokens import list_tokens
from .operations.me import me
from .operations.revoke_token import revoke_token
from .views import SessionView, csrf_cookie

urlpatterns = [
    path("session", SessionView.as_view()),
    *routes(
        {
            "visits": {"POST": Way(begin_visit, 201)},
            "me": {"GET": Way(me, adds=csrf_cookie)},
            "tokens": {"GET": list_tokens, "POST": Way(create_token, 201)},
            "tokens/<int:token_id>": {"DELETE": Way(revoke_token, 204)},
        }
    ),
]
