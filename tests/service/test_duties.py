"""Which model does what for a source: by the source's own word, the common one, and what its policy lets leave."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from harquel.core.domain.policy import Policy, Prompts
from harquel.core.errors import ConfigurationError
from harquel.service.config import DutiesSection, HarquelConfig, ModelSection
from harquel.service.duties import Duties


def config(**common: Any) -> HarquelConfig:
    models = {n: ModelSection(base_url=f"http://{n}.example/v1", name=n) for n in ("quay", "pier", "mole")}
    return HarquelConfig(models=models, duties=DutiesSection(draft="quay", **common))


@pytest.fixture
def duties() -> Iterator[Duties]:
    made = Duties(config(second_opinion="pier", read="mole"))
    yield made
    made.close()


def only(*models: str) -> Policy:
    return Policy(prompts=Prompts(models=models))


def test_a_source_has_the_common_models_or_its_own(duties: Duties) -> None:
    drafts = duties.drafting(None, Policy(), "boats")
    assert drafts.profile.name == "quay"
    assert duties.drafting("pier", Policy(), "boats").profile.name == "pier"
    second = duties.second_opinion(None, Policy(), "boats", drafts)
    reader = duties.reading(None, Policy(), "boats", drafts)
    assert second is not None
    assert (second.profile.name, reader.profile.name) == ("pier", "mole")
    assert duties.reading("quay", Policy(), "boats", drafts).models == drafts.models


def test_who_drafts_gives_no_second_opinion_and_reads_where_no_other_has_the_duty(duties: Duties) -> None:
    drafts = duties.drafting("pier", Policy(), "boats")
    assert duties.second_opinion(None, Policy(), "boats", drafts) is None
    plain = Duties(config())
    try:
        drafts = plain.drafting("pier", Policy(), "boats")
        assert plain.reading(None, Policy(), "boats", drafts).models == drafts.models
        assert plain.second_opinion(None, Policy(), "boats", drafts) is None
    finally:
        plain.close()


def test_nobody_words_answers_unless_somebody_has_that_duty(duties: Duties) -> None:
    assert duties.wording(None, Policy(), "boats") is None
    named = duties.wording("pier", Policy(), "boats")
    assert named is not None
    assert named.profile.name == "pier"
    common = Duties(config(word="mole"))
    try:
        of_all = common.wording(None, Policy(), "boats")
        assert of_all is not None
        assert of_all.profile.name == "mole"
        assert common.wording(None, only("quay"), "boats") is None
    finally:
        common.close()


def test_nothing_leaves_for_a_model_that_the_policy_does_not_name(duties: Duties) -> None:
    """The common one is done without; one that the source names itself is a fault that is said."""
    drafts = duties.drafting(None, only("quay"), "boats")
    assert duties.reading(None, only("quay"), "boats", drafts).models == drafts.models
    assert duties.second_opinion(None, only("quay"), "boats", drafts) is None
    for ask in (
        lambda: duties.reading("mole", only("quay"), "boats", drafts),
        lambda: duties.drafting("mole", only("quay"), "b"),
    ):
        with pytest.raises(ConfigurationError, match="does not let anything leave for the model 'mole'"):
            ask()
    with pytest.raises(ConfigurationError, match="'jetty' is not configured"):
        duties.reading("jetty", Policy(), "boats", drafts)


def test_a_duty_has_several_models_of_which_a_policy_lets_some() -> None:
    made = Duties(config(read=("pier", "mole"), word="mole, pier", read_hedge_s=2))
    try:
        chain = made.drafting(("quay", "pier", "mole"), Policy(), "boats")
        assert [m.profile.called for m in chain.models] == ["quay", "pier", "mole"]
        let = made.drafting(("quay", "pier", "mole"), only("mole", "pier"), "boats")
        assert [m.profile.called for m in let.models] == ["pier", "mole"]
        assert [m.profile.called for m in made.reading(None, only("quay", "mole"), "boats", chain).models] == ["mole"]
        worder = made.wording(None, Policy(), "boats")
        assert worder is not None
        assert [m.profile.called for m in worder.models] == ["mole", "pier"]
        # One for all: what fails for one source is left alone for the others.
        assert made.drafting("mole", Policy(), "cars").models[0] is let.models[1]
    finally:
        made.close()


def test_without_a_section_nobody_drafts() -> None:
    made = Duties(HarquelConfig())
    with pytest.raises(ConfigurationError, match="No model is named for drafting"):
        made.drafting(None, Policy(), "boats")
    made.close()
