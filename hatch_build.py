"""Build hook: a wheel without the built console would serve a blank page, so it is not made."""

from pathlib import Path

from hatchling.builders.hooks.plugin.interface import BuildHookInterface


class ConsoleHook(BuildHookInterface):
    """Refuses a wheel when the console has not been built; editable installs may go without."""

    def initialize(self, version, build_data):
        """Called before the wheel is put together."""
        index = Path(self.root) / "src" / "harquel" / "service" / "console" / "index.html"
        if version == "standard" and not index.is_file():
            raise RuntimeError("The console is not built. Run `make console` first, then build the wheel.")
