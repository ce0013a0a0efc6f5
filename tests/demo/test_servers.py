"""The servers of the demo: each keeps to its own folder, however many are started at once."""

from __future__ import annotations

from pathlib import Path

import pytest

from harquel.demo.servers import Mariadb, Postgresql
from tests.conftest import servers


@servers
@pytest.mark.parametrize("kind", [Mariadb, Postgresql])
def test_a_server_puts_nothing_outside_its_folder(kind: type[Mariadb] | type[Postgresql], tmp_path: Path) -> None:
    """MariaDB removes what it takes for leftovers of its own from a common folder, in the middle of another's start."""
    with kind(tmp_path / "server") as server:
        if isinstance(server, Mariadb):
            assert server.run("SELECT @@tmpdir") == [(str(tmp_path / "server" / "tmp"),)]
        assert server.process is not None
        environment = Path(f"/proc/{server.process.pid}/environ").read_bytes().split(b"\0")
        assert f"TMPDIR={tmp_path / 'server' / 'tmp'}".encode() in environment
