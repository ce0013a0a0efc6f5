"""Paths of this area, below the API's prefix."""

from django.urls import path

from .views import CatalogView, ReviewsView, SourcesView, SourceView

urlpatterns = [
    path("sources", SourcesView.as_view()),
    path("sources/<str:name>", SourceView.as_view()),
    path("sources/<str:name>/catalog", CatalogView.as_view()),
    path("sources/<str:name>/reviews", ReviewsView.as_view()),
]
