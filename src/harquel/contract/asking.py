"""A question as it is asked."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from pydantic import Field, field_validator

from .base import Input

QUESTION_LIMIT = 4000
"""Longest question, in code points."""


class InquiryRequest(Input):
    """Body of POST /inquiries. `wait_s` is in seconds; `as_of` overrides the source's "now".

    `choice` is the id of a reading that the inquiry in `follows` asked back about; then the question may be left out.
    `silence` names findings of review that are not to count this once; a caveat says so.
    """

    question: str = Field(default="", max_length=QUESTION_LIMIT)
    """The question, in the asker's words."""
    source: str | None = None
    """The source to ask; may be left out where the token has only one."""
    follows: str | None = None
    """The id of the inquiry that this one follows: without a `choice`, what is said is understood together with it."""
    complete: bool = False
    """Whether the question is whole as it is, although it follows an inquiry: nothing of that is added to it."""
    choice: str | None = None
    """The id of a reading that the inquiry in `follows` asked back about, or offers instead; `again`: the statement of
    its answer is run once more, and what it gives is held against what it gave then; `whole`: all that it gives is
    written to a file, as far as the source's policy lets it; `anew`: its question is asked anew about this moment,
    understood as it was, with times like "last month" moved along; `redraft`: it is drafted again, by another model or
    other templates, and both are laid side by side; with the scope steward.
    """
    model: str | None = Field(default=None, max_length=80)
    """With the choice `redraft`: the model that drafts, as it is named in the configuration; null: the usual one."""
    templates: Literal["own", "shipped"] = "own"
    """With the choice `redraft`: whether by the source's own templates or by those that ship."""
    as_of: dt.datetime | None = None
    """The instant that the question is about, instead of the source's own."""
    silence: list[str] = Field(default=[], max_length=20)
    """Names of findings that are not to count this once."""
    language: Literal["en", "de"] | None = None
    """The language to answer in where the question speaks for none; null: English."""
    wait_s: float = Field(default=0, ge=0, le=120)
    """How long to wait for the end before the reply comes, in seconds."""

    @field_validator("as_of")
    @classmethod
    def _reckonable(cls, at: dt.datetime | None) -> dt.datetime | None:
        """Periods reach back and forth from it: near the ends of all time there is nothing to reckon with."""
        if at is not None and not 1000 <= at.year <= 8999:
            raise ValueError("as_of lies between the years 1000 and 8999")
        return at
