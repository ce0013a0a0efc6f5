"""What operations raise for whoever called: errors with a name, a status and a hint, whatever way they came in."""

from __future__ import annotations

from harquel.contract import Problem


class ProblemError(Exception):
    """An error with a name of its own. Views and actions raise it; it becomes the response."""

    def __init__(
        self, status: int, name: str, title: str, hint: str = "", headers: dict[str, str] | None = None
    ) -> None:
        super().__init__(title)
        self.problem = Problem(type=f"/problems/{name}", title=title, status=status, hint=hint)
        self.headers = headers or {}

    @classmethod
    def of(cls, problem: Problem, headers: dict[str, str] | None = None) -> ProblemError:
        """Of a problem that was made elsewhere."""
        return cls(problem.status, problem.type.removeprefix("/problems/"), problem.title, problem.hint, headers)


def not_found(what: str, name: str, hint: str = "") -> ProblemError:
    """There is no such thing, or it is not for the caller: both sound the same."""
    return ProblemError(404, f"unknown-{what}", f"There is no {what} {name!r} here.", hint)


def records_trouble(why: str) -> tuple[Problem, dict[str, str]]:
    """Nothing is answered that cannot be put on record."""
    problem = Problem(
        type="/problems/records-unwritable", title=f"The records cannot be written: {why}.", status=503,
        hint="Tell the operator. Questions are taken again by themselves once there is room.",
    )  # fmt: skip
    return problem, {"Retry-After": "10"}
