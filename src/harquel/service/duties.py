"""The language models of the configuration, and which of them do what for a source."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from harquel.core.domain.policy import Policy
from harquel.core.errors import ConfigurationError
from harquel.core.llm.chain import Chain
from harquel.core.llm.model import ModelProfile, Shape
from harquel.core.llm.over_http import HttpModel
from harquel.core.llm.shared import SharedModel
from harquel.core.prompts.shapes import DRAFT, FOLLOWED, READING, WORDING
from harquel.service import masking
from harquel.service.config import HarquelConfig, ModelSection, Names, SourceSection, names_of, resolve_secret


@dataclass(frozen=True)
class OfSource:
    """Who does what for a source, by the names that `Source` has for them."""

    model: Chain
    second: Chain | None
    reader: Chain
    worder: Chain | None
    follower: Chain


class Duties:
    """Made once; every source asks here for the models it may use. A model is one for all who name it."""

    def __init__(self, config: HarquelConfig, before: Duties | None = None) -> None:
        """Raises ConfigurationError for a key that cannot be read.

        `before`: those of an earlier configuration, of which models that are as they were go on, with what is known of
        them.
        """
        self._duties = config.duties
        known = before.models if before is not None else {}
        self.models: Mapping[str, SharedModel] = {
            name: _shared(_profile(name, section, config.base), section.at_once, known.get(name))
            for name, section in config.models.items()
        }

    def of(self, section: SourceSection, policy: Policy, source: str) -> OfSource:
        """Who does what for a source. Raises ConfigurationError."""
        drafts = self.drafting(section.draft, policy, source)
        return OfSource(
            drafts, self.second_opinion(section.second_opinion, policy, source, drafts),
            self.reading(section.read, policy, source, drafts), self.wording(section.word, policy, source),
            self.following(section.follow, policy, source, drafts),
        )  # fmt: skip

    def drafting(self, names: Names | None, policy: Policy, source: str) -> Chain:
        """Who drafts for a source. Raises ConfigurationError when there is nobody, or nobody who is allowed."""
        if self._duties is None:
            raise ConfigurationError("No model is named for drafting.", 'Add [duties] with draft = "NAME of a model".')
        return Chain(self._allowed(names_of(names) or names_of(self._duties.draft), policy, source), DRAFT)

    def second_opinion(self, names: Names | None, policy: Policy, source: str, drafts: Chain) -> Chain | None:
        """Who gives second opinions; None when that is who drafts. Raises ConfigurationError.

        `drafts` is who drafts for the source: who is asked twice shares with the first draft all that it knows.
        """
        common = self._duties.second_opinion if self._duties is not None else None
        found = self._other(names, common, policy, source, DRAFT)
        return None if found is None or found.models[0] is drafts.models[0] else found

    def reading(self, names: Names | None, policy: Policy, source: str, drafts: Chain) -> Chain:
        """Who reads questions; who drafts for the source where nobody else has that duty.

        Raises ConfigurationError.
        """
        common = self._duties.read if self._duties is not None else None
        hedge_s = self._duties.read_hedge_s if self._duties is not None else None
        found = self._other(names, common, policy, source, READING)
        return Chain(found.models if found is not None else drafts.models, READING, hedge_s)

    def wording(self, names: Names | None, policy: Policy, source: str) -> Chain | None:
        """Who puts answers into words; None where nobody has that duty. Raises ConfigurationError."""
        common = self._duties.word if self._duties is not None else None
        return self._other(names, common, policy, source, WORDING)

    def following(self, names: Names | None, policy: Policy, source: str, drafts: Chain) -> Chain:
        """Who says what follows an answer as a whole question; who drafts where nobody else has that duty.

        Raises ConfigurationError.
        """
        common = self._duties.follow if self._duties is not None else None
        found = self._other(names, common, policy, source, FOLLOWED)
        return found or Chain(drafts.models, FOLLOWED)

    def _other(
        self, names: Names | None, common: Names | None, policy: Policy, source: str, shape: Shape
    ) -> Chain | None:  # fmt: skip
        if names is not None:
            return Chain(self._allowed(names_of(names), policy, source), shape)
        # Whom the policy of a source does not let read along has the duty for others only.
        let = [name for name in names_of(common) if _let(name, policy)]
        return Chain(self._allowed(tuple(let), policy, source), shape) if let else None

    def _allowed(self, names: tuple[str, ...], policy: Policy, source: str) -> list[SharedModel]:
        """Those to whom something may leave. Raises ConfigurationError where that is nobody."""
        unknown = [name for name in names if name not in self.models]
        if unknown:
            known = f"Known: {', '.join(self.models)}."
            raise ConfigurationError(f"The model {unknown[0]!r} is not configured.", known)
        let = [self.models[name] for name in names if _let(name, policy)]
        if not let:
            raise ConfigurationError(
                f"The policy of {source} does not let anything leave for the model {names[0]!r}.",
                f"Allowed there: {', '.join(policy.prompts.models)}. Name one of them as draft of the source.",
            )
        return let

    def close(self) -> None:
        """Gives their connections back."""
        for model in self.models.values():
            model.close()


def _shared(profile: ModelProfile, at_once: int, known: SharedModel | None) -> SharedModel:
    same = known is not None and known.profile == profile and known.at_once == at_once
    return known if known is not None and same else SharedModel(HttpModel(profile), at_once)


def _let(name: str, policy: Policy) -> bool:
    return not policy.prompts.models or name in policy.prompts.models


def _profile(called: str, section: ModelSection, base: Path) -> ModelProfile:
    key = resolve_secret(section.key, base, f"models.{called}.key") if section.key else None
    if key:
        masking.remember(key)
    told = section.temperature if section.temperature is not None or section.effort is not None else 0.0
    return ModelProfile(
        section.base_url, section.name, key, told, section.timeout_s, section.prompt_price, section.completion_price,
        section.protocol, called, section.longest, section.effort, section.system, section.stream, section.structured,
        section.cached, section.fields,
    )  # fmt: skip
