"""The sources at work, by name, and whether all of them stand still."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import structlog

from harquel.core.errors import ConfigurationError
from harquel.service.config import HarquelConfig

from .live import LiveSource
from .models import SourceState, StoredSource
from .specs import SourceSpec, stored_spec
from .vault import Vault

log = structlog.get_logger("harquel")


class Sources(Mapping[str, LiveSource]):
    """As a mapping it is what there is at this moment; who goes through it is not disturbed by what comes and goes."""

    def __init__(self, build: Callable[[SourceSpec, bool], LiveSource], vault: Vault, still: bool = False) -> None:
        self._build, self._vault, self._still = build, vault, still
        self._by_name: dict[str, LiveSource] = {}

    def __getitem__(self, name: str) -> LiveSource:
        return self._by_name[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._by_name)

    def __len__(self) -> int:
        return len(self._by_name)

    def load(self, config: HarquelConfig) -> None:
        """Those of the file, then those of the records. Raises ConfigurationError for one of the file only: one of the
        records that cannot be made must not keep the service from starting.
        """
        for name, section in config.sources.items():
            self.add(SourceSpec(name, section, "file"))
        for stored in StoredSource.objects.exclude(name__in=config.sources):
            try:
                self.add(stored_spec(stored, self._vault))
            except ConfigurationError as error:
                log.warning("source left out", source=stored.name, error=str(error), hint=error.hint)

    def add(self, spec: SourceSpec) -> LiveSource:
        """Makes a source and takes it in, instead of an earlier one of that name. Raises ConfigurationError."""
        state = SourceState.objects.filter(source=spec.name).first()
        live = self._build(spec, state.enabled if state is not None else True)
        live.sandbox.stand_still(self._still)
        earlier, self._by_name = self._by_name.get(spec.name), {**self._by_name, spec.name: live}
        if earlier is not None:
            earlier.close()
        return live

    def drop(self, name: str) -> None:
        """Lets a source go; inquiries under way end with an error of their own."""
        live = self._by_name[name]
        self._by_name = {n: s for n, s in self._by_name.items() if n != name}
        live.close()

    def standing_still(self) -> bool:
        """Whether every statement is stopped."""
        return self._still

    def stand_still(self, on: bool) -> None:
        """For every source there is, and for those that come."""
        self._still = on
        for source in self._by_name.values():
            source.sandbox.stand_still(on)

    def close(self) -> None:
        """All of them."""
        for source in self._by_name.values():
            source.close()
        for source in self._by_name.values():
            source.keeper.wait(3.0)
