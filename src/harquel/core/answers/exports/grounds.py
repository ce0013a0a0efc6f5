"""What goes along with the rows: what was asked, of what, when, how it was worked out, and what is doubtful."""

from __future__ import annotations

from collections.abc import Iterator

from harquel.contract import Answer, Inquiry


def grounds(inquiry: Inquiry, answer: Answer) -> Iterator[tuple[str, str]]:
    """Each with what it is called, in the order in which they are read."""
    yield "Question", inquiry.standalone_question or inquiry.question
    yield "Answer", answer.text
    if answer.worded is not None and answer.worded.plain != answer.text:
        yield "Worded by", f"{answer.worded.model}; every figure was found in the rows"
    if answer.remark:
        yield "Remark", answer.remark
    mark = f"{inquiry.trust}; came out the same in two ways" if in_two_ways(inquiry) else str(inquiry.trust)
    yield "Trust", mark
    for caveat in answer.caveats:
        yield "Caveat", caveat.message
    yield "Source", inquiry.source
    if inquiry.as_of is not None:
        yield "As of", f"{inquiry.as_of:%Y-%m-%d %H:%M} UTC"
    if answer.fresh is not None:
        yield "Data", answer.fresh.said
    yield "Asked by", f"{inquiry.asked_by}, {inquiry.asked_at:%Y-%m-%d %H:%M} UTC"
    for line in answer.lines:
        yield line.label, line.text
    if not answer.lines and answer.read_back:
        yield "What the query does", answer.read_back
    for measure in answer.measures:
        yield f"Agreed measure {measure.name}, version {measure.version}", measure.text or measure.name
    if answer.table.cut_by is not None:
        yield "Not whole", f"The result was cut after {answer.table.row_count:,} rows."
    yield "SQL", answer.sql
    yield "Inquiry", inquiry.id


def in_two_ways(inquiry: Inquiry) -> bool:
    """Whether another way gave the same rows."""
    return bool(inquiry.second_opinion is not None and inquiry.second_opinion.agrees)
