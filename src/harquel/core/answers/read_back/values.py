"""Expressions in words: what a column, a figure, a call or a CASE gives."""

from __future__ import annotations

from collections.abc import Callable

from sqlglot import exp

from harquel.core.answers.units import bare
from harquel.core.review.calendar import calendar_unit, timed, whole_days
from harquel.core.review.clocks import reads_clock
from harquel.core.review.known import follows
from harquel.core.review.statement import called, plain

from .conditions import Conditions


class Values(Conditions):
    """Says values, each kind by the first of `_READERS` that has words for it."""

    def value(self, node: exp.Expr | None) -> str:
        """What an expression gives: an agreed measure by its name, other kinds in words, the rest as written."""
        if node is None:
            return self.say("nothing")
        if type(node) in self.outermost and not isinstance(node, exp.Column | exp.Literal):
            name = self.measures.get((type(node), bare(node)))
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
            return self._call(node)
        return self.verbatim(node)

    def named(self, node: exp.Expr, select: exp.Expr) -> exp.Expr:
        """What a name of the output stands for."""
        if isinstance(node, exp.Column) and not node.table and isinstance(select, exp.Select):
            for projection in select.expressions:
                if projection.alias and projection.alias.casefold() == node.name.casefold():
                    named: exp.Expr = projection.unalias()
                    return named
        return node

    def ordered(self, node: exp.Expr, select: exp.Expr) -> str:
        """A key of ORDER BY; a position stands for the output there."""
        inner = node.this if isinstance(node, exp.Ordered) else node
        if isinstance(inner, exp.Literal) and not inner.is_string and isinstance(select, exp.Select):
            place = int(inner.this) - 1
            if 0 <= place < len(select.expressions):
                inner = select.expressions[place].unalias()
        return self.say("down" if node.args.get("desc") else "up", x=self.value(self.named(inner, select)))

    def _call(self, node: exp.Expr) -> str:
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

    def _count(self, node: exp.Expr) -> str:
        inner = node.this
        if isinstance(inner, exp.Star) or inner is None:
            return self.say("counts", things=self.say("rows"))
        if isinstance(inner, exp.Distinct):
            return self.say("counts different", x=self.listed(self.value(e) for e in inner.expressions))
        return self.say("counts values", x=self.value(inner))

    def _difference(self, node: exp.Expr) -> str | None:
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

    def _binary(self, node: exp.Expr) -> str | None:
        key = _SUMS.get(type(node))
        return None if key is None else self.say(key, a=self._side(node.this), b=self._side(node.expression))

    def _side(self, node: exp.Expr) -> str:
        said = self.value(node)
        inner = node.unnest() if isinstance(node, exp.Paren) else node
        return f"({said})" if isinstance(inner, exp.Add | exp.Sub | exp.Mul | exp.Div | exp.Case) else said

    def _case(self, node: exp.Expr) -> str:
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

    def _window(self, node: exp.Expr) -> str | None:
        part, order, spec = node.args.get("partition_by"), node.args.get("order"), node.args.get("spec")
        if spec is not None or node.args.get("alias"):
            return None
        within = self.say("window part", x=self.listed(self.value(p) for p in part)) if part else ""
        run = self.say("window order", x=self.listed(self.ordered(o, node) for o in order.expressions)) if order else ""
        return self.say(
            "window", x=self.value(node.this), part=within, order=run or ("" if within else self.say("window all"))
        )

    def _coalesce(self, node: exp.Expr) -> str:
        return self.say("coalesce", a=self.value(node.this), b=self.listed(self.value(e) for e in node.expressions))

    def _aggregate(self, node: exp.Expr) -> str | None:
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

    def _subquery(self, node: exp.Expr) -> str:
        return self.say("single", letter=self.letter(node))

    def _text(self, node: exp.Expr) -> str:
        return f"'{node.this}'" if node.is_string else str(node.this)


_SUMS: dict[type[exp.Expr], str] = {
    exp.Add: "plus", exp.Sub: "minus", exp.Mul: "times", exp.Div: "over", exp.IntDiv: "over", exp.Mod: "remainder",
    exp.DPipe: "joined",
}  # fmt: skip
_AGGREGATES: dict[type[exp.Expr], str] = {
    exp.Sum: "sum", exp.Avg: "average", exp.Max: "highest", exp.Min: "lowest",
}  # fmt: skip
_Read = Callable[[Values, exp.Expr], str | None]
_READERS: tuple[tuple[type[exp.Expr] | tuple[type[exp.Expr], ...], _Read], ...] = (
    (exp.Column, Values.column), (exp.Literal, Values._text), (exp.Count, Values._count),
    ((exp.Sum, exp.Avg, exp.Max, exp.Min), Values._aggregate), (exp.Paren, lambda r, n: r.value(n.this)),
    (exp.Sub, Values._difference), (tuple(_SUMS), Values._binary), (exp.Case, Values._case),
    (exp.Coalesce, Values._coalesce), (exp.Window, Values._window), (exp.Subquery, Values._subquery),
    (exp.Neg, lambda r, n: r.say("negative", a=r.value(n.this))), (exp.Null, lambda r, n: r.say("nothing")),
    (exp.Star, lambda r, n: r.say("star")), (exp.Boolean, lambda r, n: "true" if n.this else "false"),
    (exp.Cast, lambda r, n: r.say("cast", a=r.value(n.this), type=n.args["to"].sql().lower())),
    (exp.Nullif, lambda r, n: r.say("nullif", a=r.value(n.this), b=r.value(n.expression))),
    (exp.Filter, lambda r, n: r.say("filter", x=r.value(n.this), test=r.condition(n.expression.this))),
    ((exp.Predicate, exp.Not, exp.And, exp.Or), lambda r, n: r.condition(n)),
)  # fmt: skip
