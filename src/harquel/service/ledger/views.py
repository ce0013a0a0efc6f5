"""The audit record over HTTP."""

from __future__ import annotations

import re

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import EntryPage, LedgerKeys, SealShape, Verification
from harquel.core.ledger import Head as ChainHead
from harquel.service.pages import page
from harquel.service.problems import ProblemError

from .actions.seals import change_key, keys, seal_now
from .actions.verify_ledger import verify_ledger
from .models import Entry
from .shapes import entry_shape


class LedgerView(APIView):
    """Entries, newest first."""

    scope = "audit"

    @extend_schema(
        responses=EntryPage,
        parameters=[OpenApiParameter(n, str) for n in ("cursor", "limit", "inquiry", "kind")],
    )
    def get(self, request: Request) -> Response:
        """A page of entries, of one inquiry or kind if asked."""
        found = Entry.objects.prefetch_related("texts")
        for name in ("inquiry", "kind"):
            if request.query_params.get(name):
                found = found.filter(**{name: request.query_params[name]})
        return Response(page(request, found, lambda e: entry_shape(e).model_dump(mode="json")))


class VerificationView(APIView):
    """Whether the chain holds."""

    scope = "audit"

    @extend_schema(responses=Verification, parameters=[OpenApiParameter("anchor", str)])
    def get(self, request: Request) -> Response:
        """Checks every entry; `anchor` is SEQ:DIGEST of an entry noted earlier."""
        return Response(verify_ledger(anchor_of(request.query_params.get("anchor"))).model_dump(mode="json"))


class KeysView(APIView):
    """The public keys of the ledger."""

    scopes = {"GET": "audit", "POST": "admin"}

    @extend_schema(operation_id="ledger_keys", responses=LedgerKeys)
    def get(self, request: Request) -> Response:
        """Those that seals may have been made with, the one in use first."""
        return Response([k.model_dump(mode="json") for k in keys()])

    @extend_schema(operation_id="ledger_key_new", request=None, responses={201: LedgerKeys})
    def post(self, request: Request) -> Response:
        """A new key from now on; seals of the old ones go on holding."""
        return Response([k.model_dump(mode="json") for k in change_key(request.user)], status=201)


class SealsView(APIView):
    """Signed checkpoints."""

    scope = "audit"

    @extend_schema(request=None, responses={201: SealShape})
    def post(self, request: Request) -> Response:
        """Seals the chain now; keep what comes back elsewhere."""
        return Response(seal_now(request.user).model_dump(mode="json"), status=201)


def anchor_of(text: str | None) -> ChainHead | None:
    """Reads SEQ:DIGEST. Raises ProblemError."""
    if not text:
        return None
    found = re.fullmatch(r"([0-9]{1,15}):([0-9a-f]{64})", text)
    if found is None:
        raise ProblemError(422, "invalid-anchor", "The anchor is not SEQ:DIGEST.", "Copy it from an earlier check.")
    return ChainHead(int(found.group(1)), found.group(2))
