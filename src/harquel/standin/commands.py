"""Commands of the simulated outside world."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal

import typer
from starlette.types import ASGIApp

standin = typer.Typer(
    no_args_is_help=True, add_completion=False, help="Run simulated outside services for demos and tests."
)


@standin.command()
def model(
    bind: Annotated[str, typer.Option(help="Host and port.")] = "127.0.0.1:8711",
    key: Annotated[str | None, typer.Option(help="The key that it asks for.")] = None,
    pace: Annotated[float, typer.Option(min=0, max=60, help="Seconds that a reply takes.")] = 0.0,
) -> None:
    """Serve a simulated language model that speaks chat-completions, messages and generate-content.

    Model names choose its temper: careful, careless-RATE, stubborn, flaky; trouble-KIND, with or without -once, what
    goes wrong.
    """
    from harquel.standin.server import build

    _must_be_address(bind, "--bind")
    typer.echo(f"Simulated model on http://{bind}/v1 (careful, careless-RATE, stubborn, flaky, trouble-KIND)")
    _serve(build(pace, key), bind)


@standin.command()
def mail(
    bind: Annotated[str, typer.Option(help="Host and port of the page on which letters are read.")] = "127.0.0.1:8713",
    smtp: Annotated[str, typer.Option(help="Host and port at which letters are taken.")] = "127.0.0.1:8714",
) -> None:
    """Serve a simulated mail server: it takes every letter, sends none on, and shows them in the browser.

    Addresses that begin with nobody, full or slow are refused, refused for now, or keep one waiting.
    """
    from harquel.standin.mail.pages import build

    _must_be_address(bind, "--bind")
    _must_be_address(smtp, "--smtp")
    typer.echo(f"Simulated mail: SMTP on {smtp}, letters on http://{bind}/")
    _serve(build(smtp), bind)


@standin.command()
def chat(
    service: Annotated[str, typer.Option(help="Where what is said goes: …/api/v1/chats/NAME/messages of a service.")],
    secret: Annotated[Path, typer.Option(help="File with the secret that signs both ways (whsec_…).")],
    bind: Annotated[str, typer.Option(help="Host and port of the page; replies come to /hooks/harquel there.")] = (
        "127.0.0.1:8712"
    ),
    form: Annotated[Literal["plain", "buttons"], typer.Option(help="How messages are written.")] = "plain",
) -> None:
    """Serve a simulated chat: four people, two channels, threads, and Harquel to be written to."""
    from harquel.standin.chat.server import build

    _must_be_address(bind, "--bind")
    try:
        text = secret.read_text().strip()
    except OSError as error:
        raise typer.BadParameter(f"it cannot be read: {error.strerror}", param_hint="--secret") from error
    typer.echo(f"Simulated chat on http://{bind}/")
    _serve(build(service, text, form), bind)


def _must_be_address(text: str, option: str) -> None:
    host, _, port = text.rpartition(":")
    if not host or not port.isdigit():
        raise typer.BadParameter("write HOST:PORT, as in 127.0.0.1:8711", param_hint=option)


def _serve(application: ASGIApp, bind: str) -> None:
    import uvicorn

    host, _, port = bind.rpartition(":")
    uvicorn.run(application, host=host, port=int(port), log_level="warning")
