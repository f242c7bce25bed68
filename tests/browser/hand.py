"""Somebody with a phone in the hand: goes to an act, answers it as it should be, goes on; with and without signal."""

from __future__ import annotations

import time
from typing import Any

from playwright.sync_api import Page

from gumboot.core.acts import Act, Kind
from gumboot.core.plan.derive import Plan
from gumboot.core.standing import Standing
from tests.browser.conftest import Walker
from tests.crew import typed_of

# What lies in the store of the phone: open to see whose it is and how it stands, closed in what it says.
STORED = """(place) => new Promise((done) => {
  const ask = indexedDB.open('gumboot');
  ask.onupgradeneeded = (event) => event.target.transaction.abort();
  ask.onerror = () => done([]);
  ask.onsuccess = () => {
    const rows = ask.result.transaction(place).objectStore(place).getAll();
    rows.onsuccess = () => { ask.result.close(); done(rows.result.map((row) => ({ ...row, keys: Object.keys(row) }))); };
  };
})"""

SEEN = "const seen = (find) => [...document.querySelectorAll(find)].find((one) => one.checkVisibility());"
PAUSE = "const pause = () => new Promise((done) => setTimeout(done, 8));"
# To a place, and how what is there is answered.
GO = f"""async (place) => {{ {SEEN} {PAUSE}
  if (decodeURIComponent(location.hash.slice(1)) !== place) location.hash = '#' + place;
  const act = document.querySelector('.hand-act');
  for (let tries = 0; tries < 400 && place.includes(':') && !place.startsWith('all:') && (act.dataset.current !== place || !['act', 'sheet'].includes(document.body.dataset.screen)); tries += 1) await pause();
  // What was answered before lies over the keys for a moment.
  for (let tries = 0; tries < 200 && seen('.hand-told'); tries += 1) {{ seen('.hand-told').click(); await pause(); }}
  // What comes into sight does so with the next picture.
  await new Promise((done) => requestAnimationFrame(done)); await pause();
  const held = seen('.hand-held.stop'), hold = seen('[data-hold], [data-ring]');
  return held || !hold ? '' : document.body.dataset.mode; }}"""
# The large word goes by itself in less than a second: a busy machine may not look in time, so that it is noted as it comes.
NOTED = """if (!window.saidWords) {
  window.saidWords = [];
  const told = document.querySelector('.hand-told'), word = () => told.querySelector('b').textContent;
  new MutationObserver(() => word() && window.saidWords.push(word())).observe(told, { childList: true, subtree: true, characterData: true });
}"""
# Types what is to be typed, holds, names the tool where it is asked for, reads the large word and goes on.
ANSWER = f"""async ({{ mode, values, tool }}) => {{ {SEEN} {PAUSE} {NOTED}
  for (const [n, value] of values.entries()) {{
    const field = document.getElementById('typed');
    field.value = value; field.dispatchEvent(new Event('input')); await pause();
    if (n < values.length - 1) [...document.querySelectorAll('.hand-digit')].find((one) => one.textContent === 'next').click();
    await pause();
  }}
  // Each core of a lead beeps where it should.
  while (mode === 'ring' && seen('[data-ring=wanted]')) {{ seen('[data-ring=wanted]').click(); await pause(); }}
  for (let tries = 0; tries < 200 && seen('[data-hold=' + mode + ']').disabled; tries += 1) await pause();
  const before = window.saidWords.length;
  seen('[data-hold=' + mode + ']').click();
  for (let tries = 0; tries < 600; tries += 1) {{
    if (window.saidWords.length > before) {{
      for (let shown = 0; shown < 20 && !seen('.hand-told'); shown += 1) await pause();
      if (seen('.hand-told')) seen('.hand-told').click();
      await pause();
      return window.saidWords.at(-1);
    }}
    if (document.body.dataset.mode === 'tool') [...document.querySelectorAll('.hand-could button')].find((one) => one.textContent.includes(tool)).click();
    await pause();
  }}
  return 'nothing was told: ' + [...document.querySelectorAll('.hand-field output, [data-hold]')].map((one) => one.textContent.trim() + (one.disabled ? '!' : '')).join(); }}"""


def stored(page: Page, place: str = "items") -> list[dict[str, Any]]:
    """What the phone keeps, as anybody may see it."""
    found: list[dict[str, Any]] = page.evaluate(STORED, place)
    return found


def waiting(page: Page) -> list[dict[str, Any]]:
    """What has not reached the server."""
    return [row for row in stored(page) if row["state"] != "sent"]


def until(page: Page, count: int, seconds: float = 15.0) -> None:
    """Until so much waits on the phone."""
    end = time.monotonic() + seconds
    while (kept := len(waiting(page))) != count:
        assert time.monotonic() < end, f"{kept} wait, not {count}: {waiting(page)}"
        page.wait_for_timeout(60)


