"""Templates are kept readable: an element a line, no rule of their own, and every class is one that there is."""

from __future__ import annotations

import posixpath
import re
from pathlib import Path

import pytest

from gumboot.core.standing import STATION_IDS
from gumboot.web import urls
from gumboot.web.rendering import HERE
from gumboot.web.stations.routers import ROUTERS
from gumboot.web.stations.views import VIEWS, page_of
from tests.web.conftest import Crew

CHECKOUT = Path(__file__).parents[2]
TEMPLATES = sorted([*(HERE / "templates").glob("*.html"), *(HERE / "stations").glob("*/*.html"), *(HERE / "bag").glob("*.html")])
LONGEST = 240
# Words within a line of text, and fields within their label, are no elements of their own line.
WITHIN = {"a", "b", "span", "code", "kbd", "wbr", "input"}
# Marks for scripts and tests, not for the eye.
HOOKS = {"what", "band", "could-not", "rehearsal", "conflict", "island", "name", "reading", "hand"}


def lines_of(path: Path) -> list[str]:
    """The lines of a template without what the template engine reads."""
    text = re.sub(r"\{#.*?#\}", "", path.read_text(), flags=re.DOTALL)
    return [re.sub(r"\{\{.*?\}\}|\{%.*?%\}", "", line) for line in text.splitlines()]


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda p: f"{p.parent.name}/{p.name}")
def test_a_line_holds_one_element(path: Path) -> None:
    for number, line in enumerate(lines_of(path), start=1):
        opened = [tag for tag in re.findall(r"<([a-z0-9]+)", line) if tag not in WITHIN]
        assert len(opened) <= 1, f"{path.name}:{number} opens {opened}"
    for number, line in enumerate(path.read_text().splitlines(), start=1):
        assert len(line) <= LONGEST, f"{path.name}:{number} has {len(line)} characters"


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda p: f"{p.parent.name}/{p.name}")
def test_nothing_is_run_or_styled_within_a_template(path: Path) -> None:
    text = path.read_text()
    assert not re.search(r"\sstyle=|\son[a-z]+=|hx-on|<style|javascript:", text), path.name
    for called in re.findall(r'x-(?:on:[a-z.]+|data|text|show|bind:[a-z-]+)="([^"]*)"', text):
        assert not re.search(r"=>|`|;", called), f"{path.name}: {called} belongs into a module"


def _classes(text: str) -> set[str]:
    """Class names of a template: those that stand there, and those that a condition puts there."""
    found: set[str] = set()
    for value in re.findall(r'(?<!x-bind:)class="([^"]*)"', text):
        told = re.sub(r"\{\{(.*?)\}\}|\{%.*?%\}", lambda m: " ".join(re.findall(r"'([a-z :_-]*)'", m.group(1) or "")), value)
        found |= set(told.split())
    return {name for name in found if re.fullmatch(r"[a-z][\w./:%()\[\],-]*", name)}


def test_every_class_is_one_that_there_is_and_every_rule_is_used() -> None:
    built = (HERE / "static/app.css").read_text()
    texts = {path: path.read_text() for path in TEMPLATES}
    states = {"failed", "right", "cannot", "tell", "stop", "caution", "note", "gap"}
    for path, text in texts.items():
        for name in _classes(text) - HOOKS - states:
            assert "." + re.sub(r"([^\w-])", r"\\\1", name) in built, f"{path.name}: {name} has no rule"
    rules = "".join((CHECKOUT / f"frontend/styles/{name}.css").read_text() for name in ("parts", "hand"))
    parts = re.sub(r"/\*.*?\*/|\{[^{}]*\}", " ", rules, flags=re.DOTALL)
    sources = "".join(
        p.read_text() for p in (CHECKOUT / "src/gumboot").rglob("*") if p.suffix in (".html", ".py", ".js") and ".min." not in p.name
    )
    for name in sorted(set(re.findall(r"\.([a-z][\w-]*)", parts))):
        stem = name.removeprefix("mark-") if name.startswith("mark-") else name
        assert re.search(rf"(?<![\w-]){re.escape(stem)}(?![\w-])", sources), f"nothing is of the class {name}"


def test_every_station_has_its_folder_with_handler_view_and_page() -> None:
    assert set(VIEWS) == set(STATION_IDS)
    served = {route.path for router in ROUTERS for route in router.routes}  # type: ignore[attr-defined]
    for station in STATION_IDS:
        folder = HERE / page_of(station).removesuffix("/page.html")
        assert {p.name for p in folder.iterdir()} >= {"handler.py", "view.py", "page.html"}, station
        assert f"/jobs/{{job_id}}/{station}" in served


def test_what_is_shipped_is_kept_under_the_mark_of_its_content(ivo: Crew) -> None:
    page = ivo.client.get(f"/jobs/{ivo.job}/wire").text
    for name in ("js/main.js", "js/stations/wire.js", "app.css", "htmx.min.js"):
        answer = ivo.client.get(urls.static(name))
        assert answer.status_code == 200
        assert "immutable" in answer.headers["cache-control"]
    assert urls.static("js/main.js") in page
    for name in ("js/stations/nothing.js", "js/stations/wire.py", "js/stations/..%2F..%2Fview.js", "js/nothing.js", "js/stations/prove.js"):
        answer = ivo.client.get(urls.static(name))
        assert answer.status_code == 404, name
        assert "immutable" not in answer.headers.get("cache-control", "")


def test_every_module_that_is_named_is_shipped(ivo: Crew) -> None:
    waiting, seen = ["js/main.js", "js/hand/main.js", "js/phone/worker.js"], set[str]()
    while waiting:
        name = waiting.pop()
        answer = ivo.client.get(urls.static(name))
        assert answer.status_code == 200, name
        seen.add(name)
        named = re.findall(r'from "(\.{1,2}/[\w./-]+\.js)"', answer.text)
        found = {posixpath.normpath(f"{name.rpartition('/')[0]}/{path}") for path in named}
        waiting += [path for path in found if path not in seen]
    assert {"js/outbox.js", "js/phone/items.js", "js/stations/loads.js", "js/keys.js", "js/hand/house.js", "idb.js"} <= seen
