"""Which agreed measures a statement uses, so that an answer can say whose definition it rests on."""

from __future__ import annotations

from sqlglot import exp

from harquel.core.answers.units import bare, kind_of_measure
from harquel.core.domain.inquiry import CitedMeasure
from harquel.core.domain.notes import Notes
from harquel.core.review.known import follows
from harquel.core.review.statement import Statement


def cited_measures(statement: Statement, notes: Notes) -> list[CitedMeasure]:
    """The measures whose definition the statement keeps to, figure and rows, whatever aliases it uses."""
    tree, engine = statement.tree, statement.catalog.engine
    known = {name: kind for name, m in notes.measures.items() if (kind := kind_of_measure(m.sql, engine))}
    wanted = {text: name for name, (_, text) in known.items()}
    # Only what is outermost the same can be the same: each try writes a part of the statement out.
    kinds = {kind for kind, _ in known.values() if issubclass(kind, exp.Func | exp.Binary)}
    found = []
    for node in tree.walk() if kinds else ():
        if type(node) in kinds:
            name = wanted.get(bare(node))
            if name is not None and name not in found:
                found.append(name)
    cited = [(n, notes.measures[n]) for n in found if follows(statement, notes.measures[n], notes)]
    return [CitedMeasure(name=n, text=m.text, owner=m.owner, version=m.version) for n, m in cited]
