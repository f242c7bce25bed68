"""Shipped files: scripts, that of each station out of its folder, styles, fonts. Their address changes with what they say."""

from __future__ import annotations

import hashlib
import os
import posixpath
import re
from pathlib import Path

from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

HERE = Path(__file__).parent
STATIC, STATIONS = HERE / "static", HERE / "stations"
FOREVER = "public, max-age=31536000, immutable"


def shipped() -> list[str]:
    """The names of all that is shipped, as it is asked for."""
    files = [path.relative_to(STATIC).as_posix() for path in sorted(STATIC.rglob("*")) if path.is_file()]
    return [*files, *(f"js/stations/{path.parent.name}.js" for path in sorted(STATIONS.glob("*/script.js")))]


IMPORT = re.compile(r'^(?:import|export) .*?from "(\.[^"]+)";$', re.MULTILINE)


def scripts_of(first: str) -> list[str]:
    """A script and all that it imports, each once, by the names they are shipped under."""
    found, asked = list[str](), [first]
    while asked:
        name = asked.pop()
        if name in found:
            continue
        found.append(name)
        folder = posixpath.dirname(name)
        asked += [posixpath.normpath(posixpath.join(folder, other)) for other in IMPORT.findall((STATIC / name).read_text())]
    return sorted(found)


def _digest() -> str:
    """Of all that is shipped: another content is another address, so that none has to be asked for again."""
    total = hashlib.sha256()
    for path in sorted([*STATIC.rglob("*"), *STATIONS.glob("*/script.js")]):
        if path.is_file():
            total.update(str(path.relative_to(HERE)).encode() + path.read_bytes())
    return total.hexdigest()[:12]


MARK = _digest()


class Shipped(StaticFiles):
    """Files under an address with the mark of their content: modules name each other, and so keep it."""

    def lookup_path(self, path: str) -> tuple[str, os.stat_result | None]:
        """Where a file lies; ``js/stations/wire.js`` is the script in the folder of that station."""
        folder, _, file = path.rpartition("/")
        name = file.removesuffix(".js")
        if folder != "js/stations" or not name.isidentifier():
            return super().lookup_path(path)
        script = STATIONS / name / "script.js"
        return (str(script), script.stat()) if script.is_file() else ("", None)

    async def get_response(self, path: str, scope: Scope) -> Response:
        """A file, to be kept."""
        response = await super().get_response(path, scope)
        if response.status_code in (200, 304):
            response.headers["Cache-Control"] = FOREVER
        return response
