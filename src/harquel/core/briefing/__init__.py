"""What goes into the prompt for one question, each part with its reason."""

from .brief import Briefing, brief, pick_examples
from .describer import Describer
from .index import CatalogIndex
from .tokens import TokenGauge

__all__ = ["Briefing", "CatalogIndex", "Describer", "TokenGauge", "brief", "pick_examples"]
