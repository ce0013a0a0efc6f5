"""Conditions in words: what rows must meet."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from harquel.core.review.calendar import is_temporal, timed

from .saying import Saying

_COMPARES: Final[dict[type[exp.Expr], str]] = {
    exp.EQ: "=", exp.NEQ: "<>", exp.LT: "<", exp.LTE: "<=", exp.GT: ">", exp.GTE: ">=",
}  # fmt: skip


class Conditions(Saying):
    """Says conditions; what they compare is said by `value`."""

    def condition(self, node: exp.Expr) -> str:
        """What rows must meet; AND, OR and NOT in words."""
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
            return self._negated(node.this)
        return self._test(node, False)

    def _negated(self, node: exp.Expr) -> str:
        if isinstance(node, exp.Paren) and not isinstance(node.this, exp.And | exp.Or):
            return self._negated(node.this)
        if isinstance(node, exp.Is | exp.In | exp.Like | exp.ILike | exp.Exists | exp.Column):
            return self._test(node, True)
        return self.say("not", a=self.condition(node))

    def _test(self, node: exp.Expr, negated: bool) -> str:
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
            return self._compared(key, node)
        if isinstance(node, exp.Column):
            return self.say("false" if negated else "true", a=self.value(node))
        if isinstance(node, exp.Is):
            key = "<>" if negated is not bool(node.args.get("negate")) else "="
            return self.say(key, a=self.value(node.this), b=self.value(node.expression))
        said = self.verbatim(node) if isinstance(node, exp.Predicate) else self.value(node)
        return self.say("not", a=said) if negated else said

    def _compared(self, key: str, node: exp.Expr) -> str:
        left, right = node.this, node.expression
        ref = self.statement.ref(left) or self.statement.ref(right)
        if ref is not None and is_temporal(ref.column) and timed(left, self.statement) is not None:
            key = {"<": "before", ">": "after", "<=": "until", ">=": "since"}.get(key, key)
        if key == "=" and isinstance(left, exp.Column) and isinstance(right, exp.Column):
            key = "same"
        return self.say(key, a=self.literal(left, ref), b=self.literal(right, ref))
