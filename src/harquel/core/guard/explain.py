"""A policy in plain sentences, for one person; and what is wrong with one."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fnmatch import fnmatchcase

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.person import Person, Value
from harquel.core.domain.personal import looks_personal
from harquel.core.domain.policy import Policy
from harquel.core.domain.terms import TABLES, Terms
from harquel.core.guard.allowed import NAMES
from harquel.core.sql.names import closest, resolve
from harquel.core.sql.tree import ParseFault, parse, quoted


@dataclass(frozen=True)
class Sentence:
    """One thing that a policy says, and the line of it that says so."""

    line: str
    text: str


def explain_policy(terms: Terms, whole: Catalog) -> list[Sentence]:
    """What a policy comes to for a person, most restricting first where it matters."""
    return [
        *_exposed(terms, whole), *_rows(terms, whole), *_personal(terms, whole), *_approval(terms), *_listing(terms),
        *_functions(terms.policy), *_limits(terms.policy), *_delivery(terms), *_prompts(terms.policy),
    ]  # fmt: skip


def _exposed(terms: Terms, whole: Catalog) -> Iterable[Sentence]:
    seen = {t.name: t for t in terms.visible(whole).tables}
    readable = [t for t in whole.tables if t.readable]
    yield Sentence("expose", f"{_many(len(seen), 'table')} of {len(readable)} can be asked about: {_listed(seen)}.")
    columns = [f"{t.name}.{c.name}" for t in readable if t.name in seen
               for c in t.columns if seen[t.name].column(c.name) is None]  # fmt: skip
    if columns:
        yield Sentence("expose.withhold", f"These columns do not exist for whoever asks: {_listed(columns)}.")
    yield from _looking_personal(terms.policy, whole)
    views = [t.name for t in terms.policy.visible(whole).tables if t.name not in seen and t.kind not in TABLES]
    if views:
        yield Sentence("rows", f"Views show what their tables hold: without a row rule of their own they do not exist "
                               f"for somebody who sees only a part of it: {_listed(views)}.")  # fmt: skip


def _looking_personal(policy: Policy, whole: Catalog) -> Iterable[Sentence]:
    """What looks personal: withheld because no line says what becomes of it, or shown, and by which line."""
    waiting: list[str] = []
    shown: dict[str, list[str]] = {}
    exposed = policy.model_copy(update={"withhold_delicate": False})
    for table in whole.tables:
        for column in table.columns:
            full = f"{table.name}.{column.name}"
            if not (column.looks_personal or looks_personal(column.name)):
                continue
            if not exposed.shows(table.name, column.name):
                continue
            if policy.unsettled(table.name, column):
                waiting.append(full)
            elif policy.shows(table.name, column.name):
                treatment, _ = Terms(policy).treatment(table.name, column)
                if treatment == "show":
                    shown.setdefault(_line_that_shows(policy, full), []).append(full)
    if waiting:
        yield Sentence(
            "withhold_delicate", f"These columns look personal and do not exist for whoever asks until a line says how "
            f"they are treated: {_listed(waiting)}.",
        )  # fmt: skip
    for line, names in shown.items():
        yield Sentence(line, f"Shown to everybody although it looks personal: {_listed(names)}.")


def _line_that_shows(policy: Policy, column: str) -> str:
    for place, said in enumerate(policy.personal.treatments):
        if fnmatchcase(column.lower(), said.column.lower()):
            return f"personal.treatments[{place}]"
    for place, pattern in enumerate(policy.personal.cleared):
        if fnmatchcase(column.lower(), pattern.lower()):
            return f"personal.cleared[{place}]"
    return "withhold_delicate"


def _rows(terms: Terms, whole: Catalog) -> Iterable[Sentence]:
    for table in terms.policy.visible(whole).tables:
        for place, where in terms.rules(table.name):
            missing = sorted(n for n in _values(where, whole.engine) if n not in terms.person.values)
            said = f"Of {table.name} only rows count where {_with_values(where, terms.person)}."
            if missing:
                said = f"Nothing of {table.name} can be asked about: {_listed(missing)} is not known of this person."
            yield Sentence(f"rows[{place}].where", said)


def _personal(terms: Terms, whole: Catalog) -> Iterable[Sentence]:
    words = {
        "mask": "{0} reads the same for every row, wherever it stands in a query.",
        "count": "{0} may be counted, COUNT(…) or COUNT(DISTINCT …), and nothing else.",
        "refuse": "A query that uses {0} is refused.",
    }
    found: dict[tuple[str, str], list[str]] = {}
    for table in terms.policy.visible(whole).tables:
        for column in table.columns:
            treatment, line = terms.treatment(table.name, column)
            if treatment != "show":
                found.setdefault((line, treatment), []).append(f"{table.name}.{column.name}")
    for (line, said), names in found.items():
        yield Sentence(line, words[said].format(_listed(names)))


def _approval(terms: Terms) -> Iterable[Sentence]:
    approval = terms.policy.approval
    if approval.always:
        yield Sentence("approval.always", "Every statement waits until somebody releases it.")
    if approval.tables:
        yield Sentence("approval.tables", f"Statements that read {_listed(approval.tables)} wait for a release.")
    mine = sorted(set(approval.roles) & terms.person.roles)
    if mine:
        yield Sentence("approval.roles", f"Statements for the role {_listed(mine)} wait for a release.")
    if approval.rows is not None:
        yield Sentence("approval.rows", f"A plan of more than {approval.rows:,} rows waits for a release.")
    if approval.cost is not None:
        yield Sentence("approval.cost", f"A plan that costs more than {approval.cost:,.0f} waits for a release.")


def _listing(terms: Terms) -> Iterable[Sentence]:
    share = terms.policy.listing.share
    if share is not None:
        yield Sentence("listing.share", f"Of {_listed(terms.policy.listing.tables)} at most {share:.0%} of the rows "
                                        f"or groups are listed; sums and counts go over all of them.")  # fmt: skip


def _functions(policy: Policy) -> Iterable[Sentence]:
    if policy.functions.allow:
        yield Sentence("functions.allow", f"Allowed beyond the usual: {_listed(policy.functions.allow)}.")
    if policy.functions.refuse:
        yield Sentence("functions.refuse", f"Not allowed here: {_listed(policy.functions.refuse)}.")


def _limits(policy: Policy) -> Iterable[Sentence]:
    limits = policy.limits
    yield Sentence(
        "limits", f"A statement has {limits.query_s:g} s, {limits.rows:,} rows, {limits.bytes / 1e6:g} MB of values "
        f"and {limits.memory_mb} MB of memory; an inquiry has {_many(limits.attempts, 'draft')} and "
        f"{limits.inquiry_s:g} s.",
    )  # fmt: skip
    if limits.plan_rows is not None:
        yield Sentence("limits.plan_rows", f"A plan that reads more than {limits.plan_rows:,} rows is refused.")
    if limits.plan_cost is not None:
        yield Sentence("limits.plan_cost", f"A plan that costs more than {limits.plan_cost:,.0f} is refused.")


def _delivery(terms: Terms) -> Iterable[Sentence]:
    given = terms.policy.delivery
    if given is None:
        yield Sentence("delivery", "No whole results are handed over: what leaves ends at limits.rows.")
    elif given.roles and not set(given.roles) & terms.person.roles:
        yield Sentence("delivery.roles", f"Whole results are handed over to others: {_listed(given.roles)}.")
    else:
        personal = "Personal columns may be in it." if given.personal else "Personal columns are only counted in it."
        held = " Somebody releases it first." if given.approval else ""
        yield Sentence(
            "delivery", f"A whole result is handed over as a file of up to {given.rows:,} rows and "
            f"{given.bytes / 1e6:g} MB, kept for {given.kept_h:g} h. {personal}{held}",
        )  # fmt: skip


def _prompts(policy: Policy) -> Iterable[Sentence]:
    said = {"all": "Frequent values and ranges may leave", "codes": "Values of columns with few of them may leave",
            "none": "No values leave"}[policy.prompts.values]  # fmt: skip
    yield Sentence("prompts.values", f"{said} for a language model; those of personal columns never do.")


def check_policy(policy: Policy, whole: Catalog) -> list[Sentence]:
    """What in a policy means nothing, or cannot be applied: patterns without a match, conditions that fail."""
    return [
        *_patterns(policy, whole), *_conditions(policy, whole), *_unknown_functions(policy, whole),
    ]  # fmt: skip


def remark_on(policy: Policy, whole: Catalog) -> list[Sentence]:
    """What is right and should be known: what looks personal and waits for a line, or is shown, and by which one."""
    return list(_looking_personal(policy, whole))


def misfits(policy: Policy, whole: Catalog) -> list[Sentence]:
    """What must not be taken in: names, not patterns, that match nothing, and conditions that fail."""
    plain = [s for s in _patterns(policy, whole) if not set("*?[") & set(s.text.partition(" matches ")[0])]
    return [*plain, *_conditions(policy, whole)]


def _patterns(policy: Policy, whole: Catalog) -> Iterable[Sentence]:
    tables = [t.name for t in whole.tables]
    columns = [f"{t.name}.{c.name}" for t in whole.tables for c in t.columns]
    listed = [
        *((f"expose.tables[{i}]", p, tables) for i, p in enumerate(policy.expose.tables)),
        *((f"expose.withhold[{i}]", p, tables + columns) for i, p in enumerate(policy.expose.withhold)),
        *((f"personal.columns[{i}]", p, columns) for i, p in enumerate(policy.personal.columns)),
        *((f"personal.cleared[{i}]", p, columns) for i, p in enumerate(policy.personal.cleared)),
        *((f"personal.treatments[{i}].column", t.column, columns) for i, t in enumerate(policy.personal.treatments)),
        *((f"rows[{i}].table", r.table, tables) for i, r in enumerate(policy.rows)),
        *((f"approval.tables[{i}]", p, tables) for i, p in enumerate(policy.approval.tables)),
        *((f"listing.tables[{i}]", p, tables) for i, p in enumerate(policy.listing.tables)),
    ]
    for line, pattern, known in listed:
        if not any(fnmatchcase(name.lower(), pattern.lower()) for name in known):
            near = closest(pattern, known, 1)
            yield Sentence(line, f"{pattern} matches nothing." + (f" Did you mean {near[0]}?" if near else ""))


def _conditions(policy: Policy, whole: Catalog) -> Iterable[Sentence]:
    for place, rule in enumerate(policy.rows):
        concerned = [t for t in whole.tables if fnmatchcase(t.name.lower(), rule.table.lower())]
        for table in concerned:
            fault = _fault_of(table, rule.where, whole)
            if fault:
                yield Sentence(f"rows[{place}].where", f"For {table.name}: {fault}")


def _fault_of(table: Table, where: str, whole: Catalog) -> str:
    schema = f"{quoted(table.schema, whole.engine)}." if table.schema else ""
    try:
        (tree,) = parse(f"SELECT 1 FROM {schema}{quoted(table.plain, whole.engine)} WHERE {where}", whole.engine)
    except (ParseFault, ValueError) as fault:
        return f"{where!r} cannot be read: {fault}."
    for name in resolve(tree, whole).faults:
        near = f" Did you mean {name.nearest[0]}?" if name.nearest else ""
        return f"there is no {name.name}.{near}"
    return ""


def _unknown_functions(policy: Policy, whole: Catalog) -> Iterable[Sentence]:
    known = {n.lower() for n in NAMES[whole.engine]}
    for place, name in enumerate(policy.functions.refuse):
        if "." not in name and name.lower() not in known:
            yield Sentence(f"functions.refuse[{place}]", f"{name} is not allowed anyway.")
    for place, name in enumerate(policy.functions.allow):
        if name.lower() in known:
            yield Sentence(f"functions.allow[{place}]", f"{name} is allowed anyway.")


def _values(where: str, engine: str) -> set[str]:
    """The names of the person's values in a condition."""
    try:
        (tree,) = parse(f"SELECT 1 WHERE {where}", engine)
    except (ParseFault, ValueError):
        return set()
    return {str(holder.this) for holder in tree.find_all(exp.Placeholder)}


def _with_values(where: str, person: Person) -> str:
    for name in sorted(person.values, key=len, reverse=True):
        where = where.replace(f":{name}", _shown(person.values[name]))
    return where


def _shown(value: Value) -> str:
    if isinstance(value, tuple):
        return ", ".join(map(_shown, value))
    return f"'{value}'" if isinstance(value, str) else str(value)


def _listed(names: Iterable[str]) -> str:
    found = list(names)
    return ", ".join(found[:12]) + (f" and {len(found) - 12} more" if len(found) > 12 else "")


def _many(number: int, thing: str) -> str:
    return f"{number:,} {thing}{'' if number == 1 else 's'}"
