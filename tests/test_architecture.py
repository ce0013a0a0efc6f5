"""Who may know whom: the layers of docs/design.md §3, held against the code."""

from __future__ import annotations

import ast
import functools
import importlib
import pkgutil
import subprocess
import sys
from collections.abc import Iterator
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

import harquel

ROOT = Path(harquel.__file__).parent
# Each part of the core may import only itself and what stands below it in this list.
LAYERS = (
    "curation", "watching", "casebooks", "inquiry", "answers", "reading", "review", "guard", "prompts", "briefing",
    "scanning", "sandbox", "engines", "sql", "llm", "ledger", "domain", "language", "calendar", "nearest", "together",
    "clock", "errors",
)  # fmt: skip
# The same for the way of a question.
STEPS = (
    "conduct", "again", "follow", "redrafted", "deliver", "worded", "review_only", "second_opinion", "understood",
    "meant", "alike", "called", "summed_up", "other_names", "what_differs", "answer", "freshness", "briefed", "doubt",
    "run", "course", "source", "repair", "phases", "endings", "open_point",
)  # fmt: skip
# Parts of the program to what they may import of it, besides themselves.
PARTS = {
    "contract": set(),
    "web": set(),
    "core": {"contract", "web"},
    "client": {"contract", "web"},
    "standin": set(),
    "demo": set(),
    "testing": {"core", "contract", "demo", "service"},
    "tools": {"client", "contract"},
    "service": {"core", "contract", "client", "tools", "web"},
    "cli": {"client", "contract", "tools"},
}
OUTSIDE_CORE = {"django", "rest_framework", "uvicorn", "starlette", "typer", "rich", "drf_spectacular"}


@functools.cache
def import_nodes(path: Path) -> tuple[ast.Import | ast.ImportFrom, ...]:
    """Every file is asked for them several times."""
    return tuple(n for n in ast.walk(ast.parse(path.read_text())) if isinstance(n, ast.Import | ast.ImportFrom))


def imports(path: Path) -> Iterator[str]:
    """Absolute names of the modules that a file imports, relative ones resolved."""
    package = ("harquel", *path.relative_to(ROOT).parent.parts)
    for node in import_nodes(path):
        if isinstance(node, ast.Import):
            yield from (a.name for a in node.names)
        elif isinstance(node, ast.ImportFrom):
            base = package[: len(package) - node.level + 1] if node.level else ()
            yield ".".join((*base, *((node.module or "").split(".") if node.module else ())))


def files(part: str) -> list[Path]:
    return sorted((ROOT / part).rglob("*.py"))


@pytest.mark.parametrize("part", PARTS)
def test_parts_import_only_what_they_may(part: str) -> None:
    assert files(part)
    for path in files(part):
        for name in imports(path):
            parts = name.split(".")
            if parts[0] == "harquel" and len(parts) > 1:
                assert parts[1] in {part, *PARTS[part]}, f"{path.relative_to(ROOT)} imports {name}"


def test_the_core_knows_no_interface() -> None:
    for part in ("core", "contract", "client"):
        for path in files(part):
            known = {n.split(".")[0] for n in imports(path)}
            assert not known & OUTSIDE_CORE, path.relative_to(ROOT)


@pytest.mark.parametrize(("package", "order"), [("core", LAYERS), ("core.inquiry", STEPS)])
def test_imports_run_downward(package: str, order: tuple[str, ...]) -> None:
    inside = ("harquel", *package.split("."))
    folder = ROOT.joinpath(*inside[1:])
    assert {p.stem for p in folder.iterdir() if p.suffix == ".py" or (p / "__init__.py").exists()} == {
        *order, "__init__"
    }  # fmt: skip
    for path in sorted(folder.rglob("*.py")):
        here = path.relative_to(folder).parts[0].removesuffix(".py")
        if here == "__init__":
            continue
        for name in imports(path):
            parts = tuple(name.split("."))
            if parts[: len(inside)] == inside and len(parts) > len(inside) and parts[len(inside)] != here:
                below = order.index(parts[len(inside)]) > order.index(here)
                assert below, f"{path.relative_to(ROOT)} imports {name}"


MEASURES = {
    "trust": set(),
    "breach": set(),
    "benchmarks": {"trust", "breach"},
    "tests": {"trust", "breach", "benchmarks"},
}
"""What measures the program to which other measures it may use; benchmarks time what the other two hold."""


@pytest.mark.parametrize("part", MEASURES)
def test_measures_stand_beside_each_other_and_below_the_tests(part: str) -> None:
    for path in sorted((ROOT.parents[1] / part).rglob("*.py")):
        nodes = import_nodes(path)
        names = [n.module for n in nodes if isinstance(n, ast.ImportFrom) and n.module and not n.level]
        names += [a.name for n in nodes if isinstance(n, ast.Import) for a in n.names]
        others = {n.split(".")[0] for n in names} & {*MEASURES}
        assert others <= {part, *MEASURES[part]}, path


def test_no_circle_of_imports_anywhere() -> None:
    """Not in the program, and not in what measures and tests it; what is imported inside a function counts too."""
    top = ROOT.parents[1]
    modules: dict[str, Path] = {}
    for base, folder in ((ROOT.parent, ROOT), *((top, top / f) for f in ("tests", "trust", "breach", "benchmarks"))):
        for path in folder.rglob("*.py"):
            if "migrations" not in path.parts:
                name = ".".join(path.relative_to(base).with_suffix("").parts)
                modules[name.removesuffix(".__init__")] = path
    graph = {name: _imported(name, path, modules) for name, path in modules.items()}
    assert sum(map(len, graph.values())) > 1500
    TopologicalSorter(graph).prepare()
    for name, found in graph.items():
        if name.startswith("harquel"):
            assert all(n.startswith("harquel") for n in found), name


