"""Paths of this area, below the API's prefix."""

from django.urls import path

from . import describing as d
from . import views as v

urlpatterns = [
    path("sources", v.SourcesView.as_view()),
    path("sources/<str:name>", v.SourceView.as_view()),
    path("sources/<str:name>/check", v.CheckView.as_view()),
    path("sources/<str:name>/account", v.AccountView.as_view()),
    path("sources/<str:name>/catalog", v.CatalogView.as_view()),
    path("sources/<str:name>/catalog/versions", d.VersionsView.as_view()),
    path("sources/<str:name>/catalog/diff", d.DiffView.as_view()),
    path("sources/<str:name>/catalog/coverage", d.CoverageView.as_view()),
    path("sources/<str:name>/tables/<str:table>", d.TableView.as_view()),
    path("sources/<str:name>/scans", d.ScansView.as_view()),
    path("sources/<str:name>/scans/<int:scan_id>", d.ScanView.as_view()),
    path("sources/<str:name>/notes", d.DocumentView.as_view(kind="notes")),
    path("sources/<str:name>/notes/history", d.HistoryView.as_view(kind="notes")),
    path("sources/<str:name>/policy", d.DocumentView.as_view(kind="policy")),
    path("sources/<str:name>/policy/history", d.HistoryView.as_view(kind="policy")),
    path("sources/<str:name>/policy/explain", d.ExplainView.as_view()),
    path("sources/<str:name>/policy/check", d.CheckPolicyView.as_view()),
    path("sources/<str:name>/examples", d.ExamplesView.as_view()),
    path("sources/<str:name>/examples/text", d.ExampleTextView.as_view()),
    path("sources/<str:name>/examples/check", d.ExampleCheckView.as_view()),
    path("sources/<str:name>/examples/<int:example_id>", d.ExampleView.as_view()),
    path("sources/<str:name>/reviews", v.ReviewsView.as_view()),
    path("passwords/rotation", v.RotationView.as_view()),
]
