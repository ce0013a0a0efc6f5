"""Steps that change the tree before it is rendered, in order. Each takes a tree and gives one back."""

from .expand_stars import expand_stars
from .rename_ctes import rename_ctes
from .spell_names import spell_names
from .wrap_tables import RuleFault, wrap_tables
from .write_row_limit import write_row_limit

__all__ = ["RuleFault", "expand_stars", "rename_ctes", "spell_names", "wrap_tables", "write_row_limit"]
