"""What we build for restricted people: as if the forbidden rows and values were not there (see test_row_rules)."""

from __future__ import annotations

from itertools import islice
from typing import Any

from breach.restricted import Side
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.notes import Notes
from harquel.core.domain.terms import Terms
from harquel.core.reading import Reading, at_the_edge, by_keys, control, instead_of
from harquel.testing.sources import NOW
from tests.conftest import servers
from tests.core.test_row_rules import COLUMNS, NUMBERS

pytestmark = servers
POINT = {"customer": ["booking"], "sailing": ["booking", "incident"], "vessel": ["sailing"], "harbour": ["customer"]}
# Those of customers are masked: nothing is dated by what is not shown.
DATED = {"booking": "booked_at", "sailing": "scheduled_departure", "incident": "reported_at"}
NOTES = Notes.model_validate({"tables": {table: {"when": column} for table, column in DATED.items()}})
LEAD = {"booking": ["customer", "sailing", "vessel"], "customer": ["harbour"], "incident": ["sailing", "vessel"],
        "sailing": ["vessel"]}  # fmt: skip


@st.composite
def readings(draw: st.DrawFn) -> Reading:
    """Readings over the same tables: conditions here, along keys and on rows that point here; figures and lists."""

    def of(table: str) -> str:
        return f"{table}.{draw(st.sampled_from(COLUMNS[table]))}"

    def condition(table: str, depth: int = 0) -> dict[str, Any]:
        there = draw(st.sampled_from([table, *LEAD.get(table, [])]))
        number = draw(st.sampled_from([c for c in COLUMNS[there] if c in NUMBERS]))
        plain: dict[str, Any] = {"column": f"{there}.{number}", "values": [draw(st.integers(0, 60))]}
        plain["is"] = draw(st.sampled_from(["equal", "less", "at least"]))
        kinds = [plain, {"column": of(there), "is": "empty"}, {"any": [plain, {"column": of(table), "is": "empty"}]}]
        if depth == 0:
            held = draw(st.sampled_from([*COLUMNS]))
            figure = draw(st.sampled_from(["average", "maximum", "count", "distinct"]))
            than = {"rows": held, "figure": figure, "of": f"{held}.id", "only": [condition(held, 1)]}
            if draw(st.booleans()):
                alike = {"within": of(table), "rows": table, "of": f"{table}.id"}
                than |= alike | {"only": [condition(table, 1)] * draw(st.integers(0, 1))}
            kinds.append({"column": f"{there}.{number}", "is": draw(st.sampled_from(["more", "equal"])), "than": than})
        for one in POINT.get(table, []) if depth == 0 else []:
            kinds.append({"worth": {"of": inner(one)}, "is": "at least", "values": [draw(st.integers(0, 3))]})
            different = {"at_least": 2, "different": of(one)}
            bound = draw(st.sampled_from([{}, {"at_least": 2}, {"at_most": 3}, different]))
            kinds.append({"has": one, "only": [condition(one, 1)] * draw(st.integers(0, 1)), **bound})
        if table in DATED and depth == 0:
            other, unit = draw(st.sampled_from([*DATED])), draw(st.sampled_from(["day", "month", "hour"]))
            kinds.append({"has": other, "same": unit, "only": [condition(other, 1)] * draw(st.integers(0, 1))})
        return draw(st.sampled_from(kinds)) | {"not": draw(st.booleans())}

    def inner(table: str) -> dict[str, Any]:
        figure = draw(
            st.sampled_from([{}, {"figure": "maximum", "of": f"{table}.id"}, {"figure": "sum", "of": f"{table}.id"}])
        )
        return {"rows": table, "only": [condition(table, 1)] * draw(st.integers(0, 1)), **figure}

    rows = draw(st.sampled_from([*COLUMNS]))
    worths: list[Any] = [{"of": f"{rows}.id", "less": inner(one)} for one in POINT.get(rows, [])]
    shown = of(draw(st.sampled_from([rows, *LEAD.get(rows, [])])))
    made: dict[str, Any] = {"rows": rows, "only": [condition(rows)] * draw(st.integers(0, 2))}
    if draw(st.booleans()):
        listed: dict[str, Any] = {"show": [f"{rows}.id", of(rows), shown, *worths], "order": [{"by": f"{rows}.id"}]}
        listed |= draw(st.sampled_from([{}, {"top": 3, "both": True}]))
        return Reading.model_validate(made | listed)
    figures: list[dict[str, Any]] = [
        {"figure": "count"}, {"figure": "distinct", "of": shown}, {"figure": "part", "between": [0, 0]},
        {"figure": "count", "only": [condition(rows)]}, {"figure": "share", "only": [condition(rows)]},
        {"figure": "maximum", "of": f"{rows}.id"}, *({"figure": "average", **worth} for worth in worths),
    ]  # fmt: skip
    if draw(st.integers(0, 5)) == 0:
        return Reading.model_validate(made | {"figures": [{"figure": "median", "of": f"{rows}.id"}]})
    if draw(st.integers(0, 5)) == 0:
        of_groups = {"across": {"figure": draw(st.sampled_from(["average", "maximum"])), "of": 1}}
        return Reading.model_validate(made | {"figures": figures[:2], "per": [{"column": of(rows)}]} | of_groups)
    if rows in DATED and draw(st.integers(0, 3)) == 0:
        first = {"per": DATED[rows], "unit": draw(st.sampled_from(["day", "month"])), "by": f"{rows}.id"}
        made |= {"each": {**first, "descending": draw(st.booleans())}}
        made |= {"during": [{"from": "2025-06-01", "until": f"{NOW:%Y-%m-%d %H:%M:%S}"}]}
    # What groups are told by and ordered by is theirs, not the rows'.
    per = [{"column": shown}] * (draw(st.integers(0, 1)) if shown != f"{rows}.id" or "each" not in made else 0)
    return Reading.model_validate(made | {"figures": figures, "per": per, "order": [{"by": p["column"]} for p in per]})


def derived(reading: Reading, side: Side, visible: Catalog) -> list[Reading]:
    """The readings that we make of one: with what rows were chosen by, with other times, with keys for names."""
    chosen = reading.evidenced()
    others = [one.reading for one in instead_of(reading, "", visible, NOTES)][:2]
    hidden = Terms(side.policy, side.person).treatment
    keyed = by_keys(reading, visible, lambda table, column: hidden(table.name, column)[0] != "show")
    return [reading, keyed, *islice(at_the_edge(reading, NOW), 1), *others, *([chosen] if chosen else [])]


@settings(max_examples=5, deadline=None, suppress_health_check=list(HealthCheck))
@given(reading=readings())
def test_a_control_is_as_if_the_rest_were_not_there(reading: Reading, sides: tuple[Side, Side]) -> None:
    """What we build ourselves passes the same rules: nobody is told by the second way what the first may not show."""
    said: list[list[tuple[str, list[Any], str]]] = []
    for side in sides:
        visible = Terms(side.policy, side.person).visible(side.whole)
        sqls = [control(one, visible, NOTES, side.whole.engine, NOW) for one in derived(reading, sides[0], visible)]
        said.append([(kind, sorted(rows), sql) for sql in sqls for kind, rows in [side.answer(sql)]])
    for one, other in zip(*said, strict=True):
        assert one[:2] == other[:2], one[2]
        assert one[0] == "rows", (one[0], one[2])
