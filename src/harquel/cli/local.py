"""Commands and helpers that other packages register; found by name, loaded when used."""

from __future__ import annotations

from importlib.metadata import EntryPoint, entry_points
from typing import Any

COMMANDS, HELPERS = "harquel.commands", "harquel.local"


def registered(group: str) -> dict[str, EntryPoint]:
    """Name to entry point."""
    return {e.name: e for e in entry_points(group=group)}


def helper(name: str) -> Any:
    """A helper, loaded. Raises ModuleNotFoundError where the server part is not installed."""
    return registered(HELPERS)[name].load()
