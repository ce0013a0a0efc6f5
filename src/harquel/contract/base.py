"""What all shapes share."""

from pydantic import BaseModel, ConfigDict


class Shape(BaseModel):
    """A JSON object of the contract; unknown fields are refused where it is read as input."""

    model_config = ConfigDict(extra="ignore")


class Input(BaseModel):
    """A JSON object that a caller sends; a misspelt field is an error, not a silence."""

    model_config = ConfigDict(extra="forbid")
