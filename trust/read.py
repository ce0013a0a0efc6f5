"""Who reads in a measure: readings that were written down beforehand, said as a model would say them."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.language import language_of, pack
from harquel.core.llm.model import Completion, Message, ModelProfile
from harquel.testing.scripted import Scripted


class Reads(Scripted):
    """Says a reading, whatever it is asked."""

    def __init__(self, reading: str) -> None:
        super().__init__(reading)
        self.profile = ModelProfile("http://reader.example", "reader")

    def complete(self, messages: list[Message], **_: Any) -> Completion:
        """The same each time."""
        return Completion(self.drafts[0], 0, 0)


def written(file: Path, part: str = "readings") -> dict[str, dict[str, Any]]:
    """The readings of a file by their keys; what several share stands once, under `common`, and is named in `with`."""
    page = read_yaml(file.read_text("utf-8"))
    found = {}
    for key, reading in page[part].items():
        added = [c for name in reading.pop("with", ()) for c in page["common"][name]]
        found[key] = reading | ({"only": [*reading.get("only", ()), *added]} if added else {})
    return found


def said(reading: dict[str, Any], question: str) -> str:
    """As a reply. These readings quote nothing, so that no question is written down twice: that whoever wrote them has
    accounted for each word of the question is taken for granted here.
    """
    words = re.findall(r"\w+", question.casefold())
    weighty = pack(language_of(question)).denials
    denials = [w for w in dict.fromkeys(words) if w in weighty]
    quoted = [w for w in dict.fromkeys(words) if w.isdigit() or w in denials]
    idle = [w for w in dict.fromkeys(words) if w not in quoted]
    whole = {**reading, "words": " … ".join(quoted[:10]), "idle": idle[:100]}
    turned = next(iter([*reading.get("only", ()), *reading.get("keep", ()), *reading.get("during", ())]), None)
    if denials and turned is not None:
        name = next(n for n in ("only", "keep", "during") if reading.get(n))
        whole[name] = [{**turned, "words": " … ".join(denials)}, *reading[name][1:]]
    return json.dumps(whole)
