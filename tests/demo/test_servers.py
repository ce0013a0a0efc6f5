"""The servers of the demo: each keeps to its own folder, however many are started at once."""

from __future__ import annotations

from pathlib import Path

import pytest

from harquel.demo.servers import Mariadb, Postgresql
from tests.conftest import servers


@servers
@pytest.mark.parametrize("kind", [Mariadb, Postgresql])
def test_a_server_puts_nothing_outside_its_folder(kind: type[Mariadb] | type[Postgresql], reachable: Path) -> None:
    """MariaDB removes what it takes for leftovers of its own from a common folder, in the middle of another's start."""
    folder = reachable / f"own-{kind.__name__}"
    with kind(folder) as server:
        if isinstance(server, Mariadb):
            assert server.run("SELECT @@tmpdir") == [(str(folder / "tmp"),)]
        assert server.process is not None
        environment = Path(f"/proc/{server.process.pid}/environ").read_bytes().split(b"\0")
        assert f"TMPDIR={folder / 'tmp'}".encode() in environment
