"""One current picture of each main view, from a demo started by ``./gumboot demo --fresh``."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

OUT = Path(__file__).resolve().parents[1] / "docs/screenshots"
HOUSE, MISTAKEN, SEVERAL = "d1-saltmarsh", "d1-saltmarsh-mistakes", "g01-cooperage"
BENCH = ("survey", "loads", "strings", "bank", "wall", "wire", "links", "sensing", "prove", "settings", "hand-over")
REHEARSED = "bat-1,bat-2,bat-3,precharge,battery-switch,inverter,sub-main,bypass"


def take(page: Page, address: str, path: str, name: str, wait: str = "main") -> None:
    """One picture of one page."""
    page.goto(f"{address}{path}")
    page.wait_for_selector(wait)
    page.wait_for_function("() => ![...document.querySelectorAll('.later')].some(p => p.innerText.includes('being'))")
    page.evaluate("() => document.fonts.ready")
    page.screenshot(path=OUT / f"{name}.png")


def sign_in(page: Page, address: str, name: str) -> None:
    """Sign in with the demo password."""
    page.goto(f"{address}/sign-in")
    page.fill("#name", name)
    page.fill("#password", "low-tide-42")
    page.click("button.act")


def record_some(page: Page, address: str) -> None:
    """A few records, so that pictures show work in progress."""
    for place, reached in (("inverter.earth.grid.grid", "23"), ("inverter.grid.l1.grid", "28"), ("inverter.grid.l2.grid", "28")):
        page.goto(f"{address}/jobs/{HOUSE}/wire/{place}")
        page.fill("#reached", reached)
        page.select_option("#tool", "TD-1")
        page.check("input[value=held]")
        page.click(".thumb button")
        page.wait_for_url(lambda url, place=place: not url.endswith(place))
    page.goto(f"{address}/jobs/{HOUSE}/prove")
    for check, value in (("dead-grid", "0"), ("dead-dc", "31")):
        page.fill(f"#check-{check}-value", value)
        page.press(f"#check-{check}-value", "Enter")
        page.wait_for_selector(f"#check-{check} .ok, #check-{check} .problem")


def hands(browser: Browser, address: str) -> None:
    """The hand, in the dark of a garage and in the light: an end with its torque, a step of first power, a sheet of the plan, the outbox."""
    for light, places in (("dark", {"hand-torque": "torque:inverter.battery.pos.bat-main", "hand-power-up": "step:precharge"}),
                          ("plain", {"hand-plan": "sheet:wall:inverter", "hand-outbox": "outbox"})):  # fmt: skip
        context = browser.new_context(viewport={"width": 390, "height": 844}, device_scale_factor=1)
        page = context.new_page()
        sign_in(page, address, "ivo")
        page.evaluate("(light) => localStorage.setItem('gumboot-light', light)", light)
        page.goto(f"{address}/jobs/{HOUSE}/hand#trail")
        page.get_by_role("button", name="Take this house along").click()
        page.wait_for_selector("text=ready without signal")
        page.wait_for_function("() => Boolean(navigator.serviceWorker.controller)")
        context.set_offline(True)
        keep_some(page, "unpack:inverter", "inside:inverter")
        for name, place in places.items():
            page.evaluate("(place) => { location.hash = '#' + place; }", place)
            page.wait_for_timeout(1200)
            page.screenshot(path=OUT / f"{name}.png")
        context.close()


def keep_some(page: Page, *acts: str) -> None:
    """A few answers that wait on the phone."""
    for act in acts:
        page.evaluate("(act) => { location.hash = '#' + act; }", act)
        page.wait_for_selector(f"[data-current='{act}'] h1")
        page.wait_for_selector("[data-hold=main]:visible:enabled")
        page.evaluate("() => document.querySelector('[data-hold=main]').click()")
        page.wait_for_selector(".hand-told", state="visible")
        page.wait_for_selector(".hand-told", state="hidden")


def main(address: str) -> None:
    """Take them all."""
    OUT.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as p:
        args = ["--disable-gpu", *(["--no-sandbox"] if os.geteuid() == 0 else [])]
        browser = p.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=args)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sign_in(page, address, "ivo")
        record_some(page, address)
        for station in BENCH:
            take(page, address, f"/jobs/{HOUSE}/{station}", station)
        take(page, address, f"/jobs/{SEVERAL}/circuits", "circuits")
        take(page, address, f"/jobs/{MISTAKEN}/power-up?moves={REHEARSED}", "power-up")
        take(page, address, f"/compare?a={HOUSE}&b={MISTAKEN}", "compare")
        take(page, address, "/sums/bank-sharing?current=150+A&leads=1;+1;+4&cell=20&rating=50", "quick-sum")
        hands(browser, address)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
