"""From a result to what a person reads: the sentence, the units."""

from .cited import cited_measures
from .figures import decimals_of, roles_of, rounds, telling_apart, worked_out
from .read_back import lines_of, read_back, said_condition
from .units import units_of
from .wording import word

__all__ = [
    "cited_measures", "decimals_of", "lines_of", "read_back", "roles_of", "rounds", "said_condition", "telling_apart",
    "units_of", "word", "worked_out",
]  # fmt: skip
