"""`harquel reload`: models, keys, prices, duties and budgets anew, without a restart."""

from __future__ import annotations

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.output import say, tell
from harquel.client import calls


def reload(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Have the service read its configuration and the secrets that it names again; what is under way goes on."""
    with connected(url, token) as client:
        done = client.send(calls.reload())
    said = f"Counts from now on: {', '.join(done.changed)}." if done.changed else "Nothing in it counts otherwise."
    tell(done, said)
    if done.needs_restart and not as_json:
        say(f"Counts after a restart: {', '.join(done.needs_restart)}.", fg="yellow")
