"""From an intent to SQL in the dialect of the prompt, and to a sentence that explains it."""

from __future__ import annotations

import datetime as dt
import re

from .intent import Figure, Filter, Group, Intent, NotInData
from .joins import JoinTree, NoPath
from .periods import Period
from .prompt import Column, Prompt


def write(intent: Intent, prompt: Prompt, words: frozenset[str]) -> tuple[str, str]:
    """(SQL, explanation). Raises NotInData when the tables cannot be connected or dated."""
    try:
        return _Writer(intent, prompt, words).write()
    except NoPath as error:
        raise NotInData(f"The question needs tables that do not hang together: {error}.") from error


class _Writer:
    def __init__(self, intent: Intent, prompt: Prompt, words: frozenset[str]) -> None:
        self.intent, self.prompt = intent, prompt
        self.tree = JoinTree(prompt, intent.base, words, pairing="between" in words)
        self.touched: set[str] = set()
        self.dialect = prompt.dialect
        self.quote = prompt.dialect.quote

    def write(self) -> tuple[str, str]:
        intent = self.intent
        if intent.rows_of:
            self.touched.add(intent.rows_of)
        for figure in intent.figures:
            if figure.measure is None:
                self.touched.add(figure.base)
            self.tree.reach(figure.base)
        when = self._when()
        for table in intent.mentioned:
            self.tree.reach(table)
            self.touched.add(table)
        groups = [self._group(g, when) for g in intent.groups]
        conditions = [self._filter(f) for f in intent.filters]
        selects = self._selects(conditions)
        for figure in intent.figures:
            if figure.measure is not None and figure.measure.where:
                self._reach_named(figure.measure.where)
                conditions.append(figure.measure.where)
        if intent.never:
            conditions.append(self._none_of(intent.never))
        if intent.weekday is not None:
            conditions.append(self.dialect.is_weekday(self._dated(when), intent.weekday))
        if intent.older_than_days is not None:
            limit = self.prompt.now - dt.timedelta(days=intent.older_than_days)
            conditions.append(f"{self._dated(when)} < {self._instant(limit, when)}")
        for table in sorted(self.touched):
            always = self.prompt.tables[table].always
            if always and always not in conditions:
                conditions.append(always)
        return self._assemble(groups, selects, conditions, when), self._explain()

    # -- parts -----------------------------------------------------------------------------------

    def _when(self) -> Column | None:
        intent = self.intent
        if intent.when is not None:
            return intent.when
        for figure in intent.figures:
            if figure.measure is not None and "." in figure.measure.when:
                table, column = figure.measure.when.split(".")
                if table in self.prompt.tables:
                    return self.prompt.tables[table].columns.get(column)
        return self.prompt.dated(intent.base)

    def _dated(self, when: Column | None) -> str:
        if when is None:
            raise NotInData("Nothing in the schema says when it was.")
        return self._at(when)

    def _at(self, column: Column) -> str:
        return f"{self.quote(self.tree.reach(column.table)[0])}.{self.quote(column.name)}"

    def _none_of(self, table: str) -> str:
        """That nothing of another table points here."""
        links = self.prompt.tables[table].links.items()
        key = next(((column, there) for column, (target, there) in links if target == self.intent.base), None)
        if key is None:
            raise NotInData(f"Nothing in {table} points at {self.intent.base}.")
        name, column, here = (
            self.quote(table),
            self.quote(key[0]),
            f"{self.quote(self.intent.base)}.{self.quote(key[1])}",
        )
        return f"NOT EXISTS (SELECT 1 FROM {name} WHERE {name}.{column} = {here})"

    def _reach_named(self, sql: str) -> None:
        for table in re.findall(r"\b(\w+)\.\w+", sql):
            if table in self.prompt.tables:
                self.tree.reach(table)

    def _group(self, group: Group, when: Column | None) -> tuple[str, str]:
        if group.unit:
            at = self._dated(when)
            if group.unit == "hour" and when is not None and when.temporal != "timestamp":
                raise NotInData("The schema holds days, but no time of day.")
            compared = len(self.intent.periods) > 1
            form = (self.dialect.within_year if compared else {}).get(group.unit) or self.dialect.units[group.unit]
            return form.format(at), group.unit
        if group.column is not None:
            self.touched.add(group.column.table)
            at = self._at(group.column)
            if group.column.null_means and group.column.nullable:
                meaning = group.column.null_means.split(",")[0].replace("'", "''")
                at = f"COALESCE({at}, '{meaning}')"
            return at, group.column.name
        alias = self.tree.reach(group.table, group.via)[0]
        if group.via is not None:
            self.touched |= {t for t in self.tree.aliases if group.via in self.prompt.tables[t].columns}
        self.touched.add(group.table)
        label = self.prompt.tables[group.table].naming_column()
        if label is None:
            raise NotInData(f"Nothing names the rows of {group.table}.")
        return f"{self.quote(alias)}.{self.quote(label.name)}", group.via.removesuffix(
            "_id"
        ) if group.via else group.table

    def _filter(self, found: Filter) -> str:
        column = found.column
        aliases = self.tree.reach(column.table, found.via, both=found.via is None)
        self.touched.add(column.table)
        if found.average:
            name, table = self.quote(column.name), self.quote(column.table)
            return f"{self.quote(aliases[0])}.{name} {found.operator} (SELECT AVG({name}) FROM {table})"
        value = found.value if column.numeric else "'" + found.value.replace("'", "''") + "'"
        test = found.operator if found.operator == "IS NULL" else f"{found.operator} {value}"
        parts = [f"{self.quote(a)}.{self.quote(column.name)} {test}" for a in aliases]
        text = parts[0] if len(parts) == 1 else f"({' OR '.join(parts)})"
        return f"NOT {text}" if found.negated else text

    def _selects(self, conditions: list[str]) -> list[tuple[str, str]]:
        intent = self.intent
        if intent.rows_of:
            return self._row_columns()
        selects = [self._figure(f) for f in intent.figures]
        if intent.share:
            whole = selects[0][0]
            if intent.groups and intent.filters and not intent.figures[0].column:
                tests = [self._filter(f) for f in intent.filters]
                for test in tests:
                    conditions.remove(test)
                rows = f"{self.quote(intent.base)}.{self._key(intent.base)}"
                part = f"SUM(CASE WHEN {' AND '.join(tests)} THEN 1 ELSE 0 END)"
                selects = [(f"100.0 * {part} / COUNT({rows})", "share_percent")]
            elif intent.groups:
                selects.append((f"100.0 * {whole} / SUM({whole}) OVER ()", "share_percent"))
            elif conditions:
                test = " AND ".join(conditions)
                conditions.clear()
                selects = [(f"100.0 * SUM(CASE WHEN {test} THEN 1 ELSE 0 END) / COUNT(*)", "share_percent")]
        return selects

    def _key(self, table: str) -> str:
        return self.quote(self.prompt.tables[table].key_column() or "*")

    def _lasting(self, figure: Figure, end: Column, since: Column) -> tuple[str, str]:
        """The time from one column to another: of times in minutes, of days in days."""
        minutes = end.temporal == since.temporal == "timestamp"
        form = self.dialect.minutes if minutes else self.dialect.days
        word = {"AVG": "average", "SUM": "total", "MAX": "longest", "MIN": "shortest"}[figure.function]
        said = f"{figure.function}({form.format(self._at(end), self._at(since))})"
        return said, f"{word}_{'minutes' if minutes else 'days'}"

    def _figure(self, figure: Figure) -> tuple[str, str]:
        if figure.measure is not None:
            self._reach_named(figure.measure.sql)
            return figure.measure.sql, "_".join(re.findall(r"\w+", figure.measure.name.lower()))
        if figure.column is not None and figure.since is not None:
            return self._lasting(figure, figure.column, figure.since)
        if figure.column is not None:
            at, name = self._at(figure.column), figure.column.name
            word = {"AVG": "average", "SUM": "total", "MAX": "highest", "MIN": "lowest"}[figure.function]
            name = name.removeprefix("total_") if word == "total" else name
            if "cent" in figure.column.unit:
                return f"{figure.function}({at}) / 100.0", f"{word}_{name.removesuffix('_cents')}_eur"
            return f"{figure.function}({at})", f"{word}_{name}"
        key = self.prompt.tables[figure.table].key_column()
        name = f"{figure.table}_count"
        if self.tree.fans_out and key:
            return f"COUNT(DISTINCT {self.quote(figure.table)}.{self.quote(key)})", name
        return "COUNT(*)", name

    def _row_columns(self) -> list[tuple[str, str]]:
        table = self.prompt.tables[self.intent.rows_of]
        selects = []
        for column in table.columns.values():
            link = table.links.get(column.name)
            target = self.prompt.tables.get(link[0]) if link else None
            label = target.label_column() if target else None
            if target is not None and label is not None and not column.nullable:
                alias = self.tree.reach(target.name, column.name)[0]
                selects.append((f"{self.quote(alias)}.{self.quote(label.name)}", column.name.removesuffix("_id")))
            else:
                selects.append((f"{self.quote(table.name)}.{self.quote(column.name)}", column.name))
        return selects

    # -- the statement ---------------------------------------------------------------------------

    def _instant(self, at: dt.datetime, when: Column | None) -> str:
        whole = at.time() == dt.time() or (when is not None and when.temporal == "date")
        return f"'{at:%Y-%m-%d}'" if whole else f"'{at:%Y-%m-%d %H:%M:%S}'"

    def _within(self, period: Period, when: Column | None) -> list[str]:
        at = self._dated(when)
        parts = []
        if period.start is not None:
            parts.append(f"{at} >= {self._instant(period.start, when)}")
        if period.end is not None:
            parts.append(f"{at} {'<=' if period.to_now else '<'} {self._instant(period.end, when)}")
        return parts

    def _assemble(
        self, groups: list[tuple[str, str]], selects: list[tuple[str, str]], conditions: list[str], when: Column | None
    ) -> str:
        if self.tree.fans_out and any(f.measure or f.column for f in self.intent.figures):
            raise NotInData("The figure cannot be split that way: its rows would be counted several times.")
        periods = self.intent.periods
        if len(periods) > 1 and not self.intent.rows_of:
            branches = []
            for period in periods:
                label = ("'" + period.label.replace("'", "''") + "'", "period")
                branches.append(
                    self._select([*groups, label], selects, conditions + self._within(period, when), groups)
                )
            numbers = ", ".join(str(i + 1) for i in range(len(groups) + 1))
            return " UNION ALL ".join(branches) + (f" ORDER BY {numbers}" if groups else "")
        for period in periods:
            conditions = conditions + self._within(period, when)
        sql = self._select(groups, selects, conditions, groups)
        return sql + self._tail(groups, selects)

    def _select(
        self, labels: list[tuple[str, str]], selects: list[tuple[str, str]], conditions: list[str],
        groups: list[tuple[str, str]],
    ) -> str:  # fmt: skip
        listed = ", ".join(
            sql if _says(sql, name) else f"{sql} AS {self.quote(name)}" for sql, name in [*labels, *selects]
        )
        parts = [f"SELECT {listed} FROM {self.quote(self.intent.base)}", *self.tree.clauses]
        if conditions:
            parts.append("WHERE " + " AND ".join(conditions))
        if groups:
            parts.append("GROUP BY " + ", ".join(sql for sql, _ in groups))
        return " ".join(parts)

    def _tail(self, groups: list[tuple[str, str]], selects: list[tuple[str, str]]) -> str:
        intent, tail = self.intent, ""
        if intent.ranked_by is not None:
            tail = f" ORDER BY {self._at(intent.ranked_by)} {'ASC' if intent.ascending else 'DESC'}"
        elif intent.ascending is not None and selects:
            tail = f" ORDER BY {self.quote(selects[0][1])} {'ASC' if intent.ascending else 'DESC'}"
            tail += "".join(f", {sql}" for sql, _ in groups)
        elif groups:
            tail = " ORDER BY " + ", ".join(sql for sql, _ in groups)
        elif intent.rows_of:
            tail = " ORDER BY 1"
        return tail + (f" LIMIT {intent.limit}" if intent.limit else "")

    def _explain(self) -> str:
        intent = self.intent
        what = ", ".join(map(_figure_words, intent.figures)) or f"the rows of {intent.rows_of}"
        parts = [what[0].upper() + what[1:]]
        if intent.groups:
            parts.append("per " + " and ".join(map(_group_words, intent.groups)))
        if intent.periods:
            parts.append("for " + " against ".join(p.label for p in intent.periods))
        if intent.filters:
            parts.append("where " + " and ".join(map(_filter_words, intent.filters)))
        if intent.share:
            parts.append("as a share of the whole")
        if intent.limit:
            parts.append(f"limited to {intent.limit}")
        return " ".join(parts) + "."


def _figure_words(figure: Figure) -> str:
    if figure.measure is not None:
        return figure.measure.name
    if figure.column is not None:
        word = {"AVG": "average", "SUM": "sum", "MAX": "highest", "MIN": "lowest"}[figure.function]
        return f"{word} of {figure.column.name.replace('_', ' ')}"
    return f"number of {figure.table.replace('_', ' ')} rows"


def _group_words(group: Group) -> str:
    return group.unit or group.table or (group.column.name if group.column else "")


def _filter_words(found: Filter) -> str:
    test = {"IS NULL": "missing", "=": found.value}.get(found.operator) or f"{found.operator} {found.value}"
    return f"{found.column.table}.{found.column.name} is {'not ' if found.negated else ''}{test}"


def _says(sql: str, name: str) -> bool:
    return sql.endswith(f".{name}")
