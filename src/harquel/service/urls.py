"""All paths of the service but the console's."""

from django.urls import include, path, re_path
from django.views.decorators.csrf import csrf_exempt
from drf_spectacular.views import SpectacularJSONAPIView

from harquel.service import health, problems
from harquel.service.open_links.page import shared
from harquel.service.operations.http import routes
from harquel.service.reload import reload_configuration
from harquel.service.standstill import read_standstill, switch_standstill

_API = [
    path("", include("harquel.service.access.urls")),
    path("", include("harquel.service.inquiries.urls")),
    path("", include("harquel.service.sources.urls")),
    path("", include("harquel.service.ledger.urls")),
    path("", include("harquel.service.models.urls")),
    path("", include("harquel.service.usage.urls")),
    path("", include("harquel.service.outbox.urls")),
    path("", include("harquel.service.chat.urls")),
    path("", include("harquel.service.watches.urls")),
    path("", include("harquel.service.casebooks.urls")),
    path("", include("harquel.service.open_links.urls")),
    *routes({"configuration/reload": {"POST": reload_configuration}}),
    *routes({"standstill": {"GET": read_standstill, "PUT": switch_standstill}}),
    path("openapi.json", SpectacularJSONAPIView.as_view()),
    # It changes nothing: whoever writes to an address that is none is told that, not to reload the console.
    re_path(r".*", csrf_exempt(problems.nothing_here)),
]

urlpatterns = [
    path("api/v1/", include(_API)),
    path("healthz", health.healthz),
    path("readyz", health.readyz),
    path("metrics", health.metrics_page),
    path("shared/<str:secret>", shared),
]
handler404 = "harquel.service.problems.nothing_here"
handler500 = "harquel.service.problems.broken"
