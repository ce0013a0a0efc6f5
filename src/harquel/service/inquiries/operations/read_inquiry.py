"""One inquiry."""

from __future__ import annotations

from harquel.contract import Delivering, Inquiry
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..finding import INQUIRY
from ..models import StoredInquiry
from ..shapes import inquiry_shape


@operation("inquiry.read", takes=Nothing, gives=Inquiry, about=INQUIRY)
def read_inquiry(call: Call[Nothing, StoredInquiry]) -> Inquiry:
    """The whole of it."""
    shape, so_far = inquiry_shape(call.about), runtime().deliveries.so_far(call.about.key)
    if so_far is not None:
        shape.delivering = Delivering(rows=so_far[0], bytes=so_far[1])
    return shape
