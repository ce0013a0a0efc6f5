"""The wheel: refused without the built console, whole with it, and of use without the server part."""

from __future__ import annotations

import shutil
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

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


def test_the_command_line_works_without_the_server_part(tmp_path: Path) -> None:
    """With Django, the SQL library and the rest hidden, `ask --help` works and `serve` says what to install."""
    hidden = ("django", "sqlglot", "starlette", "uvicorn", "yaml", "sqlalchemy", "structlog")
    code = f"import sys\nfor n in {hidden!r}:\n    sys.modules[n] = None\n"
    code += "from harquel.cli.main import main\nsys.argv[0] = 'harquel'\nmain()\n"

    def run(*arguments: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-c", code, *arguments], capture_output=True, text=True, check=False, cwd=tmp_path
        )

    assert "Ask a question" in run("ask", "--help").stdout
    assert run("--help").returncode == 0
    missing = run("serve")
    assert missing.returncode == 2
    assert "harquel[server]" in missing.stderr
    assert "Traceback" not in missing.stderr
