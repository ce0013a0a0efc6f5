"""The connection check on real servers: each thing that can be wrong has words of its own."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator
from pathlib import Path

import pytest

from harquel.core.domain.policy import Exposure, Policy
from harquel.core.engines import CheckStep, Engine, ServerAddress, engine_at
from harquel.core.errors import SourceError
from harquel.demo.servers import ADMIN_PASSWORD, Mariadb, Postgresql, Server, free_port
from tests.conftest import servers

pytestmark = servers
AWKWARD = "p@ss/w:rd#ü?%"
POLICY = Policy(expose=Exposure(withhold=("crew.phone",)))
TABLES = (
    "CREATE TABLE quay (id INTEGER PRIMARY KEY, name VARCHAR(40))",
    "CREATE TABLE crew (id INTEGER PRIMARY KEY, name VARCHAR(40), phone VARCHAR(40))",
)


@pytest.fixture(scope="module", params=[Postgresql, Mariadb], ids=["postgresql", "mariadb"])
def server(request: pytest.FixtureRequest, reachable: Path) -> Iterator[Server]:
    """A server with TLS, two tables, an account that may write and one that must use TLS."""
    with request.param(reachable / f"tls-{request.param.__name__}", tls=True) as started:
        started.run("CREATE DATABASE harbour")
        started.run(*TABLES, database="harbour")
        if isinstance(started, Postgresql):
            hba = started.folder / "data" / "pg_hba.conf"
            hba.write_text("hostnossl all guarded 127.0.0.1/32 reject\n" + hba.read_text())
            started.run(f"CREATE ROLE writer LOGIN PASSWORD '{AWKWARD}'", "CREATE ROLE guarded LOGIN PASSWORD 'sesame'")
            started.run("GRANT SELECT, INSERT ON quay TO writer", "SELECT pg_reload_conf()", database="harbour")
        else:
            started.run(
                f"CREATE USER writer IDENTIFIED BY '{AWKWARD}'", "GRANT SELECT, INSERT ON harbour.* TO writer",
                "CREATE USER guarded IDENTIFIED BY 'sesame' REQUIRE SSL", "GRANT SELECT ON harbour.* TO guarded",
            )  # fmt: skip
        yield started


def address(server: Server, **changes: object) -> ServerAddress:
    kind = "postgresql" if isinstance(server, Postgresql) else "mariadb"
    usual = ServerAddress(kind, "127.0.0.1", server.port, "harbour", "writer", AWKWARD)
    return dataclasses.replace(usual, **changes)  # type: ignore[arg-type]


def check(at: ServerAddress, policy: Policy = POLICY) -> list[CheckStep]:
    engine = engine_at(at)
    try:
        return list(engine.check(policy))
    finally:
        engine.close()


def fault(steps: list[CheckStep]) -> CheckStep:
    """The step that failed; it is the last one and says what to do."""
    assert [s.verdict for s in steps[:-1]].count("failed") == 0
    assert steps[-1].verdict == "failed", steps
    assert steps[-1].remedy
    return steps[-1]


def test_six_things_that_can_be_wrong_have_six_messages(server: Server) -> None:
    other = free_port()
    wrong = {
        "unknown-host": address(server, host="no-such-host.example"),
        "port-closed": address(server, port=other),
        "wrong-password": address(server, password="another"),
        "wrong-database": address(server, database="haven", user="admin", password=ADMIN_PASSWORD),
        "tls-required": address(server, user="guarded", password="sesame", tls="off"),
    }
    said = {name: fault(check(at)) for name, at in wrong.items()}
    assert {name: step.fault for name, step in said.items()} == {name: name for name in wrong}
    writing = next(s for s in check(address(server)) if s.name == "writing")
    assert (writing.verdict, writing.fault) == ("warning", "can-write")
    assert "quay" in writing.said or "INSERT" in writing.said
    messages = {s.said for s in [*said.values(), writing]}
    assert len(messages) == 6
    assert not any(AWKWARD in m for m in messages)


def test_a_port_where_something_else_listens_is_a_wrong_port(server: Server, model_url: str) -> None:
    port = int(model_url.rsplit(":", 1)[1].split("/")[0])
    step = fault(check(address(server, port=port)))
    assert (step.name, step.fault) == ("TLS", "wrong-port")


def test_a_policy_may_demand_an_account_that_cannot_write(server: Server) -> None:
    demanding = POLICY.model_copy(update={"require_read_only_account": True})
    assert next(s for s in check(address(server), demanding) if s.name == "writing").verdict == "failed"


def test_an_administrator_is_told_apart(server: Server) -> None:
    steps = check(address(server, user="admin", password=ADMIN_PASSWORD))
    assert next(s for s in steps if s.name == "administrator").fault == "superuser"


def test_the_servers_certificate_can_be_checked(server: Server, tmp_path: Path, reachable: Path) -> None:
    steps = check(address(server, tls="verify", ca=str(server.certificate)))
    assert "checked" in next(s for s in steps if s.name == "TLS").said
    assert steps[-1].name == "time limit"
    nonsense = tmp_path / "other.pem"
    with Postgresql(reachable / f"other-{server.user}", tls=True) as other:
        nonsense.write_bytes(other.certificate.read_bytes())
    step = fault(check(address(server, tls="verify", ca=str(nonsense))))
    assert step.name == "login"


@pytest.mark.parametrize("whole_schema", [True, False], ids=["schema", "tables"])
def test_the_script_makes_an_account_with_which_the_check_is_clean(server: Server, whole_schema: bool) -> None:
    admin = engine_at(address(server, user="admin", password=ADMIN_PASSWORD))
    name = f"lookout{int(whole_schema)}"
    try:
        script = admin.account_script(POLICY, name, whole_schema)
    finally:
        admin.close()
    assert ADMIN_PASSWORD not in script
    lines = [line for line in script.splitlines() if not line.startswith("--")]
    statements = " ".join(lines).replace("put-a-password-here", "a-new-one").split(";")
    server.run(*(s for s in statements if s.strip()), database="harbour")
    at = address(server, user=name, password="a-new-one")
    steps = check(at)
    assert {s.name: s.verdict for s in steps if s.verdict != "well"} == {}
    engine = engine_at(at)
    try:
        assert _reads(engine, "crew") == whole_schema
        _make_table(server)
        assert (engine.structure().table("lantern") is not None and _readable(engine, "lantern")) == whole_schema
    finally:
        engine.close()
        server.run("DROP TABLE lantern", database="harbour")


def test_the_script_is_there_before_anybody_can_log_in(server: Server) -> None:
    stranger = engine_at(address(server, user="nobody_yet", password="wrong"))
    admin = engine_at(address(server, user="admin", password=ADMIN_PASSWORD))
    name = "early"
    try:
        known = admin.structure()
        exact = stranger.account_script(POLICY, name, False, known)
        script = stranger.account_script(POLICY, name, False)
    finally:
        stranger.close()
        admin.close()
    assert "could not be looked at yet" in script
    assert "crew" in exact
    assert "phone" not in exact
    lines = [line for line in script.splitlines() if not line.startswith("--")]
    statements = " ".join(lines).replace("put-a-password-here", "a-new-one").split(";")
    server.run(*(s for s in statements if s.strip()), database="harbour")
    steps = check(address(server, user=name, password="a-new-one"))
    assert {s.name: s.verdict for s in steps if s.verdict != "well"} == {}


def _reads(engine: Engine, table: str) -> bool:
    """Whether the withheld column of a table is open to the account."""
    found = engine.structure().table(table)
    assert found is not None
    column = found.column("phone")
    return column is not None and column.readable


def _readable(engine: Engine, table: str) -> bool:
    found = engine.structure().table(table)
    return found is not None and found.readable


def _make_table(server: Server) -> None:
    server.run("CREATE TABLE lantern (id INTEGER PRIMARY KEY)", database="harbour")


def test_a_server_that_is_down_is_said_to_be_so(server: Server) -> None:
    """Last: the server stays down until the module ends."""
    engine = engine_at(address(server))
    assert engine.look()
    server.stop()
    step = fault(list(engine.check(POLICY)))
    assert step.fault == "port-closed"
    assert "running" in step.remedy
    with pytest.raises(SourceError, match="does not answer"):
        engine.look()
    server.start()
    assert engine.look()
    engine.close()
