"""The letters in the browser: a list, and one to be read, whose own page is shut off from everything."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from html import escape
from string import Template
from typing import Final

from aiosmtpd.smtp import SMTP
from starlette.applications import Starlette
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, Response
from starlette.routing import Route

from .kept import LARGEST, Box, Letter

_STYLE: Final = """
:root { color-scheme: light dark; --ink: #222a33; --faint: #5d6873; --line: #d5dae0; --page: #eef1f4; --sheet: #fff;
  --on: #3d5a80 }
@media (prefers-color-scheme: dark) { :root { --ink: #e8ecf0; --faint: #a2adb8; --line: #343d47; --page: #14181d;
  --sheet: #1c2229; --on: #9dbbe0 } }
* { box-sizing: border-box } body { margin: 0; background: var(--page); color: var(--ink);
  font: 1rem/1.5 system-ui, sans-serif; overflow-wrap: anywhere }
header { padding: .8rem 1.2rem; border-bottom: 1px solid var(--line); background: var(--sheet) } a { color: var(--on) }
main { display: grid; grid-template-columns: minmax(15rem, 22rem) 1fr; min-height: calc(100vh - 3.2rem) }
nav { border-right: 1px solid var(--line) } nav a { display: block; padding: .7rem 1.2rem; color: var(--ink);
  text-decoration: none; border-bottom: 1px solid var(--line) }
nav a[aria-current] { background: var(--sheet); border-left: 3px solid var(--on) } small { color: var(--faint) }
nav small { display: block } article { padding: 1rem 1.4rem; min-width: 0; display: flex; flex-direction: column }
h1 { font-size: 1.15rem; font-weight: 600; margin: 0 0 .4rem } iframe { flex: 1; min-height: 38rem; width: 100%;
  border: 1px solid var(--line); border-radius: .4rem; background: #fff; margin-top: .8rem }
pre { white-space: pre-wrap; background: var(--sheet); border: 1px solid var(--line); border-radius: .4rem;
  padding: 1rem; font-size: .85rem } .none { padding: 2rem 1.2rem; color: var(--faint) } summary { margin-top: 1rem }
@media (max-width: 44rem) { main { grid-template-columns: 1fr } nav { max-height: 14rem; overflow-y: auto;
  border-right: 0; border-bottom: 2px solid var(--line) } article { padding: .8rem } }
"""
_PAGE: Final = Template("""<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Simulated mail</title><style>$style</style></head>
<body><header><b>Simulated mail</b> <small>· whatever is sent here stays on this machine</small></header>
<main><nav aria-label="Letters">$letters</nav><article>$read</article></main></body></html>
""")
_SHUT: Final = {
    "content-security-policy": "default-src 'none'; img-src 'self'; style-src 'unsafe-inline'; sandbox",
    "x-content-type-options": "nosniff",
}


def build(smtp: str) -> Starlette:
    """The application; `smtp` is host and port at which it takes letters."""
    box = Box()
    host, _, port = smtp.rpartition(":")

    @asynccontextmanager
    async def taking(_: Starlette) -> AsyncIterator[None]:
        loop = asyncio.get_running_loop()

        def line() -> SMTP:
            return SMTP(box, data_size_limit=LARGEST, loop=loop, hostname="mail.example", ident="simulated mail")

        server = await loop.create_server(line, host.strip("[]"), int(port))
        yield
        server.close()

    async def pages(request: Request) -> Response:
        chosen = box.numbered(request.path_params.get("number", box.count))
        if chosen is None and "number" in request.path_params:
            raise HTTPException(404, "This letter is not kept any more.")
        letters = "".join(_line(one, one is chosen) for one in box.letters)
        nothing = '<p class="none">No letter yet. It is shown here as soon as one comes.</p>'
        page = _PAGE.substitute(style=_STYLE, letters=letters or nothing, read=_read(chosen) if chosen else "")
        return HTMLResponse(page, headers={"refresh": "5"} if chosen is None else {})

    async def own(request: Request) -> Response:
        chosen = box.numbered(request.path_params["number"])
        if chosen is None:
            raise HTTPException(404)
        page = chosen.html
        for number, (named, *_) in enumerate(chosen.parts()):
            page = page.replace(f'"cid:{named}"', f'"/letters/{chosen.number}/parts/{number}"') if named else page
        return HTMLResponse(page, headers=_SHUT)

    async def part(request: Request) -> Response:
        chosen = box.numbered(request.path_params["number"])
        found = list(chosen.parts()) if chosen is not None else []
        if request.path_params["part"] >= len(found):
            raise HTTPException(404)
        _, name, media_type, content = found[request.path_params["part"]]
        shown = "inline" if media_type == "image/png" else "attachment"
        kind = media_type if media_type.isascii() else "application/octet-stream"
        return Response(
            content, media_type=kind, headers={**_SHUT, "content-disposition": f"{shown}; filename={_plain(name)}"}
        )

    async def told(_: Request) -> Response:
        return JSONResponse([_told(one) for one in box.letters])

    async def healthy(_: Request) -> Response:
        return JSONResponse({"status": "ok"})

    return Starlette(
        lifespan=taking,
        routes=[
            Route("/", pages), Route("/letters/{number:int}", pages), Route("/letters/{number:int}/page", own),
            Route("/letters/{number:int}/parts/{part:int}", part), Route("/letters.json", told),
            Route("/healthz", healthy),
        ],
    )  # fmt: skip


def _line(one: Letter, chosen: bool) -> str:
    here = ' aria-current="page"' if chosen else ""
    to = escape(", ".join(one.to))
    return f'<a href="/letters/{one.number}"{here}>{escape(one.subject)}<small>to {to} · {one.at:%H:%M:%S}</small></a>'


def _read(one: Letter) -> str:
    files = [
        f'<a href="/letters/{one.number}/parts/{number}">{escape(name)}</a> <small>({len(content):,} bytes)</small>'
        for number, (_, name, _, content) in enumerate(one.parts())
    ]  # fmt: skip
    page = f'<iframe title="The letter" sandbox src="/letters/{one.number}/page"></iframe>' if one.html else ""
    return (
        f"<h1>{escape(one.subject)}</h1><small>from {escape(str(one.message['from']))} to {escape(', '.join(one.to))}"
        f"</small>{'<p>' + ' · '.join(files) + '</p>' if files else ''}{page}"
        f"<details{'' if page else ' open'}><summary>Plain text</summary><pre>{escape(one.text)}</pre></details>"
    )


def _told(one: Letter) -> dict[str, object]:
    return {
        "number": one.number, "to": one.to, "from": str(one.message["from"]), "subject": one.subject,
        "headers": {k.lower(): str(v) for k, v in one.message.items()}, "text": one.text, "html": one.html,
        "parts": [
            {"cid": named, "name": name, "type": kind, "bytes": len(content)}
            for named, name, kind, content in one.parts()
        ],
    }  # fmt: skip


def _plain(name: str) -> str:
    return "".join(c if c.isascii() and (c.isalnum() or c in ".-_") else "_" for c in name)[:100]
