"""A report each night: asks a casebook again, says what has moved, and writes it as one page.

HARQUEL_URL, HARQUEL_TOKEN; python nightly_report.py CASEBOOK report.html. Exit 0: nothing has moved; 1: something has;
10: something is to be taken with caution, or was not answered.
"""

from __future__ import annotations

import os
import sys
import time
from pathlib import Path

from harquel.client import Harquel, HarquelError
from harquel.client.casebooks import casebook_file, read_casebook, run_casebook
from harquel.contract import Casebook

PATIENCE_S = 900


def asked_again(client: Harquel, key: str) -> Casebook:
    """As it is once all of it has come in. Raises TimeoutError."""
    until = time.monotonic() + PATIENCE_S
    found = client.send(run_casebook(key, way="anew"))
    while any(one.under_way for one in found.kept):
        if time.monotonic() > until:
            raise TimeoutError
        time.sleep(1)
        found = client.send(read_casebook(key))
    return found


def main() -> int:
    """See above; 9 where nobody answers."""
    key, out = sys.argv[1], Path(sys.argv[2])
    try:
        with Harquel(os.environ["HARQUEL_URL"], os.environ["HARQUEL_TOKEN"]) as client:
            found = asked_again(client, key)
            out.write_bytes(client.send(casebook_file(key)))
    except (HarquelError, TimeoutError) as error:
        print(f"There is no report: {error or 'it takes too long'}", file=sys.stderr)
        return 9
    print(found.title)
    for one in found.kept:
        print(f"- {one.name}: {one.answer.text or one.answer.said} [{one.answer.trust or one.answer.state}]")
        if one.answer.since:
            print(f"  {one.answer.since}")
    if any(one.answer.trust != "clear" or one.answer.said for one in found.kept):
        return 10
    return int(any(one.answer.moved for one in found.kept))


if __name__ == "__main__":
    sys.exit(main())
