"""Logging: one line an event, for people on a terminal and as JSON elsewhere."""

from __future__ import annotations

import logging
import sys

import structlog

from harquel.service.masking import mask_event


def configure() -> None:
    """Sets up structlog and sends what libraries log the same way."""
    on_terminal = sys.stderr.isatty()
    shared: list[structlog.typing.Processor] = [
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    renderer = structlog.dev.ConsoleRenderer() if on_terminal else structlog.processors.JSONRenderer()
    structlog.configure(
        processors=[*shared, structlog.processors.format_exc_info, mask_event, renderer],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
        wrapper_class=structlog.make_filtering_bound_logger(logging.INFO),
    )
    logging.basicConfig(level=logging.WARNING, stream=sys.stderr, format="%(levelname)s %(name)s %(message)s")
