"""What goes wrong with a phone: full, two tabs, killed and upgraded in between, an act that is no more, a hold that somebody clears."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from gumboot.cli.bench import _free_port
from gumboot.cli.checkout import CHECKOUT
from gumboot.core.acts import Kind
from tests.browser.conftest import Walker
from tests.browser.hand import Hand, until, waiting
from tests.browser.test_phone import HOUSE, first_open, phone, planned, rows_of, taken_along
from tests.browser.test_plan_leg import copied

Walk = Callable[..., Walker]


def held_once(hand: Hand, *kinds: Kind) -> str:
    """One act done without signal; which."""
    act = first_open(hand, *kinds)
    hand.signal(False)
    hand.go(act.id)
    hand.hold("main")
    until(hand.page, 1)
    return act.id


def test_a_full_phone_says_so_before_and_drops_nothing(walk: Walk) -> None:
    hand = taken_along(walk, copied(walk, "Full phone", like=HOUSE).job)
    hand.page.add_init_script("navigator.storage.estimate = async () => ({ usage: 85, quota: 100 });")
    hand.open("outbox")
    hand.page.reload()
    hand.page.wait_for_selector("text=This phone is 85 % full")
    hand.net("85 %")
    first = held_once(hand, Kind.INSIDE, Kind.FIND)
    hand.told()
    # From here on its store takes no more records.
    hand.page.evaluate(
        """() => { const put = IDBObjectStore.prototype.put;
        IDBObjectStore.prototype.put = function (...given) {
          if (this.name === 'items') throw new DOMException('full', 'QuotaExceededError');
          return put.apply(this, given); }; window.room = () => { IDBObjectStore.prototype.put = put; }; }"""
    )
    act = hand.act
    assert act != first
    hand.hold("main")
    hand.page.wait_for_selector("text=This phone is full: nothing was kept of this answer")
    assert len(waiting(hand.page)) == 1
    assert hand.act == act
    hand.page.evaluate("() => window.room()")
    hand.told()
    hand.hold("main")
    until(hand.page, 2)
    hand.hear()
    until(hand.page, 0, 30)
    assert {row["act"] for row in rows_of(hand.w)} == {first, act}


def test_two_tabs_on_a_phone_send_everything_once(walk: Walk) -> None:
    hand = taken_along(walk, copied(walk, "Two tabs", like=HOUSE).job)
    other = Hand(Walker(hand.page.context.new_page(), hand.w.server, hand.w.job))
    other.open("wire")
    _, standing = planned(hand.w)
    hand.signal(False)
    free = [
        a
        for a in standing.acts.values()
        if a.kind in (Kind.INSIDE, Kind.FIND, Kind.HOLE, Kind.LIFT, Kind.LABEL, Kind.COVER, Kind.LEAD, Kind.CORE)
    ]
    did: list[str] = []
    for act in free:
        tab = (hand, other)[len(did) % 2]
        if len(did) < 6 and tab.go(act.id) == "main":
            tab.answer_by("main", act.id)
            did.append(act.id)
    assert len(did) >= 4
    until(hand.page, len(did))
    # What one tab keeps the other counts.
    other.page.evaluate("() => dispatchEvent(new Event('offline'))")
    other.page.wait_for_function("(n) => document.getElementById('net').innerText.includes(n + ' kept')", arg=len(did))
    hand.signal(True)
    for tab in (hand, other):
        tab.page.evaluate("() => dispatchEvent(new Event('online'))")
    until(hand.page, 0, 30)
    assert sorted(row["act"] for row in rows_of(hand.w)) == sorted(did)


def test_what_was_done_at_an_act_that_is_no_more_is_attached_to_another(walk: Walk) -> None:
    w = copied(walk, "Attached", like="d1-saltmarsh")
    hand = taken_along(walk, w.job)
    plan, _ = planned(hand.w)
    ends = [t for t in plan.terminations if t.place == "bat-3" and t.torque is not None]
    act = f"torque:{ends[0].id}"
    hand.signal(False)
    hand.go(act)
    if hand.page.locator("text=It is done already").is_visible():
        hand.page.evaluate(
            "() => [...document.querySelectorAll('.hand-link')].find((one) => one.textContent === 'It is done already').click()"
        )
    hand.hold("main")
    if hand.page.evaluate("() => document.body.dataset.mode") == "tool":
        hand.page.locator(".hand-could button:visible >> nth=0").click()
    until(hand.page, 1)
    # Meanwhile the third battery leaves the plan.
    csrf = w.page.request.get(f"{w.server}/api/me", max_retries=3).json()["csrf"]
    gone = w.page.request.post(
        f"{w.server}/jobs/{w.job}/list/remove", form={"csrf": csrf, "path": "banks.bank.units", "item": "bat-3", "station": "bank"}
    )
    assert gone.ok
    hand.signal(True)
    hand.page.evaluate("() => dispatchEvent(new Event('online'))")
    hand.page.wait_for_function("() => document.getElementById('net').innerText.includes('needs you')", timeout=20000)
    hand.go("outbox")
    hand.page.wait_for_selector("text=It is no act of this plan any more")
    hand.page.get_by_role("button", name="Attach to another act").click()
    other = hand.page.locator(".hand-needs .hand-row:visible").first
    title = other.inner_text()
    other.click()
    hand.page.wait_for_selector(".hand-needs", state="detached")
    until(hand.page, 0)
    rows = rows_of(hand.w)
    assert [row["kind"] for row in rows] == ["landing", "set-aside"]
    assert "attached here" in rows[0]["note"]
    assert title in rows[1]["reason"]
    assert rows[1]["act"] == act
    # The server said that there is no such act any more.
    assert all("404" in each for each in hand.w.trouble)
    hand.w.trouble.clear()


def test_a_licence_holder_clears_a_hold_where_the_reading_stands(walk: Walk) -> None:
    job = copied(walk, "Cleared", like=HOUSE).job
    hand = phone(walk, "lena", job)
    hand.open("trail")
    act = first_open(hand, Kind.MEASUREMENT)
    hand.w.record(act.id.replace(":", "/"), value="0.0001" if act.band.low is not None else "99999", sure="yes")
    hand.open(act.id)
    hand.page.reload()
    hand.page.wait_for_selector(".hand-last.bad")
    hand.page.get_by_role("button", name="Could not").locator("visible=true").first.click()
    hand.page.get_by_role("button", name="Clear the hold").click()
    hand.page.fill("#why", "measured again with another meter, cause found")
    hand.hold("why")
    hand.page.wait_for_selector(".hand-last.ok")
    hand.sync()
    assert [row["kind"] for row in rows_of(hand.w)] == ["reading", "clearance"]


@pytest.fixture
def own_server() -> Iterator[Callable[[Path], str]]:
    """A server that can be stopped and started anew from another checkout, on the same address and data."""
    data, port = Path(tempfile.mkdtemp(prefix="gumboot-upgraded-")), _free_port()
    data.chmod(0o755)
    running: list[subprocess.Popen[bytes]] = []

    def stop() -> None:
        for each in running:
            each.terminate()
            each.wait(30)
        running.clear()

    def start(checkout: Path) -> str:
        stop()
        environment = {**os.environ, "GUMBOOT_DATA": str(data), "GUMBOOT_PORT": str(port), "PYTHONPATH": str(checkout / "src")}
        environment.pop("DATABASE_URL", None)
        running.append(
            subprocess.Popen(
                [sys.executable, "-m", "gumboot.cli", "demo"],
                env=environment,
                cwd=checkout,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.STDOUT,
            )
        )
        for _ in range(600):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/healthz", timeout=2).close()
                return f"http://127.0.0.1:{port}"
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not answer")

    yield start
    stop()
    shutil.rmtree(data, ignore_errors=True)


def killed(folder: Path) -> None:
    """The phone's battery is empty: every process of that browser ends at once."""
    mine = [int(p.name) for p in Path("/proc").iterdir() if p.name.isdigit() and str(folder).encode() in _words(p)]
    assert mine
    for process in mine:
        os.kill(process, signal.SIGKILL)


