"""The highest or lowest few come from the right end, in the number asked for; nothing else is cut off.

Bad:  "which five routes earned most": … ORDER BY eur LIMIT 5
Good: … ORDER BY eur DESC LIMIT 5
"""

from __future__ import annotations

import re
from typing import Final, Literal

from sqlglot import exp

from harquel.core.briefing.words import name_stems, stem
from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal, is_year
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Level, Ref, is_aggregate, within
from harquel.core.review.vocabulary import MORE_IS_BETTER, OF_AGE

CODE = "wrong-order"
_SAMPLE = re.compile(r"\b(?:some|any|an? example|sample|few|first|last|recent|next|latest)\b")

_BAD = frozenset(
    map(stem, "cancelled cancellation late delay incident failure failed cost price damage loss lost".split())
)
_LASTING: Final[dict[str, Literal["high", "low"]]] = {"longest": "low", "shortest": "high"}
_SINCE = re.compile(
    r"\bsince (?:the |our |their |its )?(last|latest|most recent|first)\b(?! (?:day|week|month|quarter|year))"
)


@rule(CODE, "wrong-limit", "not-ranked", "unasked-limit", "limit-without-order")
def ranking(context: ReviewContext) -> list[Finding]:
    """Findings on ORDER BY and LIMIT against what the question ranks."""
    question, outer = context.question, context.statement.outer
    found: list[Finding] = []
    limited = next(
        (lv for lv in context.statement.levels if lv.limit is not None and lv.role in ("outer", "scalar", "derived")),
        None,
    )
    level = limited or outer
    if limited is not None:
        found += _limit(context, limited)
    found += _since(context)
    if question.first_is:
        found += _order(context, outer, _wanted(context, question.first_is), question.first_is)
    elif question.superlatives:
        word, direction = question.superlatives[0]
        wanted = direction or _by_measure(context, word)
        if limited is not None:
            found += _order(context, level, wanted, word)
        elif question.top and not _cuts(context, question.top):
            message = f"The question asks for {question.top}; the query gives all."
            found.append(context.finding("wrong-limit", "error", message, f"Add LIMIT {question.top}."))
        elif not _picks(context, wanted) and not question.per and (_which(question.text) or _begins(question.text)):
            message = f"The question asks for the {word}; the query neither ranks nor cuts."
            found.append(context.finding("not-ranked", "error", message, "Add ORDER BY and LIMIT."))
        if limited is None and (wanted or word in OF_AGE or word in ("best", "worst")):
            found += _turned(context, word, wanted)
    return found


def _which(text: str) -> bool:
    return re.match(r"\s*(?:which|what|who|where)\b", text.casefold()) is not None or "top" in text.casefold()


def _begins(text: str) -> bool:
    """Whether the question begins with its superlative: busiest harbour last week."""
    first = re.match(r"\s*(?:(?:show|give|list|tell|name)(?: me| us)? )?(?:the )?(\w+)", text.casefold())
    return first is not None and first.group(1).endswith("est")


def _limit(context: ReviewContext, level: Level) -> list[Finding]:
    question, limit = context.question, level.limit
    if limit and level.role == "outer" and level.aggregates and not level.groups:
        return []  # there is one row, and nothing to cut off
    node = level.select.args.get("limit")
    top = question.top
    if top is None:
        top = next((int(n.value) for n in question.numbers if n.value == limit), None)
    if top is not None and limit is not None and limit != top:
        message = f"The question asks for {top}; the query gives {limit}."
        return [context.finding("wrong-limit", "error", message, f"Write LIMIT {top}.", node)]
    ranked = bool(question.superlatives) or bool(_SAMPLE.search(question.text.casefold()))
    if top is None and question.per and level.role == "outer" and not (question.superlatives and _which(question.text)):
        ranked = False
    if top is None and not ranked:
        message = f"The query stops after {limit} rows; the question does not say so."
        return [context.finding("unasked-limit", "error", message, "Leave LIMIT out.", node)]
    if (
        top is None
        and limit is not None
        and limit > 1
        and question.superlatives
        and not _SAMPLE.search(question.text.casefold())
    ):
        message = f"The question asks for one; the query gives {limit}."
        return [context.finding("wrong-limit", "error", message, "Write LIMIT 1.", node)]
    if not level.order:
        message = "LIMIT without ORDER BY gives any rows, not the ones asked for."
        return [context.finding("limit-without-order", "error", message, "Add ORDER BY.", node)]
    return []


def _wanted(context: ReviewContext, word: str) -> str | None:
    if word in ("worst", "best"):
        return _by_measure(context, word)
    return "low" if word in ("lowest", "smallest", "oldest", "fewest", "least") else "high"


def _by_measure(context: ReviewContext, word: str) -> str | None:
    better = next((m.better for _, m in context.measures_asked() if m.better), None)
    if word not in ("worst", "best"):
        return None
    if better is None:
        # The best of what is added up or counted is the most, unless it is about something bad.
        good = (
            word == "best"
            and not _BAD & context.question.stems
            and any(isinstance(n, exp.Sum | exp.Count) for n in context.statement.outer.aggregates)
        )
        return "high" if good else None
    return better if word == "best" else ("low" if better == "high" else "high")


def _by_nature(ref: Ref | None, word: str) -> str | None:
    """Which end is the best where more of it is better whatever it is about: points, ratings, profit."""
    if ref is None or word not in ("best", "worst") or not MORE_IS_BETTER & set(name_stems(ref.column.name)):
        return None
    return "high" if word == "best" else "low"


