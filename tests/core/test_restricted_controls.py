"""What we build for restricted people: as if the forbidden rows and values were not there (see test_row_rules)."""

from __future__ import annotations

from typing import Any

from breach.restricted import Side
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from harquel.core.domain.notes import Notes
from harquel.core.domain.terms import Terms
from harquel.core.reading import Reading, control
from harquel.testing.sources import NOW
from tests.conftest import servers
from tests.core.test_row_rules import COLUMNS, NUMBERS

pytestmark = servers
POINT = {"customer": ["booking"], "sailing": ["booking", "incident"], "vessel": ["sailing"], "harbour": ["customer"]}
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
            bound = draw(st.sampled_from([{}, {"at_least": 2}, {"at_most": 3}]))
            kinds.append({"has": one, "only": [condition(one, 1)] * draw(st.integers(0, 1)), **bound})
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
        listed = {"show": [f"{rows}.id", of(rows), shown, *worths], "order": [{"by": f"{rows}.id"}]}
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
    per = [{"column": shown}] * draw(st.integers(0, 1))
    return Reading.model_validate(made | {"figures": figures, "per": per, "order": [{"by": p["column"]} for p in per]})


@settings(max_examples=10, deadline=None, suppress_health_check=list(HealthCheck))
@given(reading=readings())
def test_a_control_is_as_if_the_rest_were_not_there(reading: Reading, sides: tuple[Side, Side]) -> None:
    """What we build ourselves passes the same rules: nobody is told by the second way what the first may not show."""
    said = []
    for side in sides:
        visible = Terms(side.policy, side.person).visible(side.whole)
        sql = control(reading, visible, Notes(), side.whole.engine, NOW)
        kind, rows = side.answer(sql)
        said.append((kind, sorted(rows), sql))
    assert said[0][:2] == said[1][:2], said[0][2]
    assert said[0][0] == "rows", (said[0][0], said[0][2])
