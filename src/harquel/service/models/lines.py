"""A model as it is configured and as it stands, and what it does for whom."""

from __future__ import annotations

from harquel.contract import ModelLine
from harquel.core.llm.shared import SharedModel
from harquel.service.access.caller import Caller
from harquel.service.config import DUTIES, HarquelConfig, names_of
from harquel.service.masking import masked
from harquel.service.runtime import runtime


def line_of(name: str, model: SharedModel, caller: Caller) -> ModelLine:
    """Nothing secret is in it, nor a source that the caller does not see."""
    live, profile, look = runtime(), model.profile, model.breaker.look()
    return ModelLine(
        name=name, model=profile.name, protocol=profile.protocol, address=profile.base_url,
        duties=duties_of(name, live.config, caller), prompt_price=float(profile.prompt_price),
        completion_price=float(profile.completion_price), at_once=live.config.models[name].at_once, state=look.state,
        rests_s=look.rests_s, calls=model.counts.calls, failures=model.counts.failures,
        last_fault=masked(model.counts.last_fault),
    )  # fmt: skip


def duties_of(name: str, config: HarquelConfig, caller: Caller) -> list[str]:
    """What it does by the configuration: the common duties, then those for single sources."""
    seen = [(f"{source}: ", section) for source, section in config.sources.items() if caller.sees(source)]
    sections = [("", config.duties), *seen]
    return [
        f"{whose}{duty.replace('_', ' ')}" for whose, section in sections if section is not None for duty in DUTIES
        if name in names_of(getattr(section, duty))
    ]  # fmt: skip
