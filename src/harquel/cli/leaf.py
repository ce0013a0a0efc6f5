"""The parts of an inquiry on a terminal: headline, grounds, trail; layers.py puts them together."""

from __future__ import annotations

import datetime as dt
import os
import sys
from collections.abc import Callable, Iterator
from typing import Any, assert_never

from rich.console import Console, Group, RenderableType
from rich.padding import Padding
from rich.rule import Rule
from rich.syntax import Syntax
from rich.table import Table
from rich.text import Text

from harquel.cli.laid_out import laid_out
from harquel.cli.output import Plainly, Trimmed
from harquel.cli.tables import FittingTable
from harquel.client import StreamEvent
from harquel.contract import Answer, Inquiry, ReadLine, ResultTable, SecondOpinion, events
from harquel.contract.events import InquiryEvent
from harquel.contract.figures import is_figure, written

WIDTH = 100
_NARROWEST = 30
SHOWN_ROWS = 12
_MARKS = {
    ("answered", "clear"): ("●", "clear", "green"),
    ("answered", "caution"): ("▲", "caution", "yellow"),
    ("clarify", None): ("?", "we ask back", "cyan"),
    ("refused", None): ("■", "refused", "red"),
    ("unanswerable", None): ("○", "not in the data", "magenta"),
    ("failed", None): ("✕", "failed", "red"),
    ("cancelled", None): ("–", "cancelled", "yellow"),
}


def count_of(number: int, thing: str) -> str:
    """So many of a thing, in words: 1 table, 2 tables."""
    return f"{number:,} {thing}{'' if number == 1 else 's'}"


def console(stderr: bool = False) -> Console:
    """A console of at most 100 columns on a terminal, which alone is coloured."""
    found = Console(stderr=stderr, highlight=False, soft_wrap=False)
    if not found.is_terminal:
        # What is piped follows COLUMNS where that is set, and has no blanks at the ends of its lines.
        said = os.environ.get("COLUMNS", "")
        width = max(_NARROWEST, int(said)) if said.isascii() and said.isdecimal() and len(said) < 5 else WIDTH
        trimmed: Any = Trimmed(sys.stderr if stderr else sys.stdout)
        found = Console(file=trimmed, highlight=False, width=width)
    elif found.width > WIDTH:
        found = Console(stderr=stderr, highlight=False, width=WIDTH)
    found.push_render_hook(Plainly())
    return found


def headline(inquiry: Inquiry, question: bool) -> RenderableType:
    """What is answered, how far it can be trusted and why, and how the question was understood."""
    asked = Text(inquiry.standalone_question or inquiry.question, style="italic")
    lines: list[RenderableType] = [asked, Text()] if question or inquiry.standalone_question else []
    if inquiry.answer is not None:
        lines += _said(inquiry.answer)
    if inquiry.problem is not None:
        lines.append(Text(inquiry.problem.title, style="bold"))
        if inquiry.problem.hint:
            lines.append(Text(inquiry.problem.hint))
    if inquiry.clarify is not None:
        lines.append(Text(inquiry.clarify.question, style="bold"))
        lines += [Text(f"  {c.id:<16} {c.label}") for c in inquiry.clarify.choices]
        first = next((f"--choice {choice.id}" for choice in inquiry.clarify.choices), "…")
        lines.append(Text(f"Reply with: harquel ask --follows {inquiry.id} {first}"))
    if inquiry.state == "held" and inquiry.hold is not None:
        lines.append(Text(f"The statement waits for a release. {inquiry.hold.reason}", style="bold"))
        lines.append(Text(f"Somebody with the right to decides: harquel inquiry release {inquiry.id}"))
    lines += _beneath(inquiry)
    return Group(*lines)


