"""A statement said in plain sentences, from its tree and the notes: what, from where, which rows, in what order.

Complete: whatever part of the tree has no words of its own stands there as it is written, never left out.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from string import ascii_uppercase

from sqlglot import exp

from harquel.core.answers.phrases import PHRASES, Language
from harquel.core.answers.units import bare, bare_measure
from harquel.core.domain.notes import Notes
from harquel.core.review.context import follows
from harquel.core.review.statement import Ref, Statement, called, is_aggregate, plain, within
from harquel.core.review.times import calendar_unit, is_temporal, reads_clock, timed, whole_days

# What a SELECT may hold that is said here; anything else is told as it is written.
_SAID = frozenset(
    "expressions from_ joins where group having order limit offset distinct with_ kind hint operation_modifiers".split()
)


def read_back(statement: Statement, notes: Notes, language: Language = "en") -> str:
    """The whole statement, a sentence for each of its parts; queries within it follow under letters."""
    return _Reader(statement, notes, language).read()


class _Reader:
    def __init__(self, statement: Statement, notes: Notes, language: Language) -> None:
        self.statement, self.notes = statement, notes
        self.words = PHRASES[language]
        self.several = len(statement.names.tables) > 1
        self.inner: list[tuple[str, exp.Expr]] = []
        self.measures = {
            m: name for name, measure in notes.measures.items()
            if (m := bare_measure(measure.sql, statement.catalog.engine)) is not None
        }  # fmt: skip

    def say(self, key: str, **given: str) -> str:
        return self.words[key].format(**given)

    def listed(self, items: Iterable[str]) -> str:
        found = list(items)
        if len(found) < 2:
            return "".join(found)
        return self.say("list", first=", ".join(found[:-1]), last=found[-1])

    # -- queries ---------------------------------------------------------------------------------

    def read(self) -> str:
        tree = self.statement.tree
        sentences = [self.query(tree)]
        told = 0
        # Queries within queries are told after the one that they stand in.
        while told < len(self.inner):
            name, node = self.inner[told]
            told += 1
            sentences.append(self.say("sub", name=name, text=self.query(node)))
        return " ".join(sentences)

    def query(self, node: exp.Expr) -> str:
        sentences = []
        with_ = node.args.get("with_")
        for cte in with_.expressions if with_ is not None else ():
            self.inner.append((cte.alias, cte.this))
        if isinstance(node, exp.Subquery):
            return self.query(node.this)
        if isinstance(node, exp.SetOperation):
            sentences.append(self.query(node.this))
            key = node.key if not isinstance(node, exp.Union) or node.args.get("distinct") else "union all"
            sentences.append(self.say(key, b=self.query(node.expression)))
            sentences += self.tail(node)
        elif isinstance(node, exp.Select):
            sentences += self.select(node)
        else:
            sentences.append(self.say("rest", sql=_sql(node)))
        return " ".join(s for s in sentences if s)

    def select(self, node: exp.Select) -> list[str]:
        group = node.args.get("group")
        grouped = [self.grouped(g, node) for g in group.expressions] if group is not None else []
        sentences = [self.say("gives", what=self.listed(self.projection(p) for p in node.expressions))]
        if node.args.get("from_") is not None:
            sentences.append(self.say("from", tables=self.tables(node)))
        where, having = node.args.get("where"), node.args.get("having")
        if where is not None:
            sentences.append(self.say("where", conditions=self.condition(where.this)))
        if grouped:
            sentences.append(self.say("per", groups=self.listed(g.removeprefix("the ") for g in grouped)))
            assert group is not None
            extra = [_sql(v) for k, v in group.args.items() if k != "expressions" and v]
            sentences += [self.say("rest", sql=e) for e in extra]
        elif any(is_aggregate(n) and not isinstance(n.parent, exp.Window) for p in node.expressions for n in within(p)):
            sentences.append(self.say("one row"))
        if having is not None:
            sentences.append(self.say("having", conditions=self.condition(having.this)))
        if node.args.get("distinct") is not None:
            sentences.append(self.say("distinct"))
        sentences += self.tail(node)
        rest = [v for k, v in node.args.items() if k not in _SAID and v]
        sentences += [self.say("rest", sql=_sql(r)) for r in rest]
        return sentences

    def tail(self, node: exp.Expr) -> list[str]:
        """Order, limit and offset."""
        sentences = []
        order, limit, offset = (node.args.get(k) for k in ("order", "limit", "offset"))
        if order is not None:
            sentences.append(self.say("order", keys=self.listed(self.ordered(o, node) for o in order.expressions)))
        if limit is not None:
            count = plain(limit.expression) if limit.args.get("expression") is not None else None
            if isinstance(count, float):
                shown = self.say("row") if count == 1 else self.say("n rows", n=f"{count:g}")
                sentences.append(self.say("limit", n=shown))
            else:
                sentences.append(self.say("rest", sql=_sql(limit)))
        if offset is not None:
            sentences.append(self.say("offset", n=self.value(offset.expression)))
        return sentences

    def tables(self, node: exp.Select) -> str:
        parts = [self.source(node.args["from_"].this)]
        for join in node.args.get("joins") or ():
            table, on, using = self.source(join.this), join.args.get("on"), join.args.get("using")
            side = (join.side or "").lower()
            tie = self.condition(on) if on is not None else ""
            if using:
                tie = self.say("using", names=self.listed(u.name for u in using))
            if not tie:
                parts.append(self.say("with all", table=table))
            elif side == "left":
                parts.append(self.say("with if any", table=table, on=tie))
            elif side in ("right", "full"):
                parts.append(self.say(f"side {side}", table=table, on=tie))
            else:
                parts.append(self.say("with", table=table, on=tie))
        return self.listed(parts)

    def source(self, node: exp.Expr) -> str:
        if isinstance(node, exp.Table):
            table = self.statement.tables.get(id(node))
            name = table.name if table is not None else node.name
            twice = table is not None and sum(t is table for _, t in self.statement.names.tables) > 1
            if twice and node.alias and node.alias != name:
                return self.say("same name", table=name, alias=node.alias)
            return name
        if isinstance(node, exp.Subquery | exp.Lateral) and node.find(exp.Query):
            letter = self.letter(node.this if isinstance(node, exp.Lateral) else node)
            return (
                self.say("same name", table=self.say("set", letter=letter), alias=node.alias) if node.alias else letter
            )
        return self.say("verbatim", sql=_sql(node))

    def letter(self, node: exp.Expr) -> str:
        number = sum(name in ascii_uppercase for name, _ in self.inner)
        name = ascii_uppercase[number] if number < 26 else f"Z{number}"
        self.inner.append((name, node))
        return name

    def projection(self, node: exp.Expr) -> str:
        said = self.value(node.unalias())
        name = node.alias
        if name and name.casefold().replace("_", " ") not in said.casefold():
            return self.say("as", x=said, name=name)
        return said

    def grouped(self, node: exp.Expr, select: exp.Select) -> str:
        if isinstance(node, exp.Literal) and not node.is_string:
            place = int(node.this) - 1
            if 0 <= place < len(select.expressions):
                return self.value(select.expressions[place].unalias())
        return self.value(self.named(node, select))

    def named(self, node: exp.Expr, select: exp.Expr) -> exp.Expr:
        """What a name of the output stands for."""
        if isinstance(node, exp.Column) and not node.table and isinstance(select, exp.Select):
            for projection in select.expressions:
                if projection.alias and projection.alias.casefold() == node.name.casefold():
                    named: exp.Expr = projection.unalias()
                    return named
        return node

    def ordered(self, node: exp.Expr, select: exp.Expr) -> str:
        inner = node.this if isinstance(node, exp.Ordered) else node
        if isinstance(inner, exp.Literal) and not inner.is_string and isinstance(select, exp.Select):
            place = int(inner.this) - 1
            if 0 <= place < len(select.expressions):
                inner = select.expressions[place].unalias()
        return self.say("down" if node.args.get("desc") else "up", x=self.value(self.named(inner, select)))

    # -- conditions ------------------------------------------------------------------------------

    def condition(self, node: exp.Expr) -> str:
        if isinstance(node, exp.Paren):
            return self.condition(node.this)
        if isinstance(node, exp.And | exp.Or):
            sides = []
            for side in (node.this, node.expression):
                said = self.condition(side)
                inner = side.unnest() if isinstance(side, exp.Paren) else side
                mixed = isinstance(inner, exp.And | exp.Or) and type(inner) is not type(node)
                sides.append(self.say("either", a=said) if mixed else said)
            return self.say("and" if isinstance(node, exp.And) else "or").join(sides)
        if isinstance(node, exp.Not):
            return self.negated(node.this)
        return self.test(node, False)

    def negated(self, node: exp.Expr) -> str:
        if isinstance(node, exp.Paren) and not isinstance(node.this, exp.And | exp.Or):
            return self.negated(node.this)
        if isinstance(node, exp.Is | exp.In | exp.Like | exp.ILike | exp.Exists | exp.Column):
            return self.test(node, True)
        return self.say("not", a=self.condition(node))

    def test(self, node: exp.Expr, negated: bool) -> str:
        no = "not " if negated else ""
        if isinstance(node, exp.Is) and isinstance(node.expression, exp.Null):
            negated = negated is not bool(node.args.get("negate"))
            return self.say("not null" if negated else "null", a=self.value(node.this))
        if isinstance(node, exp.In) and node.args.get("query") is not None:
            among = self.say("set", letter=self.letter(node.args["query"]))
            return self.say(f"{no}in query", a=self.value(node.this), b=among)
        if isinstance(node, exp.In) and node.expressions:
            ref = self.statement.ref(node.this)
            options = self.listed(self.literal(e, ref) for e in node.expressions)
            return self.say(f"{no}in", a=self.value(node.this), b=options)
        if isinstance(node, exp.Exists):
            return self.say(f"{no}exists", b=self.say("such", letter=self.letter(node.this)))
        if isinstance(node, exp.Like | exp.ILike):
            return self.say(f"{no}like", a=self.value(node.this), b=self.value(node.expression))
        if isinstance(node, exp.Between):
            low, high = self.value(node.args["low"]), self.value(node.args["high"])
            return self.say("between", a=self.value(node.this), b=low, c=high)
        key = _COMPARES.get(type(node))
        if key is not None:
            return self.compared(key, node)
        if isinstance(node, exp.Column):
            return self.say("false" if negated else "true", a=self.value(node))
        if isinstance(node, exp.Is):
            key = "<>" if negated is not bool(node.args.get("negate")) else "="
            return self.say(key, a=self.value(node.this), b=self.value(node.expression))
        said = self.say("verbatim", sql=_sql(node)) if isinstance(node, exp.Predicate) else self.value(node)
        return self.say("not", a=said) if negated else said

    def compared(self, key: str, node: exp.Expr) -> str:
        left, right = node.this, node.expression
        ref = self.statement.ref(left) or self.statement.ref(right)
        if ref is not None and is_temporal(ref.column) and timed(left, self.statement) is not None:
            key = {"<": "before", ">": "after", "<=": "until", ">=": "since"}.get(key, key)
        if key == "=" and isinstance(left, exp.Column) and isinstance(right, exp.Column):
            key = "same"
        return self.say(key, a=self.literal(left, ref), b=self.literal(right, ref))

    def literal(self, node: exp.Expr, ref: Ref | None) -> str:
        """A value with what it means where it is a code."""
        if ref is None or not isinstance(node, exp.Literal | exp.Boolean):
            return self.value(node)
        about = self.notes.of(ref.table.name).columns.get(ref.column.name)
        text = str(node.this)
        meaning = about.codes.get(text) if about is not None else None
        said = self.value(node)
        return f"{said} ({meaning})" if meaning and meaning != text else said

    # -- values ----------------------------------------------------------------------------------

    def value(self, node: exp.Expr | None) -> str:
        if node is None:
            return self.say("nothing")
        if not isinstance(node, exp.Column | exp.Literal):
            name = self.measures.get(bare(node))
            # The same sum over other rows is another figure.
            if name is not None and follows(self.statement, self.notes.measures[name], self.notes):
                return self.say("agreed", name=name)
        for kind, reader in _READERS:
            if isinstance(node, kind):
                said = reader(self, node)
                if said is not None:
                    return said
        if reads_clock(node):
            return self.say("now")
        unit = calendar_unit(node, self.statement) if called(node) or isinstance(node, exp.Extract) else ""
        found = timed(node, self.statement) if unit else None
        if found is not None and unit in self.words and not (unit == "day" and whole_days(found.ref.column)):
            return self.say(unit, x=self.ref(found.ref))
        if called(node):
            return self.call(node)
        return self.say("verbatim", sql=_sql(node))

    def ref(self, ref: Ref) -> str:
        column = ref.column.name.replace("_", " ")
        return self.say("of", column=column, table=ref.table.name) if self.several else column

    def column(self, node: exp.Expr) -> str:
        ref = self.statement.ref(node)
        if ref is None:
            return node.name.replace("_", " ")
        twice = sum(t is ref.table for _, t in self.statement.names.tables) > 1
        if twice and isinstance(node, exp.Column) and node.table and node.table.casefold() != ref.table.name.casefold():
            return self.say("of", column=ref.column.name.replace("_", " "), table=node.table)
        return self.ref(ref)

    def call(self, node: exp.Expr) -> str:
        name, given = called(node), node.expressions
        if name == "ROUND" and given:
            places = plain(given[1]) if len(given) > 1 else 0.0
            if isinstance(places, float):
                key = "rounded" if places else "rounded whole"
                return self.say(key, a=self.value(given[0]), n=f"{places:g}")
        if name in ("DATE", "DATETIME", "TIME") and len(given) > 1:
            return self.say("shifted", x=self.value(given[0]), by=self.listed(self.value(g) for g in given[1:]))
        if name in ("IFNULL", "NVL") and len(given) == 2:
            return self.say("coalesce", a=self.value(given[0]), b=self.value(given[1]))
        if name in ("ROW_NUMBER", "RANK", "DENSE_RANK") and not given:
            return self.say("rank")
        return self.say(
            "call", name=name.lower(), args=self.listed(self.value(a) for a in given) or self.say("nothing")
        )

    def count(self, node: exp.Expr) -> str:
        inner = node.this
        if isinstance(inner, exp.Star) or inner is None:
            return self.say("counts", things=self.say("rows"))
        if isinstance(inner, exp.Distinct):
            return self.say("counts different", x=self.listed(self.value(e) for e in inner.expressions))
        return self.say("counts values", x=self.value(inner))

    def difference(self, node: exp.Expr) -> str | None:
        names = [called(side) for side in (node.this, node.expression)]
        if names == ["JULIANDAY", "JULIANDAY"]:
            a, b = (side.expressions[0] for side in (node.this, node.expression))
            return self.say("days between", a=self.value(a), b=self.value(b))
        if names == ["STRFTIME", "STRFTIME"] and all(
            plain(s.expressions[0]) == "%s" for s in (node.this, node.expression)
        ):
            a, b = (side.expressions[1] for side in (node.this, node.expression))
            return self.say("seconds between", a=self.value(a), b=self.value(b))
        return None

    def binary(self, node: exp.Expr) -> str | None:
        key = _SUMS.get(type(node))
        return None if key is None else self.say(key, a=self.side(node.this), b=self.side(node.expression))

    def side(self, node: exp.Expr) -> str:
        said = self.value(node)
        inner = node.unnest() if isinstance(node, exp.Paren) else node
        return f"({said})" if isinstance(inner, exp.Add | exp.Sub | exp.Mul | exp.Div | exp.Case) else said

    def case(self, node: exp.Expr) -> str:
        branches = []
        for branch in node.args["ifs"]:
            test = self.condition(branch.this)
            if node.this is not None:
                test = self.say(
                    "=", a=self.value(node.this), b=self.literal(branch.this, self.statement.ref(node.this))
                )
            branches.append(self.say("when", value=self.value(branch.args["true"]), test=test))
        default = node.args.get("default")
        rest = self.say("else none") if default is None else self.say("else", value=self.value(default))
        return self.say("case", branches=", ".join(branches), rest=rest)

    def window(self, node: exp.Expr) -> str | None:
        part, order, spec = node.args.get("partition_by"), node.args.get("order"), node.args.get("spec")
        if spec is not None or node.args.get("alias"):
            return None
        within = self.say("window part", x=self.listed(self.value(p) for p in part)) if part else ""
        run = self.say("window order", x=self.listed(self.ordered(o, node) for o in order.expressions)) if order else ""
        return self.say(
            "window", x=self.value(node.this), part=within, order=run or ("" if within else self.say("window all"))
        )

    def coalesce(self, node: exp.Expr) -> str:
        return self.say("coalesce", a=self.value(node.this), b=self.listed(self.value(e) for e in node.expressions))

    def aggregate(self, node: exp.Expr) -> str | None:
        key = _AGGREGATES.get(type(node))
        if (
            key is None
            or not isinstance(node.this, exp.Expr)
            or {k for k, v in node.args.items() if v} - {"this", "big_int"}
        ):
            return None
        inner = node.this
        if isinstance(inner, exp.Distinct):
            return self.say(key, x=self.say("different", x=self.listed(self.value(e) for e in inner.expressions)))
        return self.say(key, x=self.value(inner))

    def subquery(self, node: exp.Expr) -> str:
        return self.say("single", letter=self.letter(node))

    def text(self, node: exp.Expr) -> str:
        return f"'{node.this}'" if node.is_string else str(node.this)


_COMPARES: dict[type[exp.Expr], str] = {
    exp.EQ: "=", exp.NEQ: "<>", exp.LT: "<", exp.LTE: "<=", exp.GT: ">", exp.GTE: ">=",
}  # fmt: skip
_SUMS: dict[type[exp.Expr], str] = {
    exp.Add: "plus", exp.Sub: "minus", exp.Mul: "times", exp.Div: "over", exp.IntDiv: "over", exp.Mod: "remainder",
    exp.DPipe: "joined",
}  # fmt: skip
_AGGREGATES: dict[type[exp.Expr], str] = {
    exp.Sum: "sum", exp.Avg: "average", exp.Max: "highest", exp.Min: "lowest",
}  # fmt: skip
_Read = Callable[[_Reader, exp.Expr], str | None]
_READERS: tuple[tuple[type[exp.Expr] | tuple[type[exp.Expr], ...], _Read], ...] = (
    (exp.Column, _Reader.column), (exp.Literal, _Reader.text), (exp.Count, _Reader.count),
    ((exp.Sum, exp.Avg, exp.Max, exp.Min), _Reader.aggregate), (exp.Paren, lambda r, n: r.value(n.this)),
    (exp.Sub, _Reader.difference), (tuple(_SUMS), _Reader.binary), (exp.Case, _Reader.case),
    (exp.Coalesce, _Reader.coalesce), (exp.Window, _Reader.window), (exp.Subquery, _Reader.subquery),
    (exp.Neg, lambda r, n: r.say("negative", a=r.value(n.this))), (exp.Null, lambda r, n: r.say("nothing")),
    (exp.Star, lambda r, n: r.say("star")), (exp.Boolean, lambda r, n: "true" if n.this else "false"),
    (exp.Cast, lambda r, n: r.say("cast", a=r.value(n.this), type=n.args["to"].sql().lower())),
    (exp.Nullif, lambda r, n: r.say("nullif", a=r.value(n.this), b=r.value(n.expression))),
    (exp.Filter, lambda r, n: r.say("filter", x=r.value(n.this), test=r.condition(n.expression.this))),
    ((exp.Predicate, exp.Not, exp.And, exp.Or), lambda r, n: r.condition(n)),
)  # fmt: skip


def _sql(node: object) -> str:
    nodes = node if isinstance(node, list) else [node]
    return ", ".join(n.sql(comments=False) if isinstance(n, exp.Expr) else str(n) for n in nodes)
