"""The language models of the configuration, and which of them does what for a source."""

from __future__ import annotations

from pathlib import Path

from harquel.core.domain.policy import Policy
from harquel.core.errors import ConfigurationError
from harquel.core.llm.chat_completions import ChatCompletions
from harquel.core.llm.model import ModelProfile
from harquel.service.config import HarquelConfig, ModelSection, resolve_secret


class Duties:
    """Made once; every source asks here for the models it may use."""

    def __init__(self, config: HarquelConfig) -> None:
        """Raises ConfigurationError for a key that cannot be read."""
        self._duties = config.duties
        self._models = {name: _model(name, section, config.base) for name, section in config.models.items()}

    def drafting(self, name: str | None, policy: Policy, source: str) -> ChatCompletions:
        """The model that drafts for a source. Raises ConfigurationError when there is none, or none that is allowed."""
        if self._duties is None:
            raise ConfigurationError("No model is named for drafting.", 'Add [duties] with draft = "NAME of a model".')
        chosen = name or self._duties.draft
        if chosen not in self._models:
            raise ConfigurationError(f"The model {chosen!r} is not configured.", f"Known: {', '.join(self._models)}.")
        if policy.prompts.models and chosen not in policy.prompts.models:
            raise ConfigurationError(
                f"The policy of {source} does not let anything leave for the model {chosen!r}.",
                f"Allowed there: {', '.join(policy.prompts.models)}. Name one of them as draft of the source.",
            )
        return self._models[chosen]

    def second_opinion(
        self, name: str | None, policy: Policy, source: str, drafts: ChatCompletions
    ) -> ChatCompletions | None:
        """The one for second opinions; None when that is the one that drafts. Raises ConfigurationError.

        `drafts` is who drafts for the source: who is asked twice shares with the first draft all that it knows.
        """
        common = self._duties.second_opinion if self._duties is not None else None
        found = self._other(name, common, policy, source)
        return None if found is drafts else found

    def reading(self, name: str | None, policy: Policy, source: str, drafts: ChatCompletions) -> ChatCompletions:
        """The one that reads questions; who drafts for the source where no other has that duty.

        Raises ConfigurationError.
        """
        common = self._duties.read if self._duties is not None else None
        return self._other(name, common, policy, source) or drafts

    def wording(self, name: str | None, policy: Policy, source: str) -> ChatCompletions | None:
        """The one that puts answers into words; None where nobody has that duty. Raises ConfigurationError."""
        return self._other(name, self._duties.word if self._duties is not None else None, policy, source)

    def _other(self, name: str | None, common: str | None, policy: Policy, source: str) -> ChatCompletions | None:
        if name is not None:
            return self.drafting(name, policy, source)
        allowed = common is not None and (not policy.prompts.models or common in policy.prompts.models)
        return self.drafting(common, policy, source) if allowed else None

    def close(self) -> None:
        """Gives their connections back."""
        for model in self._models.values():
            model.close()


def _model(name: str, section: ModelSection, base: Path) -> ChatCompletions:
    key = resolve_secret(section.key, base, f"models.{name}.key") if section.key else None
    return ChatCompletions(
        ModelProfile(
            section.base_url, section.name, key, section.temperature, section.timeout_s,
            section.prompt_price, section.completion_price,
        )
    )  # fmt: skip