def _beneath(inquiry: Inquiry) -> Iterator[Text]:
    """How far it can be trusted and why, why it was asked there, how it was understood, how fresh it is."""
    yield _marks(inquiry)
    if inquiry.follows and inquiry.standalone_question and not inquiry.choice:
        meant = f"harquel ask --follows {inquiry.follows} --complete …"
        yield Text(f"So taken with what was asked before: “{inquiry.question}”. Meant otherwise? {meant}", style="dim")
    reused = next((a.draft.reused for a in inquiry.attempts if a.draft is not None and a.draft.reused), "")
    if reused:
        yield Text(f"No model was asked: as it was drafted for {reused}, controlled and run anew.", style="dim")
    if inquiry.source_why:
        yield Text(inquiry.source_why, style="dim")
    for caveat in inquiry.answer.caveats if inquiry.answer else ():
        yield Text(f"  ▲ {caveat.message}", style="yellow")
    if inquiry.answer is not None and inquiry.second_opinion is not None and inquiry.second_opinion.understood:
        yield Text.assemble(("Understood as: ", "dim"), " · ".join(inquiry.second_opinion.understood))
    if inquiry.answer is not None and inquiry.answer.fresh is not None:
        yield Text(inquiry.answer.fresh.said, style="dim")
    if inquiry.answer is not None and inquiry.answer.chart_note:
        yield Text(inquiry.answer.chart_note, style="dim")


def _said(answer: Answer) -> Iterator[Text]:
    """The sentence, whose it is where it is not ours, and the remark."""
    yield Text(answer.text, style="bold")
    if answer.remark:
        yield Text(answer.remark)
    if answer.worded is not None and answer.worded.plain != answer.text:
        yield Text(f"Worded by {answer.worded.model}; every figure was found in the rows.", style="dim")


def _marks(inquiry: Inquiry) -> Text:
    """How it ended, of what and of when, and by whose word."""
    mark, word, colour = _MARKS.get((str(inquiry.outcome), inquiry.trust), ("·", inquiry.state, "white"))
    if inquiry.state == "held":
        mark, word, colour = "◆", "held", "yellow"
    line = Text.assemble((f"{mark} {word}", colour), (f"  ·  {inquiry.source}", "dim"))
    if inquiry.trust == "clear" and inquiry.second_opinion is not None and inquiry.second_opinion.agrees:
        line.append("  ·  the same in two ways", "dim")
    if inquiry.as_of is not None:
        # In the zone of whoever reads it.
        line.append(f"  ·  as of {inquiry.as_of.astimezone():%Y-%m-%d %H:%M %Z}", "dim")
    if inquiry.problem is not None and inquiry.problem.policy_line:
        line.append(f"  ·  policy: {inquiry.problem.policy_line}", "dim")
    if inquiry.hold is not None and not (inquiry.problem and inquiry.problem.policy_line):
        line.append(f"  ·  policy: {inquiry.hold.policy_line}", "dim")
    if inquiry.hold is not None and inquiry.hold.approved:
        line.append(f"  ·  released by {inquiry.hold.by}", "dim")
    return line


def _lines(lines: list[ReadLine]) -> RenderableType:
    """What the query does, a part on each line."""
    grid = Table.grid(padding=(0, 2))
    grid.add_column(style="dim", no_wrap=True)
    grid.add_column(overflow="fold")
    for line in lines:
        grid.add_row(Text(line.label), Text(line.text))
    return grid


def grounds(inquiry: Inquiry) -> RenderableType:
    """What an answer rests on: the query in words, the measures, its SQL, the second way."""
    assert inquiry.answer is not None
    answer = inquiry.answer
    parts: list[RenderableType] = [Rule("grounds", align="left", style="dim")]
    if answer.lines:
        parts.append(_lines(answer.lines))
    elif answer.read_back:
        parts.append(Text.assemble(("What the query does: ", "dim"), answer.read_back))
    for measure in answer.measures:
        owner = f", owned by {measure.owner}" if measure.owner else ""
        head = f"Agreed measure {measure.name} (version {measure.version}{owner})"
        parts.append(Text.assemble((head + ": ", "dim"), measure.text) if measure.text else Text(head, "dim"))
    parts.append(Padding(sql(answer.sql_shown or answer.sql), (1, 0, 1, 2)))
    if inquiry.second_opinion is not None:
        parts.append(_second(inquiry.second_opinion, inquiry.id))
    return Group(*parts)


_OFFERS = 6
"""What could have been meant instead, of which a terminal shows so many."""


