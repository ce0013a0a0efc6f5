"""Paths of this area, below the API's prefix."""

from harquel.service.operations.http import Way, routes

from .operations.change_key import change_key
from .operations.list_entries import list_entries
from .operations.list_keys import list_keys
from .operations.seal import seal
from .operations.verify import verify

urlpatterns = routes(
    {
        "ledger": {"GET": list_entries},
        "ledger/verification": {"GET": verify},
        "ledger/keys": {"GET": list_keys, "POST": Way(change_key, 201)},
        "ledger/seals": {"POST": Way(seal, 201)},
    }
)
