"""Paths of this app, below the API's prefix."""

from django.urls import path

from .views import CancelView, InquiriesView, InquiryView, ReleaseView

urlpatterns = [
    path("inquiries", InquiriesView.as_view()),
    path("inquiries/<str:key>", InquiryView.as_view()),
    path("inquiries/<str:key>/cancel", CancelView.as_view()),
    path("inquiries/<str:key>/release", ReleaseView.as_view()),
]
