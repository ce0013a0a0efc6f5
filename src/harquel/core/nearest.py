"""The known names that somebody may have meant, for every hint that offers one."""

from __future__ import annotations

import difflib
from collections.abc import Iterable


def nearest(name: str, known: Iterable[str], most: int = 1, alike: float = 0.6) -> tuple[str, ...]:
    """Up to `most` known names that look most like `name`, without regard to case, as they are written.

    `alike` is the least ratio of difflib's SequenceMatcher, from 0 to 1.
    """
    written = {k.casefold(): k for k in known}
    return tuple(written[n] for n in difflib.get_close_matches(name.casefold(), written, n=most, cutoff=alike))


def meant(name: str, known: Iterable[str], otherwise: str = "", alike: float = 0.6) -> str:
    """ "Did you mean …?", or what is said where nothing is near."""
    near = nearest(name, known, alike=alike)
    return f"Did you mean {near[0]}?" if near else otherwise