def test_what_runs_in_a_conductor_knows_neither_records_nor_http() -> None:
    modules = {".".join(("harquel", *p.relative_to(ROOT).with_suffix("").parts)): p for p in ROOT.rglob("*.py")}
    modules = {name.removesuffix(".__init__"): path for name, path in modules.items()}
    seen, ahead = set(), ["harquel.service.conductors.process", "harquel.service.conductors.nursery"]
    while ahead:
        name = ahead.pop()
        if name not in seen:
            seen.add(name)
            assert not {n.split(".")[0] for n in imports(modules[name])} & OUTSIDE_CORE, name
            ahead += _imported(name, modules[name], modules)
    assert len(seen) > 100
    assert {n for n in seen if n.startswith("harquel.service.")} == {
        f"harquel.service.conductors.{part}" for part in ("messages", "nursery", "process", "telling")
    }


def test_what_runs_in_a_conductor_loads_no_driver_and_no_http() -> None:
    """As a module may stand behind a package that loads more: asked of a process that has loaded it."""
    asked = "import sys, harquel.service.conductors.process; print(*{m.partition('.')[0] for m in sys.modules})"
    loaded = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True, timeout=60)
    assert not {"django", "httpx", "sqlalchemy", "psycopg", "pymysql", "rich", "typer"} & set(loaded.stdout.split())


def _imported(name: str, path: Path, modules: dict[str, Path]) -> set[str]:
    package = name if path.stem == "__init__" else name.rpartition(".")[0]
    found = set()
    for node in import_nodes(path):
        if isinstance(node, ast.Import):
            found |= {a.name for a in node.names}
        elif isinstance(node, ast.ImportFrom):
            base = ".".join(package.split(".")[: len(package.split(".")) - node.level + 1]) if node.level else ""
            base = ".".join(filter(None, (base, node.module)))
            # A module of a package, or a name out of it.
            found |= {f"{base}.{a.name}" if f"{base}.{a.name}" in modules else base for a in node.names}
    return {n for n in found if n in modules and n != name}


def test_workers_import_the_standard_library_and_their_driver_only() -> None:
    drivers = {"postgresql": {"psycopg"}, "mariadb": {"pymysql"}}
    for path in (ROOT / "core" / "sandbox" / "workers").glob("*.py"):
        allowed = {*sys.stdlib_module_names, "frame", *drivers.get(path.stem, ())}
        assert {n.split(".")[0] for n in imports(path)} <= allowed, path.name


def test_every_file_says_first_what_it_is_for() -> None:
    for path in ROOT.rglob("*.py"):
        if "migrations" not in path.parts:
            assert ast.get_docstring(ast.parse(path.read_text())), path.relative_to(ROOT)


@pytest.mark.parametrize(
    "package",
    ["harquel.client", "harquel.contract", "harquel.core.guard", "harquel.core.sql",
     "harquel.core.ledger", "harquel.core.prompts", "harquel.core.sandbox", "harquel.core.engines"],
)  # fmt: skip
def test_exports_are_complete(package: str) -> None:
    """What a package's face imports is what it exports, no more and no less."""
    module = importlib.import_module(package)
    tree = ast.parse(Path(str(module.__file__)).read_text())
    imported = {a.asname or a.name for n in tree.body if isinstance(n, ast.ImportFrom) for a in n.names}
    assert set(module.__all__) == imported - {"annotations"}
    assert all(hasattr(module, name) for name in module.__all__)


def test_every_module_of_the_base_install_loads_without_the_server_part() -> None:
    for part in ("client", "cli", "contract"):
        for info in pkgutil.walk_packages([str(ROOT / part)], f"harquel.{part}."):
            path = ROOT.joinpath(*info.name.split(".")[1:])
            source = path.with_suffix(".py") if path.with_suffix(".py").exists() else path / "__init__.py"
            known = {n.split(".")[0] for n in imports(source)}
            assert not known & {"django", "sqlglot", "sqlalchemy", "starlette", "uvicorn", "yaml"}, info.name


ASKING = frozenset(
    "the of how many what which per and all not most each who when where why show list is are without last between der "
    "die das und wie viele welche pro nicht alle ohne zwischen".split()
)


def words_in(node: ast.AST) -> set[str]:
    """Words of questions in a collection of single words, or in a text that is taken apart."""
    if isinstance(node, ast.Set | ast.List | ast.Tuple | ast.Dict):
        parts = node.keys if isinstance(node, ast.Dict) else node.elts
        said = [p.value for p in parts if isinstance(p, ast.Constant)]
    elif isinstance(node, ast.Call) and getattr(node.func, "attr", "") == "split":
        of = getattr(node.func, "value", None)
        said = of.value.split() if isinstance(of, ast.Constant) and isinstance(of.value, str) else []
    elif isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value.count("|") > 3:
        said = node.value.replace("(", "|").replace(")", "|").split("|")
    else:
        return set()
    return {word for word in said if isinstance(word, str) and word.casefold() in ASKING}


def test_the_core_knows_words_of_questions_in_its_language_packs_only() -> None:
    assert words_in(ast.parse('x = ("how", "many", "which", "other")').body[0].value) == {"how", "many", "which"}  # type: ignore[attr-defined]
    # What we say ourselves, in both languages, is no word of a question.
    ours = {ROOT / "core" / "answers" / "phrases.py", *(ROOT / "core" / "language").iterdir()}
    for path in files("core"):
        for node in ast.walk(ast.parse(path.read_text())):
            found = words_in(node)
            assert len(found) < 3 or path in ours, (path.relative_to(ROOT), found)
