"""Streams the way of a question to a page: a small server of one's own, whose token stays with it.

HARQUEL_URL, HARQUEL_TOKEN, where there are several HARQUEL_SOURCE; python stream_to_page.py [PORT], then open
http://127.0.0.1:8720/ and ask.
"""

from __future__ import annotations

import json
import os
import sys
from collections.abc import AsyncIterator

import uvicorn
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, StreamingResponse
from starlette.routing import Route

from harquel.client import AsyncHarquel, HarquelError

SAID = {"accepted": "Preparing …", "briefed": "Asking the model …", "ruled": "Checking the query …", "ran": "Wording …"}
PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Ask</title></head>
<body>
<form><label>Question <input name="q" size="60" required></label> <button>Ask</button></form>
<p id="stage" role="status"></p><h1 id="answer"></h1><p id="mark"></p>
<script>
document.forms[0].onsubmit = (event) => {
  event.preventDefault()
  const show = (id, text) => { document.getElementById(id).textContent = text }
  show('answer', ''); show('mark', '')
  const stream = new EventSource('/ask?' + new URLSearchParams(new FormData(event.target)))
  stream.onmessage = ({ data }) => {
    const told = JSON.parse(data)
    show('stage', told.stage ?? '')
    if (!('answer' in told)) return
    stream.close()
    show('answer', told.answer); show('mark', told.mark)
  }
  stream.onerror = () => { stream.close(); show('stage', 'The connection broke off. Ask it again.') }
}
</script></body></html>"""


def event(**told: str) -> str:
    """One event of the stream."""
    return f"data: {json.dumps(told)}\n\n"


async def events(question: str) -> AsyncIterator[str]:
    """Stages as they come, and the answer with its mark at the end."""
    try:
        async with AsyncHarquel(os.environ["HARQUEL_URL"], os.environ["HARQUEL_TOKEN"]) as client:
            begun = await client.ask(question, os.environ.get("HARQUEL_SOURCE"), wait_s=0)
            async for happened in client.events(begun.id):
                if happened.kind in SAID:
                    yield event(stage=SAID[happened.kind])
            found = await client.inquiry(begun.id)
    except HarquelError as error:
        yield event(answer=str(error), mark=error.hint)
        return
    if found.answer is not None:
        doubts = "; ".join(caveat.message for caveat in found.answer.caveats)
        yield event(answer=found.answer.text, mark=f"{found.trust}{': ' if doubts else ''}{doubts}")
    elif found.clarify is not None:
        yield event(answer=found.clarify.question, mark=" / ".join(choice.label for choice in found.clarify.choices))
    else:
        yield event(answer=found.problem.title if found.problem else "It is held.", mark="no answer")


async def page(_: Request) -> HTMLResponse:
    """The page."""
    return HTMLResponse(PAGE)


async def asked(request: Request) -> StreamingResponse:
    """The stream of one question."""
    return StreamingResponse(events(request.query_params.get("q", "")[:4000]), media_type="text/event-stream")


if __name__ == "__main__":
    port = int(sys.argv[1]) if len(sys.argv) > 1 else 8720
    uvicorn.run(Starlette(routes=[Route("/", page), Route("/ask", asked)]), port=port, log_level="warning")
