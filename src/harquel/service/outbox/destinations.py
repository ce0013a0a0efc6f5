"""The destinations of the configuration, with their secrets."""

from __future__ import annotations

from collections.abc import Mapping

from harquel.service.config import HarquelConfig, resolve_secret
from harquel.service.masking import remember

from .outbox import Destination
from .signing import secret_of


def destinations_of(config: HarquelConfig) -> Mapping[str, Destination]:
    """By their names. Raises ConfigurationError for a secret that is not there, or is none."""
    found = {}
    for name, section in config.destinations.items():
        what = f"destinations.{name}.secret"
        text = resolve_secret(section.secret, config.base, what)
        remember(text)
        found[name] = Destination(name, section, secret_of(text, what))
    return found