def _second(opinion: SecondOpinion, key: str) -> RenderableType:
    """Another way and what came of it; how the question was understood; its rows when they differ."""
    sign = {True: "agrees", False: "differs", None: "gives nothing to compare with"}[opinion.agrees]
    said = opinion.said if opinion.said.endswith(".") else f"{opinion.said}."
    head = Rule("second opinion", align="left", style="dim")
    who = opinion.model
    if opinion.reading is not None:
        read = f"how {who} reads the question" if who else "how the question before was read, changed as you say"
        who = f"Our own query, from {read},"
    parts: list[RenderableType] = [head, Text(f"{who} {sign}. {said[:1].upper()}{said[1:]}")]
    if opinion.instead:
        offers = " · ".join(f"{offer.label} ({offer.id})" for offer in opinion.instead[:_OFFERS])
        more = f" and {len(opinion.instead) - _OFFERS} more" if len(opinion.instead) > _OFFERS else ""
        parts.append(Text(f"Meant otherwise? harquel ask --follows {key} --choice …: {offers}{more}", style="dim"))
    if opinion.agrees is False and opinion.table is not None:
        parts.append(result_table(opinion.table))
        if opinion.read_back:
            parts.append(Text.assemble(("What that query does: ", "dim"), opinion.read_back))
        parts.append(Padding(sql(opinion.rewritten_sql or ""), (1, 0, 0, 2)))
    return Group(*parts, Text(""))


def sql(text: str) -> Syntax:
    """SQL, wrapped, in two colours that work on dark and light."""
    return Syntax(laid_out(text), "sql", theme="ansi_light", background_color="default", word_wrap=True)


def result_table(table: ResultTable, rows: int = SHOWN_ROWS) -> RenderableType:
    """The first rows, figures to the right, units in the heads; says what is not shown."""
    if not table.rows:
        return Text("the rows are kept no more" if table.row_count else "no rows", style="dim")
    shown = FittingTable()
    for column in table.columns:
        head = column.name + (f" [{column.unit}]" if column.unit else "")
        shown.add_column(Text(head), justify="right" if is_figure(column) else "left", overflow="fold")
    for row in table.rows[:rows]:
        shown.add_row(*(Text(written(v, c)) for v, c in zip(row, table.columns, strict=True)))
    left = len(table.rows) - rows
    notes = [Text(f"and {left:,} more rows", style="dim")] if left > 0 else []
    if table.cut_by:
        notes.append(Text(f"cut by the limit on {table.cut_by}", style="yellow"))
    return Group(shown, *notes)


def trail(inquiry: Inquiry, told: list[StreamEvent]) -> RenderableType:
    """A stop a line, with the time since the question; a loop back is marked."""
    lines = Table.grid(padding=(0, 2))
    lines.add_column(justify="right", style="dim")
    lines.add_column()
    lines.add_column(ratio=1)
    start: dt.datetime | None = None
    for event in told:
        at = dt.datetime.fromisoformat(event.at)
        start = start or at
        sign, name, what = stop(event)
        name = f"{name} (2nd)" if event.facts.get("duty") else name
        lines.add_row(f"{(at - start).total_seconds() * 1000:,.0f} ms", Text(f"{sign} {name}"), Text(what))
        if event.kind == "replied" and not event.facts.get("duty"):
            for change in _changes(inquiry, event.facts.get("number")):
                lines.add_row("", "", change)
    t = inquiry.timings
    sums = f"model {t.model_ms:,.0f} ms · database {t.database_ms:,.0f} ms · own {t.own_ms:,.0f} ms"
    sums += f" · {inquiry.usage.prompt_tokens + inquiry.usage.completion_tokens:,} tokens · {inquiry.id}"
    return Group(lines, Text(sums, style="dim"))


def _changes(inquiry: Inquiry, number: object) -> list[Text]:
    """What a draft changed of the one before it, a clause a line."""
    found = next((a.changes for a in inquiry.attempts if a.number == number), [])
    signs = {"removed": ("− ", "red"), "added": ("+ ", "green")}
    return [Text(signs[c.kind][0] + c.text, style=signs[c.kind][1]) for c in found[:8]]


def _count(number: int, thing: str) -> str:
    return f"{number:,} {thing}{'' if number == 1 else 's'}"


