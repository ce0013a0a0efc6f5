"""Paths of this app, below the API's prefix."""

from django.urls import path

from .views import KeysView, LedgerView, SealsView, VerificationView

urlpatterns = [
    path("ledger", LedgerView.as_view()),
    path("ledger/verification", VerificationView.as_view()),
    path("ledger/keys", KeysView.as_view()),
    path("ledger/seals", SealsView.as_view()),
]
