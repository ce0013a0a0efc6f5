"""Describing a source over HTTP: scans, versions, notes, policy, tables, coverage, examples."""

from __future__ import annotations

from typing import Literal

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import (
    CatalogDiff,
    CatalogTable,
    CheckedPolicy,
    CheckPolicyRequest,
    CoverageShape,
    DocumentRequest,
    Documents,
    DocumentShape,
    ExampleChange,
    ExampleExport,
    ExampleImport,
    ExampleRequest,
    Examples,
    ExampleShape,
    ExplainedPolicy,
    ExplainRequest,
    ImportReport,
    ScanRequest,
    Scans,
    ScanShape,
    TableEdit,
    Versions,
)
from harquel.core.domain.terms import Terms
from harquel.service.pages import whole_number
from harquel.service.problems import ProblemError

from .actions import documents, examples, policies, scans
from .actions.find import source_for
from .catalogs import load
from .models import CatalogVersion, SourceDocument, StoredScan
from .shapes import scan_shape, table_shape

_SHOWN = 50


def _number(request: Request, name: str) -> int | None:
    text = request.query_params.get(name)
    if text is None:
        return None
    number = whole_number(text)
    if number is None:
        raise ProblemError(422, "invalid-request", f"{name} must be a number.", "Versions count from 1.")
    return number


class ScansView(APIView):
    """Scans of a source."""

    scopes = {"POST": "steward"}

    @extend_schema(operation_id="scans_list", responses=Scans)
    def get(self, request: Request, name: str) -> Response:
        """Newest first."""
        source_for(name, request.user, disabled_too=True)
        found: QuerySet[StoredScan] = StoredScan.objects.filter(source=name).order_by("-pk")[:_SHOWN]
        return Response([scan_shape(s).model_dump(mode="json") for s in found])

    @extend_schema(request=ScanRequest, responses={202: ScanShape})
    def post(self, request: Request, name: str) -> Response:
        """Starts one in the background, or joins the one under way."""
        asked = ScanRequest.model_validate(request.data or {})
        return Response(scan_shape(scans.start(name, asked, request.user)).model_dump(mode="json"), status=202)


class ScanView(APIView):
    """One scan."""

    scopes = {"DELETE": "steward"}

    @extend_schema(responses=ScanShape)
    def get(self, request: Request, name: str, scan_id: int) -> Response:
        """How far it is."""
        return Response(scan_shape(scans.find(name, scan_id, request.user)).model_dump(mode="json"))

    @extend_schema(responses={202: ScanShape})
    def delete(self, request: Request, name: str, scan_id: int) -> Response:
        """Ends it after the current table; the next one goes on from there."""
        return Response(scan_shape(scans.stop(name, scan_id, request.user)).model_dump(mode="json"), status=202)


class VersionsView(APIView):
    """Versions of a catalog."""

    @extend_schema(responses=Versions)
    def get(self, request: Request, name: str) -> Response:
        """Newest first."""
        source = source_for(name, request.user, disabled_too=True)
        found = CatalogVersion.objects.filter(source=name).order_by("-number")
        steward = "steward" in request.user.scopes
        found = found.defer("tables")[:_SHOWN] if steward else found[:_SHOWN]
        terms = Terms(source.core.policy, request.user.asker)

        def tables(version: CatalogVersion) -> int:
            return version.count if steward else len(terms.visible(load(version)).tables)

        return Response(
            [
                {
                    "number": v.number, "fingerprint": v.fingerprint, "tables": tables(v),
                    "scanned_at": v.scanned_at.isoformat(),
                }
                for v in found
            ]
        )  # fmt: skip


class DiffView(APIView):
    """Two versions of a catalog compared."""

    @extend_schema(responses=CatalogDiff)
    def get(self, request: Request, name: str) -> Response:
        """What came, went and changed from version ?old to ?new; by default between the last two."""
        found = scans.difference(name, _number(request, "old"), _number(request, "new"), request.user)
        return Response(found.model_dump(mode="json"))


class DocumentView(APIView):
    """The notes or the policy of a source."""

    kind: Literal["notes", "policy"] = "notes"
    scope = "steward"

    @extend_schema(responses=DocumentShape)
    def get(self, request: Request, name: str) -> Response:
        """The version that counts."""
        return Response(documents.read(name, self.kind, request.user).model_dump(mode="json"))

    @extend_schema(request=DocumentRequest, responses=DocumentShape)
    def put(self, request: Request, name: str) -> Response:
        """A new version; when it does not fit, nothing is changed."""
        asked = DocumentRequest.model_validate(request.data)
        made = documents.replace(name, self.kind, asked, request.user, "import")
        return Response(made.model_dump(mode="json"))


