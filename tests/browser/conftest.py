"""A real server and a real browser; every console error and policy violation fails the test."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
import uuid
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page

from gumboot.cli.bench import _free_port
from gumboot.cli.checkout import CHECKOUT
from gumboot.cli.cluster import Cluster
from gumboot.store.demo import DEMO_PASSWORD

AXE = (Path(__file__).parent / "vendor/axe.min.js").read_text()
# A refused value is answered with its own status, which the browser notes in its console.
EXPECTED = ("status of 422", "status of 409", "status of 403", "status of 401", "ERR_INTERNET_DISCONNECTED")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    args = [
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ]
    return {"executable_path": "/usr/bin/chromium-headless-shell", "args": [*args, "--no-sandbox"] if os.geteuid() == 0 else args}


@pytest.fixture(scope="session")
def server() -> Iterator[str]:
    home = Path(tempfile.mkdtemp(prefix="gumboot-browser-"))
    home.chmod(0o755)
    port = _free_port()
    environment = {**os.environ, "GUMBOOT_DATA": str(home), "GUMBOOT_PORT": str(port), "PYTHONPATH": str(CHECKOUT / "src")}
    environment.pop("DATABASE_URL", None)
    with (home / "app.log").open("w") as log:
        app = subprocess.Popen([sys.executable, "-m", "gumboot.cli", "demo"], env=environment, stdout=log, stderr=log, cwd=CHECKOUT)
        address = f"http://127.0.0.1:{port}"
        for _ in range(600):
            try:
                urllib.request.urlopen(f"{address}/healthz", timeout=2).close()
                break
            except OSError:
                assert app.poll() is None, (home / "app.log").read_text()
                time.sleep(0.1)
        yield address
        app.terminate()
        app.wait(30)
    said = (home / "app.log").read_text()
    assert "Traceback" not in said, said[said.find("Traceback") :][:9000]
    assert not Cluster(home).running(), "the app ended and left its database running"
    shutil.rmtree(home, ignore_errors=True)


class Walker:
    """A page that remembers what went wrong."""

    def __init__(self, page: Page, server: str, job: str) -> None:
        self.page, self.server, self.job = page, server, job
        self.trouble: list[str] = []
        page.on("console", lambda m: self.trouble.append(m.text) if m.type == "error" and not any(e in m.text for e in EXPECTED) else None)
        page.on("pageerror", lambda e: self.trouble.append(str(e)))
        page.on(
            "request", lambda r: None if r.url.startswith((server, "data:", "blob:")) else self.trouble.append(f"request left: {r.url}")
        )

    def sign_in(self, name: str) -> None:
        self.page.goto(f"{self.server}/sign-in")
        self.page.fill("#name", name)
        self.page.fill("#password", DEMO_PASSWORD)
        self.page.click("button.act")
        self.page.wait_for_url(f"{self.server}/")

    def go(self, station: str) -> None:
        self.page.goto(f"{self.server}/jobs/{self.job}/{station}")

    def record(self, subject: str, **typed: str) -> None:
        """Record something as a phone's queue does, without its page."""
        csrf = self.page.request.get(f"{self.server}/api/me", max_retries=3).json()["csrf"]
        form: dict[str, str | float | bool] = {"csrf": csrf, "record_id": str(uuid.uuid4()), **typed}
        answer = self.page.request.post(
            f"{self.server}/jobs/{self.job}/records/{subject}", form=form, headers={"Accept": "application/json"}
        )
        assert answer.ok, answer.text()

    def redraw(self, act: Callable[[], object]) -> None:
        """Act, and wait for the answer to be drawn."""
        with self.page.expect_response(lambda r: r.request.method == "POST"):
            act()
        self.page.wait_for_function("() => !document.querySelector('.htmx-request, .htmx-added, [aria-busy=true]')")

    def accessible(self, *only: str) -> None:
        """No rule of WCAG 2.2 AA that a program can judge is broken; ``only`` asks these rules alone."""
        if self.page.evaluate("() => typeof window.axe") == "undefined":
            self.page.evaluate(AXE)
        asked = {"type": "rule", "values": list(only)} if only else {"type": "tag", "values": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]}
        found = self.page.evaluate(
            "async (asked) => (await axe.run(document, {runOnly: asked, resultTypes: ['violations']})).violations.map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160) + ' ' + n.failureSummary.slice(0, 200)).join(' | '))",
            asked,
        )
        assert found == []


@pytest.fixture
def walk(browser: Browser, server: str) -> Iterator[Callable[..., Walker]]:
    made: list[Walker] = []

    def start(name: str = "ivo", job: str = "d1-saltmarsh", width: int = 1280, height: int = 800) -> Walker:
        context = browser.new_context(viewport={"width": width, "height": height}, has_touch=width < 500)
        walker = Walker(context.new_page(), server, job)
        walker.sign_in(name)
        made.append(walker)
        return walker

    yield start
    for walker in made:
        walker.page.context.close()
        assert walker.trouble == []
