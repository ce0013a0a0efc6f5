"""What all shapes share."""

from __future__ import annotations

import math
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, WithJsonSchema, model_validator


class Shape(BaseModel):
    """A JSON object of the contract; fields that it does not know are left aside.

    What stands under a field is its sentence in the API's document (service/openapi.py reads it there).
    """

    model_config = ConfigDict(extra="ignore")


Cell = Annotated[Any, WithJsonSchema({"type": ["string", "number", "boolean", "null"]})]
"""What is left in JSON of a value of a database."""


class Input(BaseModel):
    """A JSON object that a caller sends; a misspelt field is an error, not a silence."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _storable(cls, values: Any) -> Any:
        """Nothing that no record can hold: halves of characters, NUL, numbers that are none."""
        waiting = [values]
        while waiting:
            value = waiting.pop()
            if isinstance(value, dict):
                waiting += [*value.keys(), *value.values()]
            elif isinstance(value, list):
                waiting += value
            elif isinstance(value, float) and not math.isfinite(value):
                raise ValueError("a number is too large or none")
            elif isinstance(value, str) and ("\x00" in value or any("\ud800" <= c <= "\udfff" for c in value)):
                raise ValueError("a text holds a character that is none")
        return values
