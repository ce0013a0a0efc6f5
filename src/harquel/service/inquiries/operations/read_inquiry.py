"""One inquiry."""

from __future__ import annotations

from harquel.contract import Inquiry
from harquel.service.operations import Call, Nothing, operation

from ..finding import INQUIRY
from ..models import StoredInquiry
from ..shapes import inquiry_shape


@operation("inquiry.read", takes=Nothing, gives=Inquiry, about=INQUIRY)
def read_inquiry(call: Call[Nothing, StoredInquiry]) -> Inquiry:
    """The whole of it."""
    return inquiry_shape(call.about)
