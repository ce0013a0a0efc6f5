"""What many tests share: the demo database, the simulated model and a whole demo, all of them real."""

from __future__ import annotations

import fcntl
import functools
import gc
import os
import re
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Final

import pytest
from xdist.scheduler import LoadScopeScheduling

from harquel.client import Harquel
from harquel.core.inquiry import course
from harquel.demo.load_servers import load_mariadb, load_postgresql
from harquel.demo.load_sqlite import load
from harquel.demo.servers import Mariadb, Postgresql
from harquel.demo.stage import Stage, free_address
from harquel.testing.model import simulated_model
from tests.forked import ForkedStage
from tests.outside import Board, board, post_office

gc.set_threshold(20_000, 10, 10)
DATA = Path(__file__).parent / "data"
servers = pytest.mark.needs_servers
"""Tests of one process (see Together), so that each server is started and filled once."""


def made_once(factory: pytest.TempPathFactory, name: str, make: Callable[[Path], None]) -> Path:
    """A file or folder that the first process makes and all of them share."""
    base = factory.getbasetemp()
    folder = base.parent if os.environ.get("PYTEST_XDIST_WORKER") else base
    with (folder / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (folder / name).exists():
            # One that another process broke off is begun again.
            shutil.rmtree(folder / f"{name}.part", ignore_errors=True)
            make(folder / f"{name}.part")
            (folder / f"{name}.part").rename(folder / name)
    return folder / name


@pytest.fixture(scope="session")
def ferries(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo database. Nobody may write to it."""
    return made_once(tmp_path_factory, "ferries.db", load)


@pytest.fixture(scope="session")
def settled(ferries: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of a demo that has run: records with a token, a scanned catalog and starters that were tried."""

    def run(folder: Path) -> None:
        folder.mkdir()
        shutil.copyfile(ferries, folder / "ferries.db")
        stage = ForkedStage(folder, free_address(), free_address(), lambda _: None)
        with stage, Harquel(stage.url, stage.token) as client:
            newest, since = 0, time.monotonic()
            while time.monotonic() - since < 2.5:
                time.sleep(0.5)
                seq = client.ledger(limit=1).items[0].seq
                if seq != newest or not all(s.starters for s in client.sources()):
                    newest, since = seq, time.monotonic()
        # Where it runs is written anew for each.
        (folder / "harquel.toml").unlink()

    return made_once(tmp_path_factory, "settled", run)


@pytest.fixture(autouse=True)
def patience(monkeypatch: pytest.MonkeyPatch) -> None:
    """Small queries of ours end in time however busy the machine is: what they find is tested, not how soon."""
    monkeypatch.setattr(course, "LOOK_S", 20.0)
    monkeypatch.setattr(course, "LOOKS_S", 60.0)


@pytest.fixture(scope="session")
def model_url() -> Iterator[str]:
    """A simulated model of its own process, reached over a real socket."""
    with simulated_model() as url:
        yield url


@pytest.fixture(scope="session")
def reachable() -> Iterator[Path]:
    """A folder that a server's own user can reach: pytest closes its own to others, each time that it starts."""
    folder = Path(tempfile.mkdtemp(prefix="harquel-tests-"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree(folder)


@pytest.fixture(scope="session")
def postgresql(reachable: Path) -> Iterator[Postgresql]:
    """A PostgreSQL server with the demo world, ended with the session. Tests that use it say so with `servers`."""
    with Postgresql(reachable / "postgresql") as server:
        load_postgresql(server)
        yield server


@pytest.fixture(scope="session")
def mariadb(reachable: Path) -> Iterator[Mariadb]:
    """A MariaDB server with the demo world."""
    with Mariadb(reachable / "mariadb") as server:
        load_mariadb(server)
        yield server


@pytest.fixture(scope="session")
def new_stage(ferries: Path, settled: Path) -> Callable[..., Stage]:
    """Makes a demo in a folder from one that has run; `fresh`: from its data alone, with no records yet.

    Records that lie there already are taken as they are.
    """

    def make(folder: Path, fresh: bool = False, **options: object) -> Stage:
        if fresh or (folder / "records").exists():
            folder.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(ferries, folder / "ferries.db")
        else:
            shutil.copytree(settled, folder, dirs_exist_ok=True)
        return ForkedStage(folder, free_address(), free_address(), lambda _: None, **options)  # type: ignore[arg-type]

    return make


@pytest.fixture(scope="session")
def stage(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    """A whole demo that the tests of a process share."""
    with new_stage(tmp_path_factory.mktemp("stage"), pace_s=0.05) as running:
        yield running


@pytest.fixture
def client(stage: Stage) -> Iterator[Harquel]:
    """A client with every scope."""
    with Harquel(stage.url, stage.token) as connected:
        yield connected


@pytest.fixture(scope="module")
def taker() -> Iterator[Board]:
    """Somebody who takes messages."""
    with board() as found:
        yield found


@pytest.fixture(scope="module")
def office() -> Iterator[tuple[str, str]]:
    """The simulated mail server: where it takes letters, and its page."""
    with post_office() as found:
        yield found


class Together(LoadScopeScheduling):
    """Which tests go to the same process: all that need the database servers, so that each server is started and
    filled once, and otherwise those of a file, which share what is made for it. Tests of a lifetime share nothing.
    """

    def _split_scope(self, nodeid: str) -> str:
        path = nodeid.split("::")[0]
        if path in _files(_SERVERS):
            return "servers"
        return nodeid if path.endswith(("test_lifetime.py", "test_records.py", "test_review.py")) else path


_SERVERS: Final = r"^from tests\.conftest import .*\bservers\b"
_DEMO: Final = r"^from harquel\.demo\.stage import .*\bStage\b"


@functools.cache
def _files(saying: str) -> frozenset[str]:
    """The files of tests with a line of that form."""
    root, asks = Path(__file__).parents[1], re.compile(saying, re.MULTILINE)
    found = (f for f in sorted((root / "tests").rglob("test_*.py")) if asks.search(f.read_text("utf-8")))
    return frozenset(str(f.relative_to(root)) for f in found)


def pytest_collection_finish() -> None:
    """What has been loaded by now stays, and need not be looked through for what is not needed any more."""
    gc.freeze()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Those that need the servers first: nothing else takes as long. Then one that makes the demo that others copy, and
    meanwhile those that need none.
    """
    first = "tests/cli/test_cli.py"

    def place(item: pytest.Item) -> int:
        path = item.nodeid.split("::")[0]
        return 0 if path in _files(_SERVERS) else 1 if path == first else 3 if path in _files(_DEMO) else 2

    items.sort(key=place)


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> Together:
    return Together(config, log)
