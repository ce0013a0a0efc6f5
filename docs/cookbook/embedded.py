"""Asking within a page of one's own: a frame, and a back end that hands it a token for a quarter of an hour.

HARQUEL_URL, HARQUEL_TOKEN (its token stays here); python embedded.py [PORT]. The service names the page's origin under
[embedding]. Who signs in here is up to you: the name that is handed on keeps their questions apart.
"""

from __future__ import annotations

import json
import os
import sys
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from harquel.client import Harquel, HarquelError
from harquel.client.calls import begin_visit
from harquel.contract import Visit

PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Harbour desk</title></head>
<body><h1>Harbour desk</h1>
<iframe id="ask" title="Ask about the data" width="100%" height="320" style="border: 0"></iframe>
<script>
const frame = document.getElementById('ask')
const visit = async () => (await fetch('/visit', { method: 'POST' })).json()
const at = new URL('SERVICE').origin
visit().then(({ page, token }) => { frame.src = page + '#' + new URLSearchParams({ token, source: 'SOURCE' }) })
addEventListener('message', async (event) => {
  // From the frame and from nobody else; what it sends is a wish or a number.
  if (event.source !== frame.contentWindow || event.origin !== at) return
  if (event.data['harquel-height']) frame.height = Math.min(2000, event.data['harquel-height'])
  if (event.data['harquel-wants'] !== 'token') return
  frame.contentWindow.postMessage({ 'harquel-token': (await visit()).token }, at)
})
</script></body></html>"""


def visit(client: Harquel, visitor: str, source: str) -> Visit:
    """For whoever is signed in here."""
    return client.send(begin_visit(visitor, [source], minutes=15))


class Desk(BaseHTTPRequestHandler):
    """Two addresses: the page, and a token for it."""

    source = "ferries"

    def do_GET(self) -> None:
        """The page."""
        page = PAGE.replace("SERVICE", os.environ["HARQUEL_URL"]).replace("SOURCE", self.source)
        self._send(200, "text/html; charset=utf-8", page.encode())

    def do_POST(self) -> None:
        """A visit, for the page of this origin only."""
        if self.path != "/visit" or self.headers.get("Sec-Fetch-Site", "same-origin") != "same-origin":
            self._send(403, "application/json", b"{}")
            return
        try:
            with Harquel(os.environ["HARQUEL_URL"], os.environ["HARQUEL_TOKEN"]) as client:
                made = visit(client, "desk 3", self.source)
        except HarquelError as error:
            self._send(502, "application/json", json.dumps({"title": str(error)}).encode())
            return
        self._send(200, "application/json", json.dumps({"page": made.page, "token": made.token}).encode())

    def _send(self, status: int, kind: str, body: bytes) -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.send_header("Cache-Control", "no-store")
        self.end_headers()
        self.wfile.write(body)


if __name__ == "__main__":
    port = int(sys.argv[1]) if len(sys.argv) > 1 else 8721
    ThreadingHTTPServer(("127.0.0.1", port), Desk).serve_forever()
