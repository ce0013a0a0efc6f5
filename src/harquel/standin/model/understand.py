"""From the words of a question to its intent.

1. change requests and pay questions are told apart first
2. periods of time, weekdays and durations are taken out
3. what remains is matched against names, synonyms, values and measures of the prompt
4. figures, groups, filters, order and limit are read off the matches and the words around them
5. a word with content that nothing matched means that the data is not there
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from .adjectives import ending_in_iest
from .around import compared_after, compared_before, function_before, superlative_stands
from .english import AVERAGE, DAYS, EXTREME, LEAST, MOST, SHARE, UNITS, WEEKDAYS
from .intent import Figure, Filter, Group, Intent, NotInData
from .lexicon import Lexicon, Meaning, Span
from .nearness import nearest
from .periods import find_periods
from .prompt import Column, Prompt
from .quantities import additive, figure_like
from .quantities import amounts as amounts_of
from .quoting import aged, ranking, with_those_before
from .slips import mended
from .turned_away import turn_away, unknown
from .wider import Wider
from .words import Token, number

_EACH = frozenset("per by each every which what for".split())
_FIGURE = AVERAGE | EXTREME.keys() | frozenset("how many much number count total sum altogether of all".split())
"""What may stand before a group or a figure and belongs to it."""


def understand(prompt: Prompt, lexicon: Lexicon, of: str = "") -> Intent:
    """Raises NotInData or AsksForChange. `of` is the table that is meant where the question names none."""
    prompt.words = mended(prompt.words, lexicon)
    return _Reader(prompt, lexicon, of).read()


@dataclass
class _Reader(Wider):
    prompt: Prompt
    lexicon: Lexicon
    of: str = ""
    words: list[Token] = field(init=False)
    spans: list[Span] = field(init=False)
    taken: set[int] = field(default_factory=set)
    used: set[int] = field(default_factory=set)
    """Starts of spans that already serve as a group, figure or filter."""

    def read(self) -> Intent:
        self.words = self.prompt.words
        self.low = [w.low for w in self.words]
        turn_away(self.words, self.prompt, self.lexicon)
        self.intent = Intent()
        self._times()
        self.take_durations()
        self.spans = self.lexicon.spans(self.words, self.taken)
        self._covered()
        self.widen()
        if not self.ranked_rows():
            self._groups()
            self._figures()
        self._remaining()
        self._order()
        return self.intent

    # 2 ------------------------------------------------------------------------------------------

    def _times(self) -> None:
        for period, start, end in find_periods(self.words, self.prompt.now):
            self.intent.periods.append(period)
            self.intent.periods_said.append(
                with_those_before(self.low, start, end, ("in", "during", "of", "year", "month"))
            )
            self.taken |= set(range(start, end))
        for index, word in enumerate(self.words):
            if word.stem in WEEKDAYS:
                self.intent.weekday = WEEKDAYS.index(word.stem)
                self.intent.weekday_said = with_those_before(self.low, index, index + 1, ("on",))
                self.taken.add(index)
            count = number(word)
            following = self.words[index + 1].stem if index + 1 < len(self.words) else ""
            if count and following in DAYS and index not in self.taken:
                self.intent.older_than_days = count * DAYS[following]
                self.intent.age_said = aged(self.low, index)
                self.taken |= {index, index + 1}

    # 5 ------------------------------------------------------------------------------------------

    def _covered(self) -> None:
        matched = {i for s in self.spans for i in range(s.start, s.end)} | self.taken
        if missing := unknown(self.words, matched):
            raise NotInData(f"Nothing in the schema or the notes speaks of: {', '.join(missing)}.")
        if not self.spans:
            raise NotInData("The question names nothing that the schema holds.")

    # 4 ------------------------------------------------------------------------------------------

    def _span_at(self, index: int) -> Span | None:
        return next((s for s in self.spans if s.start == index), None)

    def _skip(self, index: int, *more: str) -> int:
        while index < len(self.words) and self.low[index] in ("the", "a", "an", "of", *more):
            index += 1
        return index

    def _groups(self) -> None:
        index = 0
        while index < len(self.words):
            word = self.low[index]
            if word == "by" and self._ranked_by(index + 1):
                index += 1
            elif word in ("per", "by", "each", "every") and index not in self.taken:
                index = self._group_list(self._skip(index + 1, "each", "every"), word)
            elif word == "why":
                index = self.reason(index)
            elif word == "who":
                index = self.whom(index)
            elif self.best_unit(index):
                index = self._group_list(index + 1, word)
            elif word in ("which", "what") and self.low[index - 1 : index] != ["in"]:
                index = self._asked_thing(index)
            else:
                index += 1

    def _ranked_by(self, index: int) -> bool:
        """ "Top 3 of these by those": those are counted, and not what is grouped by."""
        span = self._span_at(index)
        return bool({"top", "bottom"} & set(self.low[:index]) and span is not None and span.of("table"))

    def _group_list(self, index: int, word: str) -> int:
        while True:
            after = self._group(index)
            if after is None:
                return index
            index = after
            following = self.low[index : index + 1]
            if following != ["and"] or self._group(self._skip(index + 1, "per", "by", "each"), probe=True) is None:
                return index
            index = self._skip(index + 1, "per", "by", "each")

    def _group(self, index: int, probe: bool = False) -> int | None:
        """Reads one group at a token; returns where it ends, or None when there is none."""
        if index >= len(self.words):
            return None
        span = self._span_at(index)
        group, end = None, index
        if span is None and self.words[index].stem in UNITS:
            group, end = Group(unit=self._unit(index)), index + 1
            if self.low[end : end + 3] == ["of", "the", "day"]:
                end += 3
        elif span is not None:
            meaning = self._groupable(span)
            end = span.end
            if meaning is None:
                return None
            if end < len(self.words) and self.words[end].stem in UNITS and self._column(meaning).temporal:
                group = Group(unit=self._unit(end))
                self.intent.when = self.intent.when or self._column(meaning)
                end += 1
            elif meaning.kind == "table":
                group = Group(table=meaning.table)
            else:
                column = self._column(meaning)
                link = self.prompt.tables[column.table].links.get(column.name)
                group = Group(table=link[0], via=column.name) if link else Group(column=column)
        if group is None:
            return None
        if not probe:
            self.intent.groups.append(replace(group, said=with_those_before(self.low, index, end, _EACH)))
            if span is not None:
                self.used.add(span.start)
        return end

    def _unit(self, index: int) -> str:
        day_of_week = self.low[index : index + 4] == ["day", "of", "the", "week"]
        return "weekday" if day_of_week else self.words[index].stem

    def _groupable(self, span: Span) -> Meaning | None:
        if span.of("measure"):
            return None
        tables = span.of("table")
        if tables:
            return tables[0]
        columns = [m for m in self._nearest(span.of("column")) if not figure_like(self._column(m))]
        return columns[0] if columns else None

    def _asked_thing(self, index: int) -> int:
        """ "Which (five) things …", "which hour …": the thing asked for is a group if a figure ranks it."""
        at = index + 1
        count = number(self.words[at]) if at < len(self.words) else None
        if count is not None:
            at += 1
        ranked = any(w in MOST | LEAST or ending_in_iest(w) for w in self.low) or any(
            s.of("measure") for s in self.spans
        )
        if not ranked or at >= len(self.words) or self.low[at] in SHARE | AVERAGE:
            return index + 1
        end = self._group(at)
        if end is None:
            return index + 1
        if count is not None:
            self.intent.limit = count
            self.intent.order_said.add(index + 1)
        elif self.words[end - 1].stem == self.low[end - 1]:
            self.intent.limit = 1
        return end

    def _figures(self) -> None:
        for position, span in enumerate(self.spans):
            if span.start in self.used:
                continue
            measures = span.of("measure")
            if measures:
                self._figure(span, Figure(measure=measures[0].measure))
                continue
            # "Strongest gust" may be what the column is called.
            function = function_before(self.low, span.start) or EXTREME.get(self.low[span.start], "")
            columns = self._amounts(span)
            if columns and not span.of("table") and (function or not span.of("value")) and not self._compared(span):
                column = self._column(columns[0])
                if function or figure_like(column):
                    # "How many crates" adds them up, whatever else is known of crates.
                    amount = self.low[max(0, span.start - 2) : span.start] in (["how", "many"], ["how", "much"])
                    default = "SUM" if amount or additive(column) else "AVG"
                    self._figure(span, Figure(function=function or default, column=column))
                    continue
            if span.of("table") and self._counted(position, span):
                self._figure(span, self._count_or_amount(span))
        self.intensely()
        if not self.intent.figures:
            self._figure_from_table()

    def _amounts(self, span: Span) -> list[Meaning]:
        """Columns of numbers that are no keys, the nearest first."""
        columns = [m for m in self._nearest(span.of("column")) if self._column(m).numeric]
        return [m for m in columns if not self.prompt.tables[m.table].links.get(m.column)]

    def _figure(self, span: Span, figure: Figure) -> None:
        self.used.add(span.start)
        if figure not in self.intent.figures:
            near = (i for i in range(max(0, span.start - 3), span.start) if self.low[i] in _FIGURE - {"of", "all"})
            said = {*near, *with_those_before(self.low, span.start, span.end, _FIGURE)}
            self.intent.figures.append(replace(figure, said=tuple(sorted(said))))

    def _count_or_amount(self, span: Span) -> Figure:
        """ "Most incidents" counts them; "most oil", which has no plural, adds up its amounts."""
        table = self.prompt.tables[span.of("table")[0].table]
        word = self.words[span.end - 1]
        ranked = bool({*self.low[max(0, span.start - 1) : span.start]} & (MOST | LEAST))
        amounts = amounts_of(table)
        if ranked and word.low == word.stem and amounts:
            return Figure(function="SUM", column=amounts[0])
        return Figure(table=table.name)

    def _counted(self, position: int, span: Span) -> bool:
        """Whether a table is named in order to count its rows."""
        before = self.low[max(0, span.start - 3) : span.start]
        if "many" in before or "number" in before or "count" in before:
            return True
        if len(self.intent.periods) > 1 and before[-1:] in (["fewer"], ["more"], ["less"]) and "than" in self.low:
            return True
        if SHARE & set(self.low) or (before and before[-1] in MOST | LEAST):
            return True
        if before[-1:] == ["by"] and self._ranked_by(span.start):
            return True
        return position == 0 and bool(self.intent.groups) and not function_before(self.low, span.start)

    def _figure_from_table(self) -> None:
        """No figure was named: "how much of it" takes a table's main quantity, otherwise its rows are meant."""
        tables = self._tables_meant()
        if not tables:
            raise NotInData("The question names no figure and no table that the schema holds.")
        table = self.prompt.tables[tables[0]]
        amounts = amounts_of(table)
        said = tuple(i for i, w in enumerate(self.low) if w in ("many", "much"))
        if "much" in self.low and amounts:
            self.intent.figures.append(Figure(function="SUM", column=amounts[0], said=said))
            self.use_table(table.name)
        elif "much" in self.low or AVERAGE & set(self.low):
            raise NotInData("The schema holds no such figure.")
        elif self.intent.groups or self.intent.share or "many" in self.low:
            self.intent.figures.append(Figure(table=table.name, said=said))
        else:
            self.intent.rows_of = table.name
            self.use_table(table.name)

    def _tables_meant(self) -> list[str]:
        tables = [m.table for s in self.spans if s.start not in self.used for m in s.of("table")]
        if not tables and self.intent.groups and self.intent.limit:
            tables = [t for t in [self.intent.groups[-1].table] if t and self.intent.groups.pop()]
        if not tables and "many" in self.low and all(s.of("value") for s in self.spans):
            tables = self._of_values()
        return tables or self.spoken_of()

    def _of_values(self) -> list[str]:
        """ "How many were cancelled": whatever can be; the likeliest first, the others are kept."""
        known = dict.fromkeys(m.table for s in self.spans for m in s.of("value"))
        # What was put away from a table is not meant beside it.
        known = {t: None for t in known if not any(t.startswith(f"{other}_") for other in known)}
        tables = [self.of] if self.of in known else list(known)
        self.intent.instead = tables[1:]
        return tables

    def use_table(self, name: str) -> None:
        for span in self.spans:
            if any(m.table == name for m in span.of("table")):
                self.used.add(span.start)
                self.intent.rows_said |= set(range(span.start, span.end))

    def _remaining(self) -> None:
        """What is neither figure nor group: filters, the dating column, tables that are only mentioned."""
        self.intent.share = bool((SHARE | {"rate"}) & set(self.low)) and not any(
            f.measure is not None and f.measure.unit == "%" for f in self.intent.figures
        )
        for span in self.spans:
            if span.start in self.used:
                continue
            compared = self._compared(span)
            values = self._nearest(span.of("value", "null"))
            columns = self._nearest(span.of("column"))
            if compared and columns:
                ends = compared[2] + 1
                said = tuple(range(span.start, ends) if ends > span.start else range(compared[2] - 2, span.end))
                self.intent.filters.append(Filter(self._column(columns[0]), *compared[:2], said=said))
            elif span.of("table") and not values:
                self.intent.mentioned.append(span.of("table")[0].table)
                self.intent.rows_said |= set(range(span.start, span.end))
            elif values:
                negated = span.start > 0 and self.low[span.start - 1] in ("not", "no", "without", "except")
                best = values[0]
                operator = "IS NULL" if best.kind == "null" else "="
                said = tuple(range(span.start - negated, span.end))
                found = Filter(self._column(best), operator, best.value, negated, said=said)
                self.intent.filters.append(self.towards(found, span))
            elif columns and self._column(columns[0]).temporal:
                self.intent.rows_said |= set(range(span.start, span.end))
                self.intent.when = self.intent.when or self._column(columns[0])

    def _compared(self, span: Span) -> tuple[str, str, int] | None:
        return compared_after(self.words, span.end, self.taken) or compared_before(self.words, span.start)

    def _order(self) -> None:
        intent, low = self.intent, self.low
        self._tops()
        ranks = [i for i, w in enumerate(low) if w in MOST | LEAST and superlative_stands(self.low, i)]
        words = [low[i] for i in ranks]
        if intent.groups or intent.limit:
            intent.order_said |= {place for rank in ranks for place in ranking(low, rank)}
        if words and intent.ascending is None and (intent.groups or intent.limit):
            intent.ascending = self._smallest_first(words[-1])
        if intent.limit is not None and intent.ascending is None:
            intent.ascending = False
        if intent.rows_of and intent.ascending is not None and intent.ranked_by is None:
            raise NotInData(f"Nothing in {intent.rows_of} says what comes first.")

    def _tops(self) -> None:
        for index, word in enumerate(self.low[:-1]):
            top = number(self.words[index + 1]) if word in ("top", "first", "bottom") else None
            if top is not None and index + 1 not in self.taken:
                self.intent.limit, self.intent.ascending = top, word == "bottom"
                self.intent.order_said |= {index, index + 1}
                self._top_group(index + 2)

    def _smallest_first(self, word: str) -> bool:
        better = next((f.measure.better for f in self.intent.figures if f.measure is not None), "")
        return {"worst": better != "low", "best": better == "low"}.get(word, word in LEAST)

    def _top_group(self, index: int) -> None:
        """ "Top 5 things by …": the things that follow are a group, and not rows to be listed."""
        span = self._span_at(self._skip(index))
        if span is None or any(g.table == m.table for g in self.intent.groups for m in span.of("table")):
            return
        meaning = self._groupable(span)
        if meaning is None or not self.intent.figures:
            return
        if meaning.kind == "table":
            self.intent.groups.append(Group(table=meaning.table))
            self.intent.mentioned = [t for t in self.intent.mentioned if t != meaning.table]
            self.intent.figures = [f for f in self.intent.figures if f.table != meaning.table] or self.intent.figures
        else:
            self.intent.groups.append(Group(column=self._column(meaning)))

    # helpers ------------------------------------------------------------------------------------

    def _column(self, meaning: Meaning) -> Column:
        columns = self.prompt.tables[meaning.table].columns
        return columns.get(meaning.column) or next(iter(columns.values()))

    def _nearest(self, meanings: list[Meaning]) -> list[Meaning]:
        return nearest(meanings, self.spans, self.intent, self.prompt, frozenset(w.stem for w in self.words))
