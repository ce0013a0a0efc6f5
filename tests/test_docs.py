"""The docs are true: files they link exist, commands they name exist, examples they show work."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path

import pytest
from typer.main import get_command

from harquel.cli.main import app
from harquel.core.curation import load_examples
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import rule_on_text
from harquel.service.config import load_config
from harquel.testing.sources import DEMO, demo_notes, demo_policy, scanned

ROOT = Path(__file__).resolve().parent.parent
PAGES = [ROOT / "README.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").rglob("*.md"))]


@pytest.mark.parametrize("page", PAGES, ids=lambda p: p.name)
def test_links_lead_somewhere(page: Path) -> None:
    for target in re.findall(r"\]\(([^)#\s]+)(?:#[^)]*)?\)", page.read_text()):
        if not target.startswith("http"):
            assert (page.parent / target).exists(), target


def test_every_picture_is_linked_and_there_are_under_twenty() -> None:
    readme = (ROOT / "README.md").read_text()
    pictures = sorted((ROOT / "docs/screenshots").glob("*.png"))
    assert 5 <= len(pictures) < 20
    for picture in pictures:
        assert f"docs/screenshots/{picture.name}" in readme


def test_the_commands_of_the_readme_exist() -> None:
    group = get_command(app)
    known = set(group.list_commands(None))  # type: ignore[attr-defined, arg-type]
    for line in re.findall(r"^(?:\s*)harquel (\S+)", (ROOT / "README.md").read_text(), re.MULTILINE):
        assert line in known


def test_the_commands_of_the_design_exist() -> None:
    group = get_command(app)
    wanted = {"serve", "demo", "tour", "ask", "review", "source", "catalog", "inquiry", "token", "ledger", "standin"}
    assert wanted <= set(group.list_commands(None))  # type: ignore[attr-defined, arg-type]


def test_the_configuration_of_the_readme_is_valid(tmp_path: Path) -> None:
    (block,) = re.findall(r"```toml\n(.*?)```", (ROOT / "README.md").read_text(), re.DOTALL)
    text = re.sub(r"(?m)^ {3}", "", block)
    assert tomllib.loads(text)["sources"]["shop"]["url"]
    (tmp_path / "harquel.toml").write_text(text)
    assert load_config(tmp_path / "harquel.toml", {}).sources["shop"]


def test_the_demos_policy_notes_and_starters_fit_the_demo(ferries: Path) -> None:
    catalog = scanned(ferries, Policy())
    notes = demo_notes()
    for name, about in notes.tables.items():
        table = catalog.table(name)
        assert table is not None, name
        for column in (*about.columns, *filter(None, (about.when, about.label))):
            assert table.column(column) is not None, f"{name}.{column}"
    for measure in notes.measures.values():
        where = f" WHERE {measure.where}" if measure.where else ""
        tables = set(re.findall(r"\b([a-z_]+)\.\w+", f"{measure.sql} {measure.where or ''} {measure.when or ''}"))
        sql = f"SELECT {measure.sql} FROM {' CROSS JOIN '.join(sorted(tables))}{where}"
        assert rule_on_text(DraftedStatement(sql), "sqlite", catalog, Policy()).statement is not None, sql
    for pattern in demo_policy().expose.withhold:
        table, column = pattern.split(".")
        found = catalog.table(table)
        assert found is not None
        assert found.column(column) is not None
    assert len(read_yaml((DEMO / "starters.yaml").read_text())) >= 5


def test_the_demos_examples_run(ferries: Path) -> None:
    catalog = demo_policy().visible(scanned(ferries, demo_policy()))
    for example in load_examples(DEMO / "examples.yaml", "sqlite"):
        assert rule_on_text(DraftedStatement(example.sql), "sqlite", catalog, demo_policy()).statement is not None


def test_notes_and_policy_refuse_what_they_do_not_know() -> None:
    for model, text in ((Notes, "tables: {a: {txt: x}}"), (Policy, "limits: {rows: 0}"), (Policy, "exposed: {}")):
        with pytest.raises(ValueError):
            model.model_validate(read_yaml(text))


def test_the_rules_stand_in_the_docs_as_they_are() -> None:
    """When this fails: .venv/bin/python tools/rules_in_docs.py."""
    from tools.rules_in_docs import PAGES, written

    for page in PAGES:
        assert page.read_text("utf-8") == written(page)


def test_the_policy_of_the_docs_is_one() -> None:
    from harquel.core.curation import read_document
    from harquel.core.domain.policy import Policy

    text = (ROOT / "docs" / "policy.md").read_text("utf-8")
    parts = [part.split("```")[0] for part in text.split("```yaml\n")[1:]]
    policy = read_document("".join(parts), Policy, "docs/policy.md")
    assert policy.review.mild[0].finding == "unconfirmed"
    assert policy.rows[0].roles == ("harbour-clerk",)
