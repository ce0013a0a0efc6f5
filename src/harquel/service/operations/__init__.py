"""Everything that can be done with the service, declared once, whatever the way in."""

from .operation import (
    NO_SUBJECT,
    Call,
    Nothing,
    Operation,
    Subject,
    admit,
    operation,
    perform,
    registry,
)

__all__ = ["NO_SUBJECT", "Call", "Nothing", "Operation", "Subject", "admit", "operation", "perform", "registry"]
