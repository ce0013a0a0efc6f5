"""Paths of this area, below the API's prefix."""

from harquel.service.operations.http import Way, routes

from .operations.open_links import end_open_link, list_open_links, share_answer
from .operations.share_casebook import share_casebook

urlpatterns = routes(
    {
        "inquiries/<str:key>/open-links": {"POST": Way(share_answer, 201)},
        "casebooks/<str:casebook>/open-links": {"POST": Way(share_casebook, 201)},
        "open-links": {"GET": list_open_links},
        "open-links/<str:link>": {"DELETE": Way(end_open_link, 204)},
    }
)
