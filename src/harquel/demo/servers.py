"""Real database servers of one's own, in a folder and for as long as a block lasts: for demo, tests, figures."""

from __future__ import annotations

import ctypes
import os
import pwd
import shutil
import signal
import socket
import subprocess
import time
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import Any

ADMIN_PASSWORD = "an-admin-of-the-demo"
_START_S = 60.0


class ServerError(Exception):
    """A server did not come up; the text says why."""


def _search_path() -> str:
    """Debian keeps PostgreSQL's own programs, and servers in general, off the usual path."""
    found = sorted(str(p) for p in Path("/usr/lib/postgresql").glob("*/bin"))
    return os.pathsep.join([os.environ.get("PATH", ""), *reversed(found), "/usr/sbin"])


def free_port() -> int:
    """A loopback port that nobody listens on at this moment."""
    with socket.socket() as sock:
        sock.bind(("127.0.0.1", 0))
        return int(sock.getsockname()[1])


def _as(user: str) -> Callable[[], None]:
    """In a new process: becomes the server's own user, and ends with the process that started it."""
    entry = pwd.getpwnam(user) if os.getuid() == 0 else None

    def prepare() -> None:
        if entry is not None:
            os.setgroups([])
            os.setgid(entry.pw_gid)
            os.setuid(entry.pw_uid)
        ctypes.CDLL(None).prctl(1, signal.SIGTERM)

    return prepare


class Server:
    """A server in `folder`. The administrator is `admin` with ADMIN_PASSWORD; `port` is its own."""

    admin = "admin"
    user = ""
    programs: tuple[str, ...] = ()

    def __init__(self, folder: Path, port: int = 0, tls: bool = False) -> None:
        """With `tls` it has a certificate of its own in `certificate`, made for 127.0.0.1."""
        self.folder, self.port, self.tls = folder, port or free_port(), tls
        self.certificate = folder / "server.pem"
        self.process: subprocess.Popen[bytes] | None = None

    def __enter__(self) -> Any:
        for program in self.programs:
            if shutil.which(program, path=_search_path()) is None:
                raise ServerError(f"{program} is not installed.")
        try:
            self.start()
        except BaseException:
            self.stop()
            raise
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.stop()

    def start(self) -> None:
        """Starts it, making its data first where there are none. Raises ServerError."""
        if not self.folder.exists():
            self.folder.mkdir(parents=True)
            if os.getuid() == 0:
                shutil.chown(self.folder, self.user)
            self._open_the_way()
            if self.tls:
                self._certify()
            self._make()
        self._run()
        deadline = time.monotonic() + _START_S
        while time.monotonic() < deadline:
            assert self.process is not None
            if self.process.poll() is not None:
                raise ServerError(f"{self.programs[0]} ended: {self._log()}")
            try:
                self._greet()
                return
            except Exception:  # whatever the driver raises while the server is not there yet
                time.sleep(0.1)
        raise ServerError(f"{self.programs[0]} did not answer within {_START_S:.0f} s: {self._log()}")

    def stop(self) -> None:
        """Ends it; its data stay."""
        if self.process is not None and self.process.poll() is None:
            self.process.send_signal(signal.SIGINT if self.user == "postgres" else signal.SIGTERM)
            try:
                self.process.wait(timeout=20)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()
        self.process = None

    def url(self, database: str, user: str = "", password: str = "") -> str:
        """Where a source finds a database of it."""
        raise NotImplementedError

    def run(self, *statements: str, database: str = "") -> list[tuple[Any, ...]]:
        """Runs statements as administrator, each committed; returns the rows of the last one."""
        raise NotImplementedError

    def _environment(self) -> dict[str, str]:
        """A place for temporary files of its own: MariaDB, when it starts, removes those of others beside it."""
        scratch = self.folder / "tmp"
        if not scratch.exists():
            scratch.mkdir()
            if os.getuid() == 0:
                shutil.chown(scratch, self.user)
        return {**os.environ, "PATH": _search_path(), "TMPDIR": str(scratch)}

    def _open_the_way(self) -> None:
        """The server's user must be able to reach the folder: temporary folders are often for one's own eyes."""
        if os.getuid() == 0:
            for parent in self.folder.resolve().parents:
                mode = parent.stat().st_mode
                if not mode & 0o001:
                    parent.chmod(mode | 0o011)

    def _certify(self) -> None:
        """A certificate that vouches for itself."""
        import datetime as dt
        import ipaddress

        from cryptography import x509
        from cryptography.hazmat.primitives import hashes, serialization
        from cryptography.hazmat.primitives.asymmetric import ec
        from cryptography.x509.oid import NameOID

        key = ec.generate_private_key(ec.SECP256R1())
        name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "demo server")])
        now = dt.datetime.now(dt.UTC)
        made = (
            x509.CertificateBuilder()
            .subject_name(name).issuer_name(name).public_key(key.public_key())
            .serial_number(x509.random_serial_number())
            .not_valid_before(now - dt.timedelta(days=1)).not_valid_after(now + dt.timedelta(days=365))
            .add_extension(x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address("127.0.0.1"))]), False)
            .add_extension(x509.BasicConstraints(ca=True, path_length=0), True)
            .sign(key, hashes.SHA256())
        )  # fmt: skip
        self.certificate.write_bytes(made.public_bytes(serialization.Encoding.PEM))
        secret = self.folder / "server.key"
        secret.write_bytes(
            key.private_bytes(
                serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
            )
        )
        secret.chmod(0o600)
        if os.getuid() == 0:
            shutil.chown(secret, self.user)

    def _make(self) -> None:
        raise NotImplementedError

    def _run(self) -> None:
        raise NotImplementedError

    def _greet(self) -> None:
        raise NotImplementedError

    def _start(self, command: list[str]) -> None:
        log = (self.folder / "server.log").open("ab")
        self.process = subprocess.Popen(
            command,
            stdout=log,
            stderr=log,
            preexec_fn=_as(self.user),
            cwd="/",
            start_new_session=True,
            env=self._environment(),
        )
        log.close()

    def _call(self, command: list[str]) -> None:
        done = subprocess.run(
            command,
            capture_output=True,
            preexec_fn=_as(self.user),
            cwd="/",
            check=False,
            env=self._environment(),
        )
        if done.returncode:
            raise ServerError(f"{command[0]} failed: {done.stderr.decode(errors='replace').strip()[-500:]}")

    def _log(self) -> str:
        return (self.folder / "server.log").read_text(errors="replace").strip()[-400:]


