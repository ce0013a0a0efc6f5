"""What goes into the prompt for one question, each part with its reason."""

from .brief import Briefing, brief

__all__ = ["Briefing", "brief"]
