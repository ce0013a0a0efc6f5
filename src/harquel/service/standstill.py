"""One switch that stops everything: no statement reaches a database until it is taken back."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import Standstill
from harquel.service.ledger.append import append
from harquel.service.runtime import runtime


class StandstillView(APIView):
    """Whether everything stands still."""

    scopes = {"PUT": "admin"}

    @extend_schema(responses=Standstill)
    def get(self, request: Request) -> Response:
        """The state of the switch."""
        return Response(Standstill(on=runtime().standing_still()).model_dump())

    @extend_schema(request=Standstill, responses=Standstill)
    def put(self, request: Request) -> Response:
        """Stops what runs on every source and lets nothing start, or takes that back."""
        asked = Standstill.model_validate(request.data)
        live = runtime()
        live.stand_still(asked.on)
        kind = "standstill-on" if asked.on else "standstill-off"
        live.writer.do(lambda: append(who=request.user.person.name, kind=kind, facts={}))
        return Response(asked.model_dump())
