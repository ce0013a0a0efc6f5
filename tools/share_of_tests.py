"""Prints how much of the code is tests, in non-blank lines; what measures is code, data files do not count."""

from __future__ import annotations

from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
CODE = (
    ("src/harquel", "*.py"), ("benchmarks", "*.py"), ("breach", "*.py"), ("trust", "*.py"), ("tools", "*.py"),
    ("console/src", "*"),
)  # fmt: skip


TESTS = (("tests", "*.py"), ("console/tests", "*.ts"))
MADE = ROOT / "console" / "src" / "api" / "contract.ts"
"""Not written by hand."""


def lines(folder: str, pattern: str) -> int:
    """Non-blank lines below a folder."""
    files = [p for p in (ROOT / folder).rglob(pattern) if p.is_file() and "node_modules" not in p.parts]
    files = [
        p
        for p in files
        if not p.is_relative_to(ROOT / "src/harquel/service/console") and "__pycache__" not in p.parts and p != MADE
    ]
    return sum(sum(1 for line in p.read_text("utf-8", "ignore").splitlines() if line.strip()) for p in files)


def main() -> None:
    """One line on standard output."""
    code, tests = sum(lines(*c) for c in CODE), sum(lines(*t) for t in TESTS)
    print(f"Tests are {100 * tests / (code + tests):.0f} % of all lines ({tests:,} of {code + tests:,}).")


if __name__ == "__main__":
    main()
