"""`harquel demo`: the whole demo world on this machine."""

from __future__ import annotations

import signal
from pathlib import Path
from typing import Annotated

import typer

from harquel.demo.stage import Beside, Stage, StageError, last_words


def demo(
    folder: Annotated[Path, typer.Option(help="Where data, configuration and records go.")] = Path("var/demo"),
    bind: Annotated[str, typer.Option(help="Address of the service.")] = "127.0.0.1:8710",
    model: Annotated[str, typer.Option(help="Address of the simulated model.")] = "127.0.0.1:8711",
    chat: Annotated[str, typer.Option(help="Address of the simulated chat.")] = Beside.chat,
    mail: Annotated[str, typer.Option(help="Address of the page of the simulated mail server.")] = Beside.mail,
    smtp: Annotated[str, typer.Option(help="Address at which it takes letters.")] = Beside.smtp,
    pace: Annotated[float, typer.Option(min=0, max=30, help="Seconds that the model takes to reply.")] = 0.8,
    scale: Annotated[float, typer.Option(min=0.01, max=250, help="Size of a database made now.")] = 1.0,
) -> None:
    """Start the demo: database, service, simulated model, chat and mail. Prints address and sign-in, and stays."""
    try:
        with Stage(folder, bind, model, typer.echo, pace, scale, beside=Beside(chat, mail, smtp)) as stage:
            typer.echo(f"\n  Console   {stage.url}/")
            typer.echo(f"  Sign in   {stage.token}")
            typer.echo(f"  Chat      http://{chat}/")
            typer.echo(f"  Mail      http://{mail}/")
            typer.echo("\n  In another terminal:")
            typer.echo(f"    export HARQUEL_URL={stage.url} HARQUEL_TOKEN={stage.token}")
            typer.echo('    harquel ask --source ferries "How many sailings were cancelled in August 2026?"')
            typer.echo("\n  Ctrl-C ends it.\n")
            _stay(stage)
    except StageError as error:
        typer.secho(str(error), err=True, fg="red")
        raise typer.Exit(2) from error
    except KeyboardInterrupt:
        typer.echo("Ended.")


def _stay(stage: Stage) -> None:
    """Until interrupted, or until one of the processes is gone."""
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, signal.default_int_handler)
    service = stage.processes[-1]
    code = service.wait()
    raise StageError(f"The service ended (code {code}): {last_words(stage.folder, 'serve')}")
