"""Paths of this area, below the API's prefix."""

from harquel.service.operations.http import Way, routes

from .operations.add_watch import add_watch
from .operations.watches import change_watch, end_watch, list_watches, read_watch, run_watch

urlpatterns = routes(
    {
        "inquiries/<str:key>/watches": {"POST": Way(add_watch, 201)},
        "watches": {"GET": list_watches},
        "watches/<str:watch>": {"GET": read_watch, "PATCH": change_watch, "DELETE": Way(end_watch, 204)},
        "watches/<str:watch>/runs": {"POST": Way(run_watch, 202)},
    }
)
