"""Another model, or other templates, for a question that is drafted again."""

from __future__ import annotations

from dataclasses import replace

from harquel.core.domain.redraft import Redraft
from harquel.core.inquiry.source import Source
from harquel.core.prompts import SHIPPED
from harquel.service.duties import Duties


def redrafting(source: Source, wish: Redraft | None, duties: Duties) -> Source:
    """The source with what is wished for in the place of its own; whom its policy lets nothing leave for is nobody to
    wish for. Raises ConfigurationError.
    """
    if wish is None:
        return source
    model = duties.drafting(wish.model, source.policy, source.name) if wish.model else source.model
    return replace(source, model=model, prompts=SHIPPED if wish.shipped else source.prompts)
