"""A casebook as a file, and the picture of one of its answers."""

from __future__ import annotations

import re
from typing import Final

from harquel.contract import CasebookForm, CasebookPicture
from harquel.core.answers.exports import File
from harquel.core.casebooks import as_page, as_text
from harquel.service.errors import ProblemError
from harquel.service.inquiries.pictures import picture_of
from harquel.service.inquiries.shapes import inquiry_of
from harquel.service.operations import Call, operation

from ..contents import Contents
from ..finding import CASEBOOK, newest, version_of
from ..models import StoredCasebook

LARGEST: Final = 20_000_000
"""Bytes of a file."""


def page_of(contents: Contents) -> bytes:
    """One page of HTML that stands by itself. Raises ProblemError."""
    made = as_page(
        contents.version.title, contents.line(), contents.language, contents.parts(), contents.told()
    )  # fmt: skip
    if len(made) > LARGEST:
        raise ProblemError(413, "too-large", "problem-casebook-too-large")
    return made


def file_name(title: str) -> str:
    """What a file of it is called, without its end."""
    return re.sub(r"[^\w-]+", "-", title).strip("-")[:60] or "casebook"


@operation("casebook.take-away", takes=CasebookForm, about=CASEBOOK)
def take_casebook(call: Call[CasebookForm, StoredCasebook]) -> File:
    """The casebook as it is for whoever takes it, as one page of HTML that needs nothing else and prints well, or as
    Markdown.
    """
    contents = Contents(call.about, newest(call.about), call.caller)
    name = file_name(contents.version.title)
    if call.asked.form == "html":
        return File(f"{name}.html", "text/html; charset=utf-8", page_of(contents))
    text = as_text(
        contents.version.title, contents.line(), contents.language, contents.parts(), contents.fill
    )  # fmt: skip
    return File(f"{name}.md", "text/markdown; charset=utf-8", text)


@operation("casebook.picture", takes=CasebookPicture, about=CASEBOOK)
def casebook_picture(call: Call[CasebookPicture, StoredCasebook]) -> File:
    """What is drawn of one of its answers, as SVG."""
    version = newest(call.about)
    if call.asked.version and call.about.person_id == call.caller.person:
        version = version_of(call.about, int(call.asked.version))
    contents = Contents(call.about, version, call.caller, only=call.at["name"])
    held = contents.answer(call.at["name"])
    if held is None or held.stored is None:
        raise ProblemError(404, "no-such-answer", "problem-casebook-no-answer", name=call.at["name"])
    return picture_of(inquiry_of(held.stored), call.asked, held.name)
