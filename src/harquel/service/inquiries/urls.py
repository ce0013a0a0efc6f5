"""Paths of this app, below the API's prefix."""

from django.urls import path

from .stream import events
from .views import CancelView, InquiryView, ReleaseView, inquiries

urlpatterns = [
    path("inquiries", inquiries),
    path("inquiries/<str:key>", InquiryView.as_view()),
    path("inquiries/<str:key>/cancel", CancelView.as_view()),
    path("inquiries/<str:key>/release", ReleaseView.as_view()),
    path("inquiries/<str:key>/events", events),
]