class Hand:
    """One phone with its person."""

    def __init__(self, walker: Walker) -> None:
        self.w, self.page, self.name = walker, walker.page, ""
        self.did: list[tuple[str, str]] = []

    @property
    def act(self) -> str:
        """The act in hand."""
        return str(self.page.evaluate("() => decodeURIComponent(location.hash.slice(1))"))

    def open(self, place: str = "trail") -> None:
        """The hand's page of the house, at a place."""
        self.page.goto(f"{self.w.server}/jobs/{self.w.job}/hand#{place}")
        self.page.wait_for_selector("body[data-screen]:not([data-screen=wait])")

    def go(self, place: str) -> str:
        """To a place without loading anything; in which way its act is answered, nothing where it may not be."""
        return str(self.page.evaluate(GO, place))

    def take_along(self) -> None:
        """From the yard, where there is signal; then everything is there."""
        self.open("trail")
        self.page.get_by_role("button", name="Take this house along").click()
        self.page.wait_for_selector("text=ready without signal")
        self.page.wait_for_function("() => Boolean(navigator.serviceWorker.controller)")
        self.told()

    def signal(self, on: bool) -> None:
        """Whether there is signal."""
        self.page.context.set_offline(not on)

    def told(self) -> None:
        """The large word has been read: a tap goes on."""
        self.page.evaluate("() => document.querySelector('.hand-told').click()")
        self.page.wait_for_selector(".hand-told", state="hidden")

    def hold(self, name: str) -> None:
        """Press what is held; a key of the keyboard needs no holding."""
        self.page.wait_for_function(
            "(name) => { const one = [...document.querySelectorAll(`[data-hold=${name}]`)].find((each) => each.checkVisibility());"
            " if (one) one.click(); return Boolean(one); }",
            arg=name,
        )

    def net(self, words: str) -> None:
        """What stands at the sign of the network: the act is shown first, what waits is counted after."""
        self.page.wait_for_function("(words) => document.getElementById('net').innerText.includes(words)", arg=words)

    def mode(self) -> str:
        """In which way the act in hand is answered; nothing where it may not be."""
        return self.go(self.act)

    def answer(self, plan: Plan, standing: Standing, act: Act, mode: str) -> None:
        """Answer the act in hand as it should be, with as few taps as it takes."""
        typed, band = typed_of(plan, standing, act), act.band
        if band.low is not None and band.high is None and "value" in typed:
            typed["value"] = f"{3 * band.low.value:.6g}"
        values: list[str] = []
        if mode == "pad":
            values = self.meter(plan, act) if act.kind is Kind.METER else [typed[name] for name in self.fields(act)]
        if mode == "text":
            self.page.fill("#text", typed.get("text") or typed.get("number") or "L-7")
        tool = next(t.title for t in plan.job.tools if t.kind == "torque tool")
        word = self.page.evaluate(ANSWER, {"mode": mode, "values": values, "tool": tool})
        assert word in ("Good", "Kept"), f"{act.id}, {mode}: {word}; {typed}"
        self.did.append((self.name, act.id))

    def answer_by(self, mode: str, act: str) -> None:
        """Hold one answer of the act in hand, whatever it is, and go on."""
        self.page.evaluate(ANSWER, {"mode": mode, "values": [], "tool": ""})
        self.did.append((self.name, act))

    def meter(self, plan: Plan, act: Act) -> list[str]:
        """What the channels show before and after, from the first that is asked for on: the loads stand there already."""
        legs = {f"{ct.place.channel}{own.mark}": ct.wanted_leg for own in plan.sensing.sets for ct in own.cts}
        names = self.page.evaluate("() => [...document.querySelectorAll('.hand-field')].map((one) => one.dataset.name)")
        found = []
        for name in (name for name in names if not name.startswith("load-")):
            when, _, channel = str(name).partition("-")
            load = getattr(plan.job.sensing, f"test_{when}_w") if when == legs[channel].lower() else 0
            found.append(f"{310 + load:g}")
        return found

    def fields(self, act: Act) -> list[str]:
        """The values that the pad asks for."""
        if act.kind is Kind.READ_BACK:
            return list(act.band.wants)
        return ["value", "second"] if act.kind is Kind.DISPLAYS else ["value"]

    def hear(self) -> None:
        """There is signal, and the phone knows it; it went into a pocket before, so that nothing waits for its five seconds."""
        self.page.evaluate("() => dispatchEvent(new Event('pagehide'))")
        self.signal(True)
        self.page.evaluate("() => dispatchEvent(new Event('online'))")

    def sync(self) -> None:
        """Where there is signal for a moment: everything leaves, and what the others did comes."""
        self.hear()
        try:
            until(self.page, 0, 30)
        except AssertionError:
            self.go("outbox")
            self.page.wait_for_timeout(500)
            raise AssertionError(self.page.inner_text("body")) from None
        self.page.wait_for_function("() => document.getElementById('net').innerText.trim() === 'Signal'")
