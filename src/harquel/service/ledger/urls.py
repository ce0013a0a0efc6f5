"""Paths of this app, below the API's prefix."""

from django.urls import path

from .views import LedgerView, VerificationView

urlpatterns = [path("ledger", LedgerView.as_view()), path("ledger/verification", VerificationView.as_view())]