class HistoryView(APIView):
    """Who changed the notes or the policy, and when."""

    kind: Literal["notes", "policy"] = "notes"
    scope = "steward"

    @extend_schema(responses=Documents)
    def get(self, request: Request, name: str) -> Response:
        """Newest first."""
        source_for(name, request.user, disabled_too=True)
        found = SourceDocument.objects.filter(source=name, kind=self.kind).order_by("-number")[:_SHOWN]
        return Response(
            [
                {"number": d.number, "who": d.who, "at": d.at.isoformat(), "origin": d.origin, "said": d.said}
                for d in found
            ]
        )  # fmt: skip


class TableView(APIView):
    """One table of a catalog."""

    scopes = {"PATCH": "steward"}

    @extend_schema(responses=CatalogTable)
    def get(self, request: Request, name: str, table: str) -> Response:
        """With all that is known of it; what is not exposed to stewards only."""
        return Response(self._table(request, name, table).model_dump(mode="json"))

    @extend_schema(request=TableEdit, responses=CatalogTable)
    def patch(self, request: Request, name: str, table: str) -> Response:
        """Edits its notes, what of it is exposed, and what is personal."""
        documents.edit_table(name, table, TableEdit.model_validate(request.data), request.user)
        return Response(self._table(request, name, table).model_dump(mode="json"))

    @staticmethod
    def _table(request: Request, name: str, table: str) -> CatalogTable:
        source = source_for(name, request.user, disabled_too=True)
        catalog = source.keeper.known()
        if catalog is not None and "steward" not in request.user.scopes:
            catalog = source.core.describer.of(catalog, request.user.asker).catalog
        found = catalog.table(table) if catalog is not None else None
        if found is None:
            raise ProblemError(404, "unknown-table", f"There is no {table} in {name}.", "Scan again if it is new.")
        return table_shape(found, source.core.policy, source.core.notes)


class ExplainView(APIView):
    """A policy in plain words."""

    scope = "steward"

    @extend_schema(request=ExplainRequest, responses=ExplainedPolicy)
    def post(self, request: Request, name: str) -> Response:
        """What it comes to for somebody with these roles and values, and what it says of a statement."""
        asked = ExplainRequest.model_validate(request.data or {})
        return Response(policies.explain(name, asked, request.user).model_dump(mode="json"))


class CheckPolicyView(APIView):
    """A policy, before it counts."""

    scope = "steward"

    @extend_schema(request=CheckPolicyRequest, responses=CheckedPolicy)
    def post(self, request: Request, name: str) -> Response:
        """What in it matches nothing or cannot be applied."""
        asked = CheckPolicyRequest.model_validate(request.data or {})
        return Response(policies.check(name, asked, request.user).model_dump(mode="json"))


class CoverageView(APIView):
    """How much is described."""

    scope = "steward"

    @extend_schema(responses=CoverageShape)
    def get(self, request: Request, name: str) -> Response:
        """The share of described columns, those that questions touch, joins to propose."""
        return Response(documents.covered(name, request.user).model_dump(mode="json"))


class ExamplesView(APIView):
    """The example bank of a source."""

    scope = "steward"

    @extend_schema(operation_id="examples_list", responses=Examples)
    def get(self, request: Request, name: str) -> Response:
        """All pairs with their state."""
        return Response([e.model_dump(mode="json") for e in examples.listed(name, request.user)])

    @extend_schema(request=ExampleRequest, responses={201: ExampleShape})
    def post(self, request: Request, name: str) -> Response:
        """A new pair, or one from an inquiry; checked at once."""
        asked = ExampleRequest.model_validate(request.data)
        return Response(examples.add(name, asked, request.user).model_dump(mode="json"), status=201)


class ExampleView(APIView):
    """One example."""

    scope = "steward"

    @extend_schema(request=ExampleChange, responses=ExampleShape)
    def patch(self, request: Request, name: str, example_id: int) -> Response:
        """Changes it; checked again."""
        asked = ExampleChange.model_validate(request.data)
        return Response(examples.change(name, example_id, asked, request.user).model_dump(mode="json"))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, name: str, example_id: int) -> Response:
        """Takes it out."""
        examples.remove(name, example_id, request.user)
        return Response(status=204)


class ExampleTextView(APIView):
    """The bank as text."""

    scope = "steward"

    @extend_schema(responses=ExampleExport)
    def get(self, request: Request, name: str) -> Response:
        """As YAML, or with ?form=jsonl as JSON Lines."""
        form: Literal["yaml", "jsonl"] = "jsonl" if request.query_params.get("form") == "jsonl" else "yaml"
        return Response(examples.give_out(name, form, request.user).model_dump(mode="json"))

    @extend_schema(request=ExampleImport, responses=ImportReport)
    def post(self, request: Request, name: str) -> Response:
        """Takes pairs in and checks them."""
        asked = ExampleImport.model_validate(request.data)
        return Response(examples.take_in(name, asked, request.user).model_dump(mode="json"))


class ExampleCheckView(APIView):
    """All examples against the database as it is now."""

    scope = "steward"

    @extend_schema(request=None, responses=Examples)
    def post(self, request: Request, name: str) -> Response:
        """Checks each."""
        return Response([e.model_dump(mode="json") for e in examples.check_all(name, request.user)])
