"""What happens to one inquiry, as it happens."""

from __future__ import annotations

from harquel.service.operations import Call, Nothing, operation

from ..finding import INQUIRY
from ..models import StoredInquiry


@operation("inquiry.listen", takes=Nothing, about=INQUIRY, rule="as long as the token counts")
def listen(call: Call[Nothing, StoredInquiry]) -> str:
    """Admits a listener to the stream; what goes through it then is told beside Django (inquiries/stream.py)."""
    return str(call.about.key)
