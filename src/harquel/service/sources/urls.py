"""Paths of this area, below the API's prefix."""

from harquel.service.operations.http import Way, routes

from .connections.change import change as change_source
from .connections.check import check as check_source
from .connections.connect import connect
from .connections.list_sources import list_sources
from .connections.read_source import read_source
from .connections.remove import remove as remove_source
from .connections.rotate import rotate
from .connections.write_account import write_account
from .documents import documents as d
from .documents.check_policy import check as check_policy
from .documents.edit_table import edit_table
from .documents.explain_policy import explain
from .documents.read_coverage import read_coverage
from .documents.read_table import read_table
from .examples.add import add
from .examples.change import change as change_example
from .examples.check_all import check_all
from .examples.give_out import give_out
from .examples.list_examples import list_examples
from .examples.remove import remove as remove_example
from .examples.take_in import take_in
from .review import review
from .scans.compare_versions import compare_versions
from .scans.list_scans import list_scans
from .scans.list_versions import list_versions
from .scans.read_catalog import read_catalog
from .scans.read_scan import read_scan
from .scans.start import start
from .scans.stop import stop

_ONE = "sources/<str:name>"

urlpatterns = routes(
    {
        "sources": {"GET": list_sources, "POST": Way(connect, 201)},
        _ONE: {"GET": read_source, "PATCH": change_source, "DELETE": remove_source},
        f"{_ONE}/check": {"POST": check_source},
        f"{_ONE}/account": {"POST": write_account},
        f"{_ONE}/catalog": {"GET": read_catalog},
        f"{_ONE}/catalog/versions": {"GET": list_versions},
        f"{_ONE}/catalog/diff": {"GET": compare_versions},
        f"{_ONE}/catalog/coverage": {"GET": read_coverage},
        f"{_ONE}/tables/<str:table>": {"GET": read_table, "PATCH": edit_table},
        f"{_ONE}/scans": {"GET": list_scans, "POST": Way(start, 202)},
        f"{_ONE}/scans/<int:scan_id>": {"GET": read_scan, "DELETE": Way(stop, 202)},
        f"{_ONE}/notes": {"GET": d.read_notes, "PUT": d.replace_notes},
        f"{_ONE}/notes/history": {"GET": d.notes_history},
        f"{_ONE}/policy": {"GET": d.read_policy, "PUT": d.replace_policy},
        f"{_ONE}/policy/history": {"GET": d.policy_history},
        f"{_ONE}/policy/explain": {"POST": explain},
        f"{_ONE}/policy/check": {"POST": check_policy},
        f"{_ONE}/examples": {"GET": list_examples, "POST": Way(add, 201)},
        f"{_ONE}/examples/text": {"GET": give_out, "POST": take_in},
        f"{_ONE}/examples/check": {"POST": check_all},
        f"{_ONE}/examples/<int:example_id>": {"PATCH": change_example, "DELETE": Way(remove_example, 204)},
        f"{_ONE}/reviews": {"POST": review},
        "passwords/rotation": {"POST": rotate},
    }
)
