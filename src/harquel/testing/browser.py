"""The browser that tests and pictures are made with: Debian's chromium, without a window."""

from __future__ import annotations

import shutil
from typing import Final

# A page in a new context takes the shell a tenth of the processor time that it takes the browser with its window.
_SHELL, _WHOLE = "chromium-headless-shell", "chromium"
OPTIONS: Final = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
"""Neither a graphics card nor a network is there, and as root there is no sandbox."""


def path_of_browser() -> str:
    """Where it lies. Raises FileNotFoundError."""
    found = shutil.which(_SHELL) or shutil.which(_WHOLE)
    if found is None:
        raise FileNotFoundError(f"Neither {_SHELL} nor {_WHOLE} is installed.")
    return found
