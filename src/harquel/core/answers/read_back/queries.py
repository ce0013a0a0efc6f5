"""Whole queries in words: what they give, from where, which rows, per what, in what order."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from harquel.core.review.statement import is_aggregate, plain, within

from .saying import written
from .values import Values

SAID: Final = frozenset(
    "expressions from_ joins where group having order limit offset distinct with_ kind hint operation_modifiers".split()
)
"""What a SELECT may hold that is said here; anything else is told as it is written."""


class Queries(Values):
    """Says whole queries, a sentence for each of their parts."""

    def read(self) -> str:
        """The whole statement; queries within it follow under letters."""
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
        """A query, whatever it is made of."""
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
            sentences.append(self.say("rest", sql=written(node)))
        return " ".join(s for s in sentences if s)

    def select(self, node: exp.Select) -> list[str]:
        """A sentence for each part of a SELECT."""
        sentences = [self.say("gives", what=self.listed(self.projection(p) for p in node.expressions))]
        if node.args.get("from_") is not None:
            sentences.append(self.say("from", tables=self.tables(node)))
        where, having = node.args.get("where"), node.args.get("having")
        if where is not None:
            sentences.append(self.say("where", conditions=self.condition(where.this)))
        sentences += self.groups(node)
        if having is not None:
            sentences.append(self.say("having", conditions=self.condition(having.this)))
        if node.args.get("distinct") is not None:
            sentences.append(self.say("distinct"))
        sentences += self.tail(node)
        rest = [v for k, v in node.args.items() if k not in SAID and v]
        sentences += [self.say("rest", sql=written(r)) for r in rest]
        return sentences

    def groups(self, node: exp.Select) -> list[str]:
        """Per what, or that everything is one."""
        group = node.args.get("group")
        grouped = [self.grouped(g, node) for g in group.expressions] if group is not None else []
        if group is not None and grouped:
            extra = [written(v) for k, v in group.args.items() if k != "expressions" and v]
            said = self.say("per", groups=self.listed(g.removeprefix("the ") for g in grouped))
            return [said, *(self.say("rest", sql=e) for e in extra)]
        if any(is_aggregate(n) and not isinstance(n.parent, exp.Window) for p in node.expressions for n in within(p)):
            return [self.say("one row")]
        return []

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
                sentences.append(self.say("rest", sql=written(limit)))
        if offset is not None:
            sentences.append(self.say("offset", n=self.value(offset.expression)))
        return sentences

    def tables(self, node: exp.Select) -> str:
        """What is read, and on what it is matched."""
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
        """Something in FROM."""
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
        return self.verbatim(node)

    def projection(self, node: exp.Expr) -> str:
        """A column of the result."""
        said = self.value(node.unalias())
        name = node.alias
        if name and name.casefold().replace("_", " ") not in said.casefold():
            return self.say("as", x=said, name=name)
        return said

    def grouped(self, node: exp.Expr, select: exp.Select) -> str:
        """What one row is given for each of; a place stands for the column there."""
        if isinstance(node, exp.Literal) and not node.is_string:
            place = int(node.this) - 1
            if 0 <= place < len(select.expressions):
                return self.value(select.expressions[place].unalias())
        return self.value(self.named(node, select))
