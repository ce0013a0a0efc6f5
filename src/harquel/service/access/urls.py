"""Paths of this app, below the API's prefix."""

from django.urls import path

from .views import MeView, SessionView, TokensView, TokenView

urlpatterns = [
    path("me", MeView.as_view()),
    path("session", SessionView.as_view()),
    path("tokens", TokensView.as_view()),
    path("tokens/<int:token_id>", TokenView.as_view()),
]
