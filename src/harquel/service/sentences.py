"""The sentences that stand under the fields of a shape of the contract, read from its source."""

from __future__ import annotations

import ast
import inspect
import sys
from functools import cache
from itertools import pairwise


@cache
def sentences(shape: type) -> dict[str, str]:
    """Field to the text under it, from the source of a shape of the contract."""
    if not shape.__module__.startswith("harquel.contract."):
        return {}
    # The module whole: the source of a class by itself is found by its name, which takes longer.
    tree = ast.parse(inspect.getsource(sys.modules[shape.__module__]))
    found = next((n for n in tree.body if isinstance(n, ast.ClassDef) and n.name == shape.__name__), None)
    # A list with a type has no class statement of its own.
    body = found.body if found is not None else []
    return {
        field.target.id: " ".join(text.value.value.split())
        for field, text in pairwise(body)
        if isinstance(field, ast.AnnAssign) and isinstance(field.target, ast.Name)
        and isinstance(text, ast.Expr) and isinstance(text.value, ast.Constant) and isinstance(text.value.value, str)
    }  # fmt: skip
