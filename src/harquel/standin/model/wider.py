"""Questions of wider shapes, read before the usual parts: how late, never, longer than average, when last, by whom."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from . import durations
from .adjectives import RANKS, compared_column, ending_in_iest, ranking_column
from .around import superlative_stands
from .english import AVERAGE, EXTREME, LEAST, MOST, UNITS
from .intent import Figure, Filter, Group, Intent, NotInData
from .lexicon import Meaning, Span
from .prompt import Column, Prompt, Table
from .words import Token, number, root, stems

_LEAVING = frozenset("leave leaves left depart departed".split())
_ARRIVING = frozenset("arrive arrives arrived reach reached".split())
_WORKING = frozenset("work works working employed".split())
_ENDS = {"from": "from", "to": "to", **dict.fromkeys(_LEAVING, "from"), **dict.fromkeys(_ARRIVING, "to")}


class Wider:
    """What a reader finds out before it looks for figures and groups. Words that are used up stand for nothing more."""

    prompt: Prompt
    words: list[Token]
    low: list[str]
    spans: list[Span]
    taken: set[int]
    used: set[int]
    intent: Intent
    _of_values: Callable[[], list[str]]
    use_table: Callable[[str], None]
    lasting: tuple[bool, list[int]] | None = None

    def take_durations(self) -> None:
        """ "How late", "how long does it take": these words name no column."""
        self.lasting = durations.asked_for(self.words)
        if self.lasting is not None:
            self.taken |= set(self.lasting[1])

    def widen(self) -> None:
        """All of these shapes."""
        if self.lasting is not None:
            self._lasts(*self.lasting)
        self._never()
        self._than_average()
        self._when_last()
        self._employed()

    def _named(self) -> list[Table]:
        return [self.prompt.tables[m.table] for span in self.spans for m in span.of("table")[:1]]

    def _spend(self, *places: int) -> None:
        for place in places:
            self.low[place] = ""

    def _lasts(self, delay: bool, places: list[int]) -> None:
        find = durations.delay_of if delay else durations.lasting_of
        pairs = (find(table) for table in [*self._named(), *self.prompt.tables.values()])
        pair = next((pair for pair in pairs if pair is not None), None)
        if pair is None:
            raise NotInData("Nothing in the schema says how long that takes.")
        extreme = next((EXTREME[w] for w in self.low if w in EXTREME), "AVG")
        said = [*places, *(i for i, w in enumerate(self.low) if w in AVERAGE)]
        self.intent.figures.append(Figure(function=extreme, column=pair[0], since=pair[1], said=tuple(sorted(said))))
        self._spend(*said)

    def _never(self) -> None:
        at = next((i for i, w in enumerate(self.low) if w == "never"), None)
        if at is None:
            return
        whose = {t.name for t in self._named()[:1]}
        later = (s for s in self.spans if s.start > at)
        found = next(((s, m.table) for s in later for m in s.meanings if m.table not in whose), None)
        if found is None:
            raise NotInData("Nothing in the schema says what never was.")
        span, self.intent.never = found
        self.intent.never_said = tuple(range(at, span.end))
        self.used.add(span.start)
        self._spend(*range(at, span.end))

    def _than_average(self) -> None:
        for at in range(len(self.low) - 2):
            end = next((i for i in (at + 2, at + 3) if self.low[i : i + 1] and self.low[i] in AVERAGE), None)
            if self.low[at + 1] != "than" or end is None:
                continue
            found = next((c for t in self._named() if (c := compared_column(self.low[at], t)) is not None), None)
            if found is not None:
                said = tuple(range(at, end + 1))
                self.intent.filters.append(Filter(found[0], found[1], average=True, said=said))
                self._spend(*said)
                return

    def _when_last(self) -> None:
        last = next((i for i, w in enumerate(self.low) if w in ("last", "first")), None)
        if self.low[:1] != ["when"] or last is None:
            return
        verb = next((i for i, w in enumerate(self.low) if w in _LEAVING | _ARRIVING), None)
        column = self._time_of(self.low[verb] if verb is not None else "")
        if column is None:
            return
        function = "MAX" if self.low[last] == "last" else "MIN"
        said = tuple(i for i in (0, last, verb) if i is not None)
        self.intent.figures.append(Figure(function=function, column=column, said=said))

    def _time_of(self, verb: str) -> Column | None:
        """The time at which something is left or reached: what was, rather than what was planned."""
        wanted = "departure" if verb in _LEAVING else "arrival" if verb in _ARRIVING else ""
        times = [
            c for t in self.prompt.tables.values() for c in t.columns.values() if c.temporal and wanted in stems(c.name)
        ]
        return min(times, key=lambda c: "actual" not in c.name, default=None)

    def _employed(self) -> None:
        """Who works for us has not left."""
        at = next((i for i, w in enumerate(self.low) if w in _WORKING), None)
        for table in self._named() if at is not None else ():
            for column in table.columns.values():
                if at is not None and root("employed") in map(root, column.null_means.split()):
                    self.intent.filters.append(Filter(column, "IS NULL", said=(at,)))
                    return

    def intensely(self) -> None:
        """ "The windiest": the average of what it is named for, the highest first."""
        for at, word in enumerate(self.low):
            called = ending_in_iest(word)
            columns = (c for t in self.prompt.tables.values() for c in t.columns.values() if c.numeric)
            column = next((c for c in columns if called and called in stems(c.name)), None)
            if column is not None and not self.intent.figures:
                self.intent.figures.append(Figure(function="AVG", column=column, said=(at,)))
                self.intent.ascending = False

    # -- rows ------------------------------------------------------------------------------------

    def ranked_rows(self) -> bool:
        """Whether rows of one table are wanted by what an adjective says of them: the three oldest."""
        at = self._ranking()
        named = [s for s in self.spans if s.of("table")]
        if at is None or not named or any(s.of("measure") for s in self.spans):
            return False
        table = self.prompt.tables[named[0].of("table")[0].table]
        if (column := ranking_column(self.low[at], table)) is None:
            return False
        self.intent.rows_of, self.intent.ranked_by = table.name, column
        self.intent.ascending = RANKS[self.low[at]][1]
        counts = [number(self.words[i]) for i in (at - 1, named[0].start - 1) if i >= 0]
        one = self.words[named[0].end - 1].stem == self.low[named[0].end - 1]
        self.intent.limit = next((c for c in counts if c), 1 if one else None)
        self.intent.order_said |= {at, at - 1 if counts[0] else at, named[0].start - 1 if counts[-1] else at}
        self.use_table(table.name)
        return True

    def _ranking(self) -> int | None:
        """The place of an adjective that ranks; "expensive" does with "most" before it."""
        for at, word in enumerate(self.low):
            if word in RANKS and superlative_stands(self.low, at):
                return at if word != "expensive" or self.low[max(0, at - 1)] in MOST | LEAST else None
        return None

    # -- groups ----------------------------------------------------------------------------------

    def reason(self, index: int) -> int:
        """ "… and why": per the column that says so."""
        named = {t.name for t in self._named()}
        for table in sorted(self.prompt.tables.values(), key=lambda t: t.name not in named):
            for column in table.columns.values():
                if "reason" in stems(column.name) or column.text.startswith("why "):
                    self.intent.groups.append(Group(column=column, said=(index,)))
                    return index + 1
        return index + 1

    def whom(self, index: int) -> int:
        """ "Who has the most of these": per the people that those belong to."""
        ranked = any(w in MOST | LEAST for w in self.low)
        for table in self._named() if ranked else ():
            for column, (target, _) in table.links.items():
                if target in self.prompt.tables and "person" in stems(self.prompt.tables[target].text):
                    self.intent.groups.append(Group(table=target, via=column, said=(index,)))
                    self.intent.limit = self.intent.limit or 1
                    return index + 1
        return index + 1

    def best_unit(self, index: int) -> bool:
        """ "Busiest hour": per hour, the first of them."""
        at = index + 1
        if self.low[index] not in MOST | LEAST or at >= len(self.words) or self.words[at].stem not in UNITS:
            return False
        self.intent.limit = self.intent.limit or 1
        return True

    def towards(self, found: Filter, span: Span) -> Filter:
        """ "From here", "to there": by the key that says so, where there is one."""
        before = self.low[span.start - 1] if span.start else ""
        end = _ENDS.get(before)
        for table in self.prompt.tables.values():
            for column, (target, _) in table.links.items():
                if end is not None and target == found.column.table and end in stems(column):
                    return replace(found, via=column, said=(span.start - 1, *found.said))
        return found

    def spoken_of(self) -> list[str]:
        """The table of a noun made of a value or a time, where no table is named: cancellations, refunds."""
        for span in self.spans:
            # Beside something else that is named it says what that is like.
            others = [s for s in self.spans if s is not span and s.start not in self.used]
            if span.start in self.used or any(not other.of("value", "null") for other in others):
                continue
            values: list[Meaning] = span.of("value")
            times = [m for m in span.of("column") if self.prompt.tables[m.table].columns[m.column].temporal]
            if times:
                column = self.prompt.tables[times[0].table].columns[times[0].column]
                said = tuple(range(span.start, span.end))
                self.intent.filters.append(Filter(column, "IS NULL", negated=True, said=said))
                self.intent.when = self.intent.when or column
                self.used.add(span.start)
                return [column.table]
            if values:
                grouped = {g.column.table for g in self.intent.groups if g.column is not None}
                decided = [m.table for m in values if m.table in grouped]
                # "Cancellations" of what? Of whatever can be; which is asked back.
                return decided[:1] or self._of_values()
        return []