def stop(event: StreamEvent) -> tuple[str, str, str]:
    """A sign, the stop's name, and what happened there in a line."""
    what = event.what
    if what is None or not isinstance(what, InquiryEvent):
        return "·", event.kind, ""  # of a newer service
    return _stop(what, lambda name: str(event.texts.get(name) or ""))


def _prompted(what: events.Prompted) -> tuple[str, str, str]:
    if what.duty == "word":
        return "●", "model", f"the answer in words, by {what.model}"
    if what.duty == "follow-up":
        return "●", "model", f"what follows the answer, by {what.model}"
    if what.duty == "control":
        return "●", "model", f"the question as {what.model} reads it"
    if what.number == 1 or what.duty:
        return "●", "model", f"draft by {what.model}"
    return "↺", "model", f"draft {what.number}: repair"


def _replied(what: events.Replied) -> str:
    return f"as for {what.reused}: nobody was asked" if what.reused else f"{what.completion_tokens} tokens"


def _found(what: events.Found) -> tuple[str, str, str]:
    if not what.findings:
        return "●", "review", "nothing doubtful"
    return "▲", "findings", " ".join(dict.fromkeys(f.message for f in what.findings))


def _file(what: events.Delivered | events.TakenAway | events.FileDeleted) -> tuple[str, str, str]:
    if isinstance(what, events.Delivered):
        return "●", "delivered", f"{_count(what.row_count, 'row')} in {what.elapsed_ms:,.1f} ms"
    if isinstance(what, events.TakenAway):
        return "·", "taken away", what.form
    return "·", "file deleted", what.why


def _sending(what: events.SentOn | events.Arrived | events.NotArrived) -> tuple[str, str, str]:
    if isinstance(what, events.SentOn):
        return "·", "sent on", f"to {what.destination}"
    if isinstance(what, events.Arrived):
        return "●", "arrived", f"at {what.destination}, tried {_count(what.tries, 'time')}"
    return "✕", "not arrived", f"at {what.destination}: {what.why}"


def _stop(what: InquiryEvent, text: Callable[[str], str]) -> tuple[str, str, str]:
    match what:
        case events.Accepted() | events.StarterTried():
            return "●", "asked", text("question")
        case events.Restated():
            how = {"reading": "from how that was understood", "model": "by a model", "alone": "as it is"}[what.by]
            return "●", "stands alone", f"{text('question')} ({how})"
        case events.Briefed():
            picked = f"{_count(len(what.tables), 'table')}, {_count(what.examples, 'example')}"
            return "●", "briefing", f"{picked}, about {what.tokens:,} tokens"
        case events.Prompted():
            return _prompted(what)
        case events.Replied():
            return "│", "reply", _replied(what)
        case events.Ruled():
            sign = "●" if what.verdict == "run" else "✕"
            return sign, f"guard: {what.on}", f"{what.verdict} ({what.policy_line}) {what.reason}"
        case events.Found():
            return _found(what)
        case events.Planned():
            return "●", "dry run", _count(len(what.steps), "step")
        case events.Ran():
            return "●", "run", f"{_count(what.row_count, 'row')} in {what.elapsed_ms:,.1f} ms"
        case events.Delivered() | events.TakenAway() | events.FileDeleted():
            return _file(what)
        case events.SentOn() | events.Arrived() | events.NotArrived():
            return _sending(what)
        case events.ToldInChat():
            return "·", "told in a chat", f"{what.chat}, {'to whoever asked alone' if what.alone else what.place}"
        case events.Stumbled():
            return "✕", "run", text("error")
        case events.WasHeld():
            return "◆", "held", f"waits for a release ({what.policy_line})"
        case events.Released() | events.TurnedDown():
            return "◆", what.entry_kind, text("note")
        case events.CancelAsked():
            return "·", "cancel asked", ""
        case events.AskedBack():
            return "?", "asked back", "; ".join(what.readings)
        case events.Compared():
            return {True: "●", False: "▲", None: "·"}[what.agrees], "compared", text("said")
        case events.Ended():
            return "■", "end", f"{what.outcome}, {what.trust}" if what.trust else str(what.outcome)
        case _:
            assert_never(what)