def _words(process: Path) -> bytes:
    try:
        return (process / "cmdline").read_bytes()
    except OSError:
        return b""


def test_killed_with_records_waiting_and_upgraded_in_between_nothing_is_lost_or_doubled(
    own_server: Callable[[Path], str], playwright: Any, tmp_path: Path, browser_type_launch_args: dict[str, Any]
) -> None:
    browser = tmp_path / "browser"

    def start(job: str, server: str) -> tuple[Any, Hand]:
        context = playwright.chromium.launch_persistent_context(browser, viewport={"width": 390, "height": 844}, **browser_type_launch_args)
        hand = Hand(Walker(context.pages[0] if context.pages else context.new_page(), server, job))
        return context, hand

    server = own_server(CHECKOUT)
    context, hand = start(HOUSE, server)
    hand.w.sign_in("ivo")
    hand.take_along()
    first = held_once(hand, Kind.INSIDE, Kind.FIND)
    before = hand.page.get_attribute("link[rel=stylesheet]", "href")
    killed(browser)
    # A later version of the app: everything that is shipped has another mark.
    later = tmp_path / "later"
    shutil.copytree(CHECKOUT / "src", later / "src", ignore=shutil.ignore_patterns("__pycache__"))
    for each in CHECKOUT.iterdir():
        if each.name not in ("src", ".git", ".venv", "tests"):
            (later / each.name).symlink_to(each)
    with (later / "src/gumboot/web/static/js/units.js").open("a") as shipped:
        shipped.write("// Another version.\n")
    assert own_server(later) == server
    context, hand = start(HOUSE, server)
    # Without signal still: the version that was kept opens the house, and more is done under it.
    context.set_offline(True)
    hand.open(first)
    hand.net("1 kept")
    hand.go("wire")
    hand.page.wait_for_selector("body[data-screen=act]")
    second = hand.page.get_attribute(".hand-act", "data-current")
    assert second not in (None, first)
    mode = hand.mode()
    if mode == "text":
        hand.page.fill("#text", "SN 9")
    hand.hold(mode)
    until(hand.page, 2)
    # Killed before its cookie was written down, the browser asks its own person to sign in; what waits leaves from any page then.
    context.set_offline(False)
    hand.w.sign_in("ivo")
    until(hand.page, 0, 30)
    assert sorted(row["act"] for row in rows_of(hand.w)) == sorted([first, str(second)])
    # The page that was kept fetches the new version, and the next one is of it; it opens the house without signal as well.
    hand.open("wire")
    for _ in range(10):
        hand.page.wait_for_timeout(1500)
        hand.page.reload()
        hand.page.wait_for_selector("body[data-screen=act]")
        if hand.page.get_attribute("link[rel=stylesheet]", "href") != before:
            break
    assert hand.page.get_attribute("link[rel=stylesheet]", "href") != before
    context.set_offline(True)
    hand.page.reload()
    hand.page.wait_for_selector("body[data-screen=act]")
    assert hand.w.trouble == []
    context.close()
