"""Paths of this area, below the API's prefix; the stream of events is served beside Django."""

from __future__ import annotations

from typing import Any

from rest_framework.request import Request
from rest_framework.response import Response

from harquel.contract import Inquiry, InquiryRequest
from harquel.service.operations import Call
from harquel.service.operations.http import Way, routes

from .operations.ask import ask
from .operations.cancel import cancel
from .operations.draw import draw
from .operations.keep import keep
from .operations.list_inquiries import list_inquiries
from .operations.listen import listen
from .operations.read_inquiry import read_inquiry
from .operations.release import release
from .operations.show import show, show_picture
from .operations.take_away import take_away
from .waiting import WAIT_HEADER


def _where(_: Request, response: Response, call: Call[InquiryRequest, Any], made: Inquiry) -> None:
    response["Location"] = f"/api/v1/inquiries/{made.id}"
    if call.asked.wait_s:
        response[WAIT_HEADER] = f"{made.id} {call.asked.wait_s}"


BESIDE_DJANGO = {"inquiries/<str:key>/events": {"GET": listen}}
"""Addresses that asgi.py serves by itself, with their operations."""

urlpatterns = routes(
    {
        "inquiries": {"GET": list_inquiries, "POST": Way(ask, 201, _where)},
        "inquiries/<str:key>": {"GET": read_inquiry},
        "inquiries/<str:key>/cancel": {"POST": Way(cancel, 202)},
        "inquiries/<str:key>/chart": {"GET": draw},
        "inquiries/<str:key>/release": {"POST": release},
        "inquiries/<str:key>/file": {"GET": Way(take_away, files=True)},
        "inquiries/<str:key>/keep": {"POST": keep},
        "inquiries/<str:key>/shown": {"GET": show},
        "inquiries/<str:key>/shown/picture": {"GET": Way(show_picture, files=True)},
    }
)
