"""Shows an answer to somebody who was given a link to it."""

from __future__ import annotations

from typing import Final

from harquel.contract import ShownAnswer, ShownPicture
from harquel.core.answers.exports import File
from harquel.service.access.caller import Caller
from harquel.service.errors import not_found
from harquel.service.operations import Call, Nothing, Subject, operation

from ..models import StoredInquiry
from ..pictures import picture_of
from ..shapes import inquiry_of
from ..shown import may_see, shown


def _find(key: str, caller: Caller) -> StoredInquiry:
    found = StoredInquiry.objects.select_related("person", "result").filter(key=key).first()
    if found is None or not caller.sees(found.source):
        raise not_found("problem-unknown-inquiry", key)
    return found


_ANYBODYS: Final = Subject("inquiry of one's sources", "key", _find, "those of the sources of one's token, by their id")


@operation(
    "inquiry.show", takes=Nothing, about=_ANYBODYS, gives=ShownAnswer,
    rule="the question; the answer where it is one's own, or asked by oneself it would be of the same statement",
)  # fmt: skip
def show(call: Call[Nothing, StoredInquiry]) -> ShownAnswer:
    """The answer of an inquiry that a link leads to: shown to whoever may see as much, and otherwise the question, to
    ask it oneself.
    """
    return shown(call.about, call.caller, inquiry_of(call.about).language)


@operation(
    "inquiry.show-picture", takes=ShownPicture, about=_ANYBODYS, rule="as inquiry.show: where the answer is shown"
)
def show_picture(call: Call[ShownPicture, StoredInquiry]) -> File:
    """What is drawn of an answer that a link leads to, as SVG."""
    if not may_see(call.about, call.caller):
        raise not_found("problem-unknown-inquiry", call.about.key)
    return picture_of(inquiry_of(call.about), call.asked, call.about.key)
