"""A question as it is understood, apart from any SQL: read by a model, grounded, and built into a statement by us."""

from .control import control
from .ground import grounded, pieces
from .instead import Instead, instead_of
from .paths import NoControl
from .reply import NoReading, reading_of
from .value import Reading
from .words import Understood, understood_as

__all__ = [
    "Instead", "NoControl", "NoReading", "Reading", "Understood", "control", "grounded", "instead_of", "pieces",
    "reading_of", "understood_as",
]  # fmt: skip