def _order(context: ReviewContext, level: Level, direction: str | None, word: str) -> list[Finding]:
    if not level.order:
        if level.limit is None:
            message = f"The question asks for the {word} first; the query does not order."
            return [context.finding(CODE, "error", message, "Add ORDER BY.")]
        return []
    first = level.order[0]
    source, _ = context.statement.origin(first.this, level)
    if isinstance(first.this, exp.Column) and not first.this.table and first.this.name.casefold() in level.outputs:
        # A name of the output goes before a column of that name.
        source, _ = context.statement.origin(level.outputs[first.this.name.casefold()], level)
    if isinstance(source, exp.Literal) and not source.is_string:
        position = int(source.this) - 1
        source = level.select.expressions[position].unalias() if position < len(level.select.expressions) else source
    if "took longest" in context.question.has and not _spans(context, source):
        message = f"The question asks how long it took; it is ordered by {first.this.sql()}."
        return [context.finding(CODE, "error", message, "Order by the difference of the two times.", first)]
    down = bool(first.args.get("desc"))
    ref = context.statement.ref(source)
    if ref is not None and word in OF_AGE and (is_temporal(ref.column) or is_year(ref.column)):
        direction = OF_AGE[word]
    elif ref is not None and word in _LASTING and is_temporal(ref.column):
        # What began and goes on has lasted longest from the earliest time; of times to come nothing is known.
        past = str(ref.column.high or "9")[:10] <= context.question.now.date().isoformat()
        direction = _LASTING[word] if past else None
    elif direction is None:
        direction = _by_nature(ref, word)
    if (ref is not None and ref.column.kind == "text" and not is_temporal(ref.column)) or _only_named(
        context, source, level
    ):
        message = f"It is ordered by {first.this.sql()}, which says nothing about the {word}."
        return [context.finding(CODE, "error", message, "Order by the figure.", first)]
    figures = [n for n in within(source) if is_aggregate(n)]
    if word.startswith("most ") and figures and not any(isinstance(n, exp.Count | exp.Sum) for n in figures):
        message = f"The question asks for the {word} first; it is ordered by something else."
        return [context.finding(CODE, "error", message, "Order by the count.", first)]
    if direction is not None and down is not (direction == "high"):
        message = f"The question asks for the {word}; the query puts {'the highest' if down else 'the lowest'} first."
        return [context.finding(CODE, "error", message, f"Write {'DESC' if direction == 'high' else 'ASC'}.", first)]
    return []


def _spans(context: ReviewContext, node: exp.Expr) -> bool:
    """Whether it is made of times, or of a column that bears the name of a length of time."""
    refs = context.statement.refs(node)
    return len({r.key for r in refs if is_temporal(r.column)}) > 1 or any(
        {"durat", "minut", "hour", "day", "second"} & set(name_stems(r.column.name)) for r in refs
    )


def _only_named(context: ReviewContext, node: exp.Expr, level: Level) -> bool:
    """Whether what is ordered by is what the rows are told apart by."""
    return bool(level.groups) and any(node == g for g in level.groups)


def _cuts(context: ReviewContext, top: int) -> bool:
    """Whether a rank does what LIMIT would, or the extreme itself is taken."""
    if top == 1:
        return _picks(context, None)
    return float(top) in context.statement.literals or any(
        isinstance(n, exp.Window) for level in context.statement.levels for p in level.select.expressions
        for n in p.walk()
    )  # fmt: skip


def _picks(context: ReviewContext, direction: str | None) -> bool:
    """Whether some part takes an extreme: MAX, MIN, a rank."""
    for level in context.statement.levels:
        if level.order and level is context.statement.outer:
            return True
        if any(isinstance(n, exp.Max | exp.Min) for n in level.aggregates):
            return True
        if any(isinstance(n, exp.Window) for p in level.select.expressions for n in p.walk()):
            return True
    return False


def _since(context: ReviewContext) -> list[Finding]:
    """What has passed since the last of something is reckoned from the latest time of it."""
    match = _SINCE.search(context.question.text.casefold())
    ends = [n for lv in context.statement.levels for n in lv.aggregates if isinstance(n, exp.Max | exp.Min)]
    if match is None or len(ends) != 1:
        return []
    right = exp.Min if match.group(1) == "first" else exp.Max
    ref = context.statement.ref(ends[0].this)
    if ref is None or not is_temporal(ref.column) or isinstance(ends[0], right):
        return []
    message = f"The question counts from the {match.group(1)} one; the query takes {type(ends[0]).__name__.upper()}."
    return [context.finding(CODE, "error", message, f"Take {right.__name__.upper()}.", ends[0])]


def _turned(context: ReviewContext, word: str, direction: str | None) -> list[Finding]:
    """MIN where the highest is asked for, or the other way round."""
    nodes = [n for lv in context.statement.levels for n in lv.aggregates]
    ends = [n for n in nodes if isinstance(n, exp.Max | exp.Min)]
    dated = len(ends) == 1 and (end := context.statement.ref(ends[0].this)) is not None and is_temporal(end.column)
    if dated and word in OF_AGE:
        direction = OF_AGE[word]
    elif direction is None and len(ends) == 1:
        direction = _by_nature(context.statement.ref(ends[0].this), word)
    if direction is None:
        return []
    wrong, right = (exp.Min, exp.Max) if direction == "high" else (exp.Max, exp.Min)
    if any(isinstance(n, wrong) for n in nodes) and not any(isinstance(n, right) for n in nodes):
        node = next(n for n in nodes if isinstance(n, wrong))
        ref = context.statement.ref(getattr(node, "this", None))
        if ref is not None and is_temporal(ref.column) and word not in OF_AGE:
            return []  # the latest of dates may well be the least of what is meant
        message = f"The question asks for the {word}; the query takes {wrong.__name__.upper()}."
        return [context.finding(CODE, "error", message, f"Take {right.__name__.upper()}.", node)]
    return []
