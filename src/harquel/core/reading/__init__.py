"""A question as it is understood, apart from any SQL: read by a model, grounded, and built into a statement by us."""

from .control import control
from .edge import at_the_edge
from .following import Changed, changed
from .ground import grounded, pieces
from .instead import Instead, instead_of
from .paths import NoControl
from .reply import NoReading, reading_of
from .value import Reading
from .withheld import by_keys
from .words import Understood, understood_as

__all__ = [
    "Changed", "Instead", "NoControl", "NoReading", "Reading", "Understood", "at_the_edge", "by_keys", "changed",
    "control", "grounded", "instead_of", "pieces", "reading_of", "understood_as",
]  # fmt: skip
