"""What is sent, made for where it goes: an event or a letter; with the answer, or with what is to be said alone."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from harquel.core.answers.exports import exported
from harquel.service.errors import ProblemError
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.pictures import chart_of
from harquel.service.inquiries.shapes import inquiry_of, shape_of
from harquel.service.runtime import runtime

from .letter import LARGEST, Envelope, letter, notice
from .shapes import message


@dataclass(frozen=True)
class Told:
    """A sending: its id, where to, when, by whom; for a watched question what it is called, what there is to say of it
    and when it is asked.
    """

    key: str
    to: str
    at: dt.datetime
    by: str
    title: str = ""
    note: str = ""
    when: str = ""
    watch: str = ""


def made_for(told: Told, stored: StoredInquiry, with_answer: bool, attach: str | None = None) -> bytes:
    """Its bytes. Raises ProblemError where they would be too many, or the chart cannot be drawn now."""
    config, inquiry = runtime().config, inquiry_of(stored)
    shape, link = shape_of(inquiry, stored.thread), f"{config.reached_at}/inquiries/{stored.key}"
    if "@" not in told.to:
        watched = {"id": told.watch, "title": told.title, "said": told.note} if told.watch else None
        return message(told.key, shape, config.reached_at, told.at.isoformat(), watched, with_answer)
    assert config.mail is not None
    about = Envelope(
        told.key, config.mail.sender, told.to, told.by, told.at, link, told.title, told.note, told.when
    )  # fmt: skip
    if not with_answer:
        return notice(about, inquiry.language)
    attached = exported(shape, attach) if attach in ("xlsx", "csv") else None  # type: ignore[arg-type]
    made = letter(about, shape, chart_of(inquiry, "png"), attached)
    if len(made) > LARGEST:
        raise ProblemError(413, "too-large", "problem-letter-too-large")
    return made
