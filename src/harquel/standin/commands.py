"""Commands of the simulated outside world."""

from __future__ import annotations

from typing import Annotated

import typer

standin = typer.Typer(
    no_args_is_help=True, add_completion=False, help="Run simulated outside services for demos and tests."
)


@standin.callback()
def _group() -> None:
    """Keeps `model` a command of its own while it is the only one."""


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
    import uvicorn

    from harquel.standin.server import build

    host, _, port = bind.rpartition(":")
    if not port.isdigit():
        raise typer.BadParameter("write HOST:PORT, as in 127.0.0.1:8711", param_hint="--bind")
    typer.echo(f"Simulated model on http://{bind}/v1 (careful, careless-RATE, stubborn, flaky, trouble-KIND)")
    uvicorn.run(build(pace, key), host=host or "127.0.0.1", port=int(port), log_level="warning")