class Postgresql(Server):
    """PostgreSQL, without syncing to disk: fast and good for nothing but trying out."""

    user, programs = "postgres", ("postgres", "initdb")

    def _make(self) -> None:
        words = self.folder / "admin-password"
        words.write_text(ADMIN_PASSWORD)
        if os.getuid() == 0:
            shutil.chown(words, self.user)
        self._call(
            ["initdb", "-D", str(self.folder / "data"), "-U", self.admin, "-A", "scram-sha-256", "-E", "UTF8",
             "--no-locale", "--no-sync", f"--pwfile={words}"]
        )  # fmt: skip

    def _run(self) -> None:
        options = ["listen_addresses=127.0.0.1", f"port={self.port}", "unix_socket_directories=", "fsync=off",
                   "synchronous_commit=off", "full_page_writes=off", "shared_buffers=64MB"]  # fmt: skip
        if self.tls:
            options += ["ssl=on", f"ssl_cert_file={self.certificate}", f"ssl_key_file={self.folder / 'server.key'}"]
        self._start(["postgres", "-D", str(self.folder / "data"), *(a for o in options for a in ("-c", o))])

    def _greet(self) -> None:
        self.run("SELECT 1")

    def connect(self, database: str = "postgres") -> Any:
        """A driver's connection as administrator."""
        import psycopg

        return psycopg.connect(
            host="127.0.0.1", port=self.port, user=self.admin, password=ADMIN_PASSWORD, dbname=database,
            autocommit=True, connect_timeout=5,
        )  # fmt: skip

    def run(self, *statements: str, database: str = "postgres") -> list[tuple[Any, ...]]:
        """See Server."""
        with self.connect(database) as connection:
            rows: list[tuple[Any, ...]] = []
            for statement in statements:
                cursor = connection.execute(statement)
                rows = cursor.fetchall() if cursor.description else []
            return rows

    def url(self, database: str, user: str = "", password: str = "") -> str:
        """See Server."""
        return f"postgresql://{user or self.admin}:{password or ADMIN_PASSWORD}@127.0.0.1:{self.port}/{database}"


class Mariadb(Server):
    """MariaDB, without syncing to disk."""

    user, programs = "mysql", ("mariadbd", "mariadb-install-db")

    def _make(self) -> None:
        self._call(
            ["mariadb-install-db", "--no-defaults", f"--datadir={self.folder / 'data'}", "--skip-test-db",
             "--auth-root-authentication-method=normal", "--skip-name-resolve"]
        )  # fmt: skip
        first = self.folder / "first.sql"
        first.write_text(
            f"CREATE USER '{self.admin}'@'%' IDENTIFIED BY '{ADMIN_PASSWORD}';\n"
            f"GRANT ALL ON *.* TO '{self.admin}'@'%' WITH GRANT OPTION;\nDROP USER IF EXISTS ''@'localhost';\n"
        )
        if os.getuid() == 0:
            shutil.chown(first, self.user)

    def _run(self) -> None:
        first = self.folder / "first.sql"
        tls = [f"--ssl-cert={self.certificate}", f"--ssl-key={self.folder / 'server.key'}"] if self.tls else []
        self._start(
            ["mariadbd", "--no-defaults", f"--datadir={self.folder / 'data'}", f"--port={self.port}",
             "--bind-address=127.0.0.1", f"--socket={self.folder / 'socket'}", "--skip-name-resolve",
             "--innodb-flush-log-at-trx-commit=0", "--innodb-buffer-pool-size=64M", "--skip-log-bin",
             f"--pid-file={self.folder / 'pid'}", *tls,
             *([f"--init-file={first}"] if first.exists() else [])]
        )  # fmt: skip

    def _greet(self) -> None:
        self.run("SELECT 1")
        (self.folder / "first.sql").unlink(missing_ok=True)

    def connect(self, database: str | None = None, takes_files: bool = False) -> Any:
        """A driver's connection as administrator."""
        import pymysql

        return pymysql.connect(
            host="127.0.0.1", port=self.port, user=self.admin, password=ADMIN_PASSWORD, database=database,
            charset="utf8mb4", autocommit=True, connect_timeout=5, ssl_disabled=True,
            local_infile=takes_files,
        )  # fmt: skip

    def run(self, *statements: str, database: str = "") -> list[tuple[Any, ...]]:
        """See Server."""
        with self.connect(database or None) as connection, connection.cursor() as cursor:
            rows: list[tuple[Any, ...]] = []
            for statement in statements:
                cursor.execute(statement)
                rows = list(cursor.fetchall()) if cursor.description else []
            return rows

    def url(self, database: str, user: str = "", password: str = "") -> str:
        """See Server."""
        return f"mariadb://{user or self.admin}:{password or ADMIN_PASSWORD}@127.0.0.1:{self.port}/{database}"
