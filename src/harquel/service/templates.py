"""The templates by which models are told what they are: files beside the configuration, for those that ship."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from harquel.core.errors import ConfigurationError
from harquel.core.nearest import meant
from harquel.core.prompts import Prompts
from harquel.core.prompts.templates import LONGEST, NAMES, Name
from harquel.service.config import HarquelConfig, SourceSection

_SUFFIX: Final = ".jinja"


def prompts_of(config: HarquelConfig, section: SourceSection) -> Prompts:
    """Those of a source: its own files, else those for all sources, else those that ship.

    Raises ConfigurationError for a folder that is not there, a file of another name, a template that cannot be used.
    """
    own: dict[Name, str] = {}
    for folder in (config.service.prompts, section.prompts):
        own |= _read(config.base / folder) if folder is not None else {}
    return Prompts(own)


def _read(folder: Path) -> dict[Name, str]:
    if not folder.is_dir():
        raise ConfigurationError(f"The folder {folder} of templates is not there.", "Make it, or leave the line out.")
    known: dict[str, Name] = {f"{name}{_SUFFIX}": name for name in NAMES}
    found: dict[Name, str] = {}
    for file in sorted(folder.glob(f"*{_SUFFIX}")):
        if file.name not in known:
            hint = meant(file.name, known, f"There are {', '.join(known)}.")
            raise ConfigurationError(f"{file} is no template that is known.", hint)
        try:
            with file.open(encoding="utf-8") as opened:
                found[known[file.name]] = opened.read(LONGEST + 1)
        except (OSError, UnicodeDecodeError) as error:
            raise ConfigurationError(f"The template {file} cannot be read: {error}.") from error
    return found
