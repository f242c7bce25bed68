"""How long the hand takes to show its first page and the next act, on this machine and four times slowed, and what a house weighs."""

from __future__ import annotations

import gzip
import os
import statistics
import sys
from typing import Any

from playwright.sync_api import BrowserContext, Page, sync_playwright

HOUSE = "d1-saltmarsh"
SLOWED, ROUNDS, ACTS = 4, 7, 40
# From where on the acts of a station are gone through: ends of a box, and boards of which each has a picture of its own.
FROM = {"wire": "torque:inverter.earth.pv1.pv-pv1", "power-up": "step:start-dead"}
LIMITS = {"next act": 50.0, "first page": 1500.0, "bag": 2000.0}

# From the wish to the painted picture: the act stands, and a frame has been drawn since.
NEXT = """(most) => (async () => {
  const frame = () => new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)));
  const acts = [...document.querySelectorAll('.hand-act')];
  const after = [...document.querySelectorAll('.hand-bar .turn')][1];
  const found = [];
  for (let n = 0; n < most && !after.disabled; n += 1) {
    const was = acts[0].dataset.current;
    const from = performance.now();
    after.click();
    while (acts[0].dataset.current === was) await new Promise((done) => setTimeout(done, 0));
    await frame();
    found.push(performance.now() - from);
  }
  return found;
})()"""
SHOWN = "() => document.body.dataset.screen === 'act' && document.querySelector('#act-title').textContent"


def sign_in(page: Page, address: str) -> None:
    """Sign in with the demo password."""
    page.goto(f"{address}/sign-in")
    page.fill("#name", "ivo")
    page.fill("#password", "low-tide-42")
    page.click("button.act")
    page.wait_for_url(f"{address}/")


def first_page(context: BrowserContext, url: str, slowed: int) -> float:
    """From nothing to an act that can be answered, in ms."""
    page = context.new_page()
    context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": slowed})
    page.goto(url, wait_until="commit")
    page.wait_for_function(SHOWN, polling=10)
    taken = page.evaluate("() => performance.now()")
    page.close()
    return float(taken)


def weights(page: Page, address: str) -> dict[str, float]:
    """What a house weighs, in kB: as it is, and as it goes through the air."""
    found = {}
    for name in ("bag", "acts"):
        body = page.request.get(f"{address}/api/jobs/{HOUSE}/{name}").body()
        found[name], found[f"{name}, packed"] = len(body) / 1000, len(gzip.compress(body, 5)) / 1000
    return found


def row(name: str, values: list[float], unit: str, limit: float | None = None) -> None:
    """A line of the table."""
    told = f"{min(values):8.1f} {statistics.median(values):8.1f} {max(values):8.1f} {unit}"
    against = "" if limit is None else f"  {'within' if statistics.median(values) <= limit else 'BEYOND'} {limit:g} {unit}"
    print(f"{name:44}{told}{against}")


def main(address: str) -> int:
    """Measure and print."""
    with sync_playwright() as p:
        args = ["--disable-gpu", *(["--no-sandbox"] if os.geteuid() == 0 else [])]
        browser = p.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=args)
        context = browser.new_context(viewport={"width": 390, "height": 844})
        page = context.new_page()
        sign_in(page, address)
        kb = weights(page, address)
        # Who signed in has the worker: what it fetches is not measured.
        page.evaluate("() => navigator.serviceWorker.ready")
        page.wait_for_timeout(4000)
        print(f"{'':44}{'least':>8} {'middle':>8} {'most':>8}")
        url = f"{address}/jobs/{HOUSE}/hand#wire"
        row("first page with signal, slowed 4 times", [first_page(context, url, SLOWED) for _ in range(ROUNDS)], "ms", LIMITS["first page"])
        page.goto(f"{address}/jobs/{HOUSE}/hand#trail")
        page.get_by_role("button", name="Take this house along").click()
        page.wait_for_selector("text=ready without signal")
        page.wait_for_function("() => Boolean(navigator.serviceWorker.controller)")
        told = page.inner_text(".hand-bag")
        context.set_offline(True)
        for slowed in (1, SLOWED):
            words = "" if slowed == 1 else f", slowed {slowed} times"
            opened = [first_page(context, url, slowed) for _ in range(ROUNDS)]
            row(f"first page from the bag{words}", opened, "ms", LIMITS["first page"])
            _next_acts(context, url, slowed, words)
        for name, value in kb.items():
            row(f"{HOUSE}: {name}", [value], "kB", LIMITS["bag"] if name == "bag" else None)
        print(told.replace("\n", " "))
        browser.close()
    return 0


def _next_acts(context: BrowserContext, url: str, slowed: int, words: str) -> None:
    for station, act in FROM.items():
        page: Any = context.new_page()
        context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": slowed})
        page.goto(url.replace("#wire", f"#{act}"))
        page.wait_for_function(SHOWN)
        page.wait_for_timeout(1500)
        row(f"next act, {station}{words}", page.evaluate(NEXT, ACTS), "ms", LIMITS["next act"])
        page.close()


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
