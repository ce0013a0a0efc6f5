"""Paths of this area, below the API's prefix."""

from harquel.service.operations.http import Way, routes

from .operations.history import casebook_history, casebook_version, restore_casebook
from .operations.keeping import keep_in_casebook, keep_titled, run_casebook
from .operations.making import change_casebook, list_casebooks, make_casebook, read_casebook, remove_casebook
from .operations.sending import send_casebook
from .operations.taking import casebook_picture, take_casebook

_ONE = "casebooks/<str:casebook>"
urlpatterns = routes(
    {
        "casebooks": {"GET": list_casebooks, "POST": Way(make_casebook, 201)},
        _ONE: {"GET": read_casebook, "PATCH": change_casebook, "DELETE": Way(remove_casebook, 204)},
        "inquiries/<str:key>/casebooks": {"POST": Way(keep_titled, 201)},
        f"{_ONE}/answers": {"POST": Way(keep_in_casebook, 201)},
        f"{_ONE}/answers/<str:name>/picture": {"GET": Way(casebook_picture, files=True)},
        f"{_ONE}/runs": {"POST": run_casebook},
        f"{_ONE}/file": {"GET": Way(take_casebook, files=True)},
        f"{_ONE}/sendings": {"POST": Way(send_casebook, 201)},
        f"{_ONE}/versions": {"GET": casebook_history},
        f"{_ONE}/versions/<int:version>": {"GET": casebook_version, "POST": restore_casebook},
    }
)
