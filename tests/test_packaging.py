"""The wheel: refused without the built console, whole with it, and of use without the server part."""

from __future__ import annotations

import shutil
import subprocess
import sys
import venv
import zipfile
from importlib.metadata import distribution
from pathlib import Path

import pytest
from packaging.markers import default_environment
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

ROOT = Path(__file__).resolve().parent.parent


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    target = tmp_path / "copy"
    skip = shutil.ignore_patterns("__pycache__", "node_modules", "console")
    shutil.copytree(ROOT / "src", target / "src", ignore=skip)
    for name in ("pyproject.toml", "hatch_build.py", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, target / name)
    return target


def build(folder: Path) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "build", "--wheel", "--no-isolation", "--outdir", "dist"]
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False, timeout=120)


def test_without_the_console_there_is_no_wheel(copy: Path) -> None:
    done = build(copy)
    assert done.returncode != 0
    assert "make console" in done.stdout + done.stderr
    assert not list(copy.glob("dist/*.whl"))


def test_with_it_the_wheel_is_whole(copy: Path) -> None:
    shutil.copytree(ROOT / "src/harquel/service/console", copy / "src/harquel/service/console")
    done = build(copy)
    assert done.returncode == 0, done.stderr
    (wheel,) = copy.glob("dist/*.whl")
    names = zipfile.ZipFile(wheel).namelist()
    for wanted in (
        "harquel/service/console/index.html",
        "harquel/py.typed",
        "harquel/core/sandbox/workers/sqlite.py",
        "harquel/demo/source/notes.yaml",
        "harquel/service/ledger/migrations/0001_initial.py",
    ):
        assert wanted in names
    metadata = zipfile.ZipFile(wheel).read(next(n for n in names if n.endswith("METADATA"))).decode()
    base = [line for line in metadata.splitlines() if line.startswith("Requires-Dist") and "extra ==" not in line]
    assert len(base) == 5
    assert "License-Expression: Apache-2.0" in metadata


def closure(extra: str) -> set[str]:
    """Names of all that the wheel's metadata ask for, directly or not, as they are installed here."""
    environment = default_environment()
    found: set[str] = set()
    waiting = [("harquel", frozenset({extra}))]
    while waiting:
        name, extras = waiting.pop()
        for text in distribution(name).requires or ():
            wanted = Requirement(text)
            marker = wanted.marker
            if marker is not None and not any(marker.evaluate({**environment, "extra": e}) for e in {*extras, ""}):
                continue
            key = canonicalize_name(wanted.name)
            if key not in found:
                found.add(key)
                waiting.append((wanted.name, frozenset(wanted.extras)))
    return found


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    out = tmp_path_factory.mktemp("wheel")
    command = [sys.executable, "-m", "build", "--wheel", "--no-isolation", "--outdir", str(out)]
    subprocess.run(command, cwd=ROOT, capture_output=True, check=True, timeout=300)
    (made,) = out.glob("*.whl")
    return made


@pytest.mark.parametrize("extra", ["", "server"])
def test_the_wheel_runs_beside_nothing_but_what_it_asks_for(wheel: Path, tmp_path: Path, extra: str) -> None:
    """An empty environment with the wheel and what its metadata name, from the packages that are here."""
    venv.create(tmp_path / "env", with_pip=False)
    (site,) = (tmp_path / "env").glob("lib/python*/site-packages")
    for name in closure(extra):
        for file in distribution(name).files or ():
            source, target = Path(str(file.locate())), site / file
            if ".." not in file.parts and source.is_file() and "__pycache__" not in file.parts:
                if not target.parent.exists():
                    target.parent.mkdir(parents=True)
                    if (compiled := source.parent / "__pycache__").is_dir():
                        (target.parent / "__pycache__").symlink_to(compiled)
                target.symlink_to(source)
    zipfile.ZipFile(wheel).extractall(site)

    def run(*arguments: str) -> subprocess.CompletedProcess[str]:
        command = [str(tmp_path / "env/bin/python"), "-m", "harquel", *arguments]
        return subprocess.run(command, capture_output=True, text=True, check=False, cwd=tmp_path, timeout=120)

    helped = run("--help")
    assert (helped.returncode, helped.stderr) == (0, "")
    assert "ask" in helped.stdout
    if not extra:
        missing = run("serve")
        assert missing.returncode == 2
        assert "harquel[server]" in missing.stderr
        assert "Traceback" not in missing.stderr
        assert "Ask a question" in run("ask", "--help").stdout
        return
    assert run("serve", "--help").returncode == 0
    (tmp_path / "harquel.toml").write_text("[service]\n")
    scopes = ("--scope", "ask", "--scope", "admin")
    made = run("token", "create", "--local", "--name", "first", "--person", "Ada Brinewell", *scopes)
    assert made.returncode == 0, made.stderr
    assert (tmp_path / "var" / "records.db").exists()
