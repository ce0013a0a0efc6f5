"""Runs every test, on three processes: on two cores there is always one that waits for a server or a browser.

A test that failed is run once more by itself, at the end. If it passes then, the run is green and its last lines name
the test as unsteady: such a test is to be mended, but a landing is not to be lost over it. Ends with the status of the
second run otherwise.
"""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

_FAILED = Path(".pytest_cache/v/cache/lastfailed")
_TOO_MANY = 10
"""So many failures are no unsteadiness."""


def main() -> int:
    """The status to end with."""
    pytest = [sys.executable, "-m", "pytest"]
    _FAILED.unlink(missing_ok=True)
    status = subprocess.call([*pytest, "-n", "3", *sys.argv[1:]])
    if status != 1 or not _FAILED.exists():
        return status
    failed = sorted(json.loads(_FAILED.read_text("utf-8")))
    if not 0 < len(failed) <= _TOO_MANY:
        return status
    print(f"\nOnce more, by themselves: {len(failed)} that failed.", flush=True)
    for name in failed:
        if subprocess.call([*pytest, name]) != 0:
            return 1
    print("\nGreen, but unsteady; to be mended:")
    for name in failed:
        print(f"  {name}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
