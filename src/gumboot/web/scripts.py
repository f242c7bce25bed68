"""The pages' scripts: modules of their own, and that of each station out of its folder."""

from __future__ import annotations

import os
from pathlib import Path

from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

STATIONS = Path(__file__).parent / "stations"


class Scripts(StaticFiles):
    """Modules name each other without a version: a browser asks each time whether the one it has is still the one."""

    def lookup_path(self, path: str) -> tuple[str, os.stat_result | None]:
        """Where a module lies; ``stations/wire.js`` is the script in the folder of that station."""
        folder, _, file = path.partition("/")
        name = file.removesuffix(".js")
        if folder != "stations" or not name.isidentifier():
            return super().lookup_path(path)
        script = STATIONS / name / "script.js"
        return (str(script), script.stat()) if script.is_file() else ("", None)

    async def get_response(self, path: str, scope: Scope) -> Response:
        """A module, to be asked for again."""
        response = await super().get_response(path, scope)
        response.headers["Cache-Control"] = "no-cache"
        return response
