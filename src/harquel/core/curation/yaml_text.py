"""Reads YAML with libyaml where it is there: ten times as fast as the same in Python."""

from __future__ import annotations

from typing import Any

import yaml

_Loader: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)


def read_yaml(text: str) -> Any:
    """What a document holds, of plain types only. Raises yaml.YAMLError."""
    return yaml.load(text, Loader=_Loader)
