"""What all events share, and what the steps of an inquiry do."""

from __future__ import annotations

from typing import Any, ClassVar

from ..base import Shape


class Happening(Shape):
    """What all of them share. `happened` is the kind of the ledger's entry, the other fields are its facts."""

    texts: ClassVar[tuple[str, ...]] = ()
    """Names of the texts that may belong to it; they are kept apart from the facts and can be blanked."""

    @property
    def entry_kind(self) -> str:
        """The kind of its entry, a stable word."""
        kind: str = self.happened  # type: ignore[attr-defined]
        return kind

    def facts(self) -> dict[str, Any]:
        """As the ledger keeps them."""
        return self.model_dump(mode="json", exclude={"happened"})


class Step(Happening):
    """A step on the way of a question."""

    number: int = 0
    """The attempt that it belongs to, counted from one; 0: none."""
    duty: str = ""
    """What it was done for, when not for the answer itself."""

    def facts(self) -> dict[str, Any]:
        """As the ledger keeps them: what it is for stands there only where it is for something else."""
        without = {"happened"} | set(() if self.duty else ("duty",)) | set(() if self.number else ("number",))
        return self.model_dump(mode="json", exclude=without)
