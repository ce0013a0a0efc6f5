"""Paths of this area, below the API's prefix."""

from harquel.service.operations.http import Way, routes

from .operations.list_sendings import list_sendings
from .operations.send_again import send_again
from .operations.send_on import send_on

urlpatterns = routes(
    {
        "inquiries/<str:key>/sendings": {"POST": Way(send_on, 201)},
        "sendings": {"GET": list_sendings},
        "sendings/<str:sending>/again": {"POST": Way(send_again, 202)},
    }
)
