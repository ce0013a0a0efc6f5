"""Processes of a live service are killed under load; sixty of them, the service too: `python -m breach.losses`."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest
from breach.losses import kinds, run_losses

from harquel.demo.stage import Stage


@pytest.mark.parametrize("of", [("conductor", "nursery", "worker"), ("service",)])
def test_whatever_is_killed_nothing_is_lost(
    of: tuple[str, ...], new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    with new_stage(tmp_path, pace_s=0.05) as stage:
        deadline = time.monotonic() + 30
        while not all(kinds(stage.service.pid).values()) and time.monotonic() < deadline:
            time.sleep(0.05)
        assert all(kinds(stage.service.pid).values())
        losses = run_losses(stage, 5 if len(of) > 1 else 1, 5, of)
    assert losses.faults == []
    assert set(losses.killed) <= set(of)
    assert losses.ended["answered"] >= 3
    # Only what was killed may show in how anything ended.
    assert set(losses.ended) <= {"answered", "service-stopped" if of == ("service",) else "conductor-lost"}
