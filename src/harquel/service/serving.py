"""Starts the service and stays: configuration, lock, records, recovery, sources, then HTTP."""

from __future__ import annotations

import gc
import os
import resource
import signal
import socket
import threading
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Final

import structlog

from harquel.contract import events
from harquel.core.errors import ConfigurationError, CoreError
from harquel.service.conductors.pool import Conductors, Limits
from harquel.service.config import HarquelConfig, load_config
from harquel.service.records.ownership import Ownership, bring_up_to_date

log = structlog.get_logger("harquel")
_ENOUGH: Final = 8192
"""Descriptors that are used at most."""


def prepare_django(config: HarquelConfig) -> None:
    """Points Django at the data directory and loads it. Once a process."""
    import django

    host = config.service.bind.rpartition(":")[0]
    os.environ["HARQUEL_DATA_DIR"] = str(config.data_dir)
    os.environ["HARQUEL_BEHIND_TLS"] = "yes" if config.service.behind_tls else ""
    os.environ["HARQUEL_HOSTS"] = " ".join([host, *config.service.hosts])
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "harquel.service.settings")
    django.setup()


def listen(bind: str) -> socket.socket:
    """An open listening socket. Raises ConfigurationError when the address is taken or not ours."""
    host, _, port = bind.rpartition(":")
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    # Named, or the event loop would not know that there is a Nagle to switch off.
    sock = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        sock.bind((host.strip("[]"), int(port)))
        sock.listen(256)
    except (OSError, OverflowError) as error:
        sock.close()
        raise ConfigurationError(
            f"The address {bind} cannot be used: {getattr(error, 'strerror', None) or error}.",
            "Stop what runs there, or set service.bind to another port.",
        ) from error
    return sock


def descriptors() -> int:
    """How many this process may have open: as many as the system lets it raise them to."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = min(hard if hard != resource.RLIM_INFINITY else _ENOUGH, _ENOUGH)
    if soft == resource.RLIM_INFINITY or soft >= wanted:
        return wanted
    resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))
    return wanted


def serve(
    config_path: Path, say: Callable[[str], None], ready: Callable[[], None] | None = None,
    prepare: str = "",
) -> None:  # fmt: skip
    """Runs until interrupted. `ready` is called once requests are taken. Raises ConfigurationError.

    `prepare` (module:function) is called in each conductor before its first job; only tests use it.
    """
    config = load_config(config_path)
    # Nothing that it writes is for anybody else on this machine.
    os.umask(0o077)
    conductors = Conductors(
        config.service.conductors or os.cpu_count() or 1,
        Limits(config.service.computing_s, config.service.computing_mb * 1024**2), prepare,
    )  # fmt: skip
    # While the rest is being loaded here, what they need is loaded there.
    conductors.begin()
    try:
        _serve_with(config, conductors, say, ready)
    finally:
        conductors.close()


def _reload() -> None:
    """On a signal; what came of it is in the log."""
    from harquel.service import runtime
    from harquel.service.reload import reload

    try:
        done = reload(runtime.runtime(), "signal")
    except CoreError as error:
        log.warning("the configuration was not read again: nothing has changed", why=str(error), hint=error.hint)
    else:
        log.info("the configuration was read again", changed=done.changed, needs_restart=done.needs_restart)


def _serve_with(
    config: HarquelConfig, conductors: Conductors, say: Callable[[str], None], ready: Callable[[], None] | None
) -> None:
    import uvicorn

    from harquel.service import logs

    ownership = Ownership(config.data_dir)
    try:
        sock = listen(config.service.bind)
        logs.configure()
        prepare_django(config)
        from django.conf import settings

        bring_up_to_date(Path(settings.DATABASES["default"]["NAME"]))
        from harquel.service import runtime
        from harquel.service.asgi import build_application
        from harquel.service.chat.talk import see_to
        from harquel.service.inquiries.recovery import close_interrupted
        from harquel.service.ledger import sealing
        from harquel.service.ledger.append import append
        from harquel.service.patience import PatientProtocol
        from harquel.service.sources.catalogs import close_interrupted_scans
        from harquel.service.watches.run import carry_out

        sealing.begin(sealing.of(config))
        live = runtime.start(config, conductors)
        try:
            closed = live.writer.do(close_interrupted)
            live.writer.do(close_interrupted_scans)
            if closed:
                say(f"Closed {closed} inquiries that an earlier stop had interrupted.")
            started = events.ServiceStarted(interrupted=closed, sealed_with=sealing.in_use())
            live.writer.do(lambda: append(who="service", what=started))
            port = sock.getsockname()[1]
            host = config.service.bind.rpartition(":")[0]
            say(f"Harquel answers on http://{host}:{port} · sources: {', '.join(live.sources) or 'none'}")
            options = uvicorn.Config(
                build_application(),
                log_level="warning",
                timeout_graceful_shutdown=3,
                lifespan="on",
                server_header=False,
                http=PatientProtocol,
                # Beyond it the answer is 503: descriptors for records and workers must be left.
                limit_concurrency=max(100, (descriptors() - 200) // 4),
            )
            server = uvicorn.Server(options)
            live.upkeep.start()
            live.outbox.start()
            live.inbox.start(see_to)
            live.clock.start(carry_out)
            # What is there now stays to the end: it need not be looked through again and again.
            gc.freeze()
            if ready is not None:
                ready()
            # uvicorn shuts down on a signal and then raises it again: it must not end us before the rest.
            signal.signal(signal.SIGTERM, signal.default_int_handler)
            signal.signal(signal.SIGHUP, lambda *_: threading.Thread(target=_reload, name="reload").start())
            with suppress(KeyboardInterrupt):
                server.run(sockets=[sock])
            live.writer.do(lambda: append(who="service", what=events.ServiceStopped()))
        finally:
            live.close()
    finally:
        ownership.release()
