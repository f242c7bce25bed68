"""The whole job in a browser: at the bench and in the hand."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime

import pytest

from gumboot.core.acts import Kind
from gumboot.core.standing import STATION_IDS, stand
from gumboot.web.act_words import act_mark
from tests.browser.conftest import Walker
from tests.browser.test_plan_leg import copied
from tests.crew import typed_of
from tests.helpers import plan_of

Walk = Callable[..., Walker]
LUG = "inverter.battery.pos.bat-main"


# What a house in order shows that one full of mistakes does not: recorded work, steps to be taken, a signature.
IN_ORDER = ("wire", "prove", "power-up", "hand-over")


@pytest.mark.parametrize("house", ["d1-saltmarsh", "d1-saltmarsh-mistakes"])
def test_every_station_at_the_bench(walk: Walk, house: str) -> None:
    w = walk("petra", house)
    for station in STATION_IDS:
        w.go(station)
        assert w.page.locator("h1").inner_text()
        assert w.page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth"), f"{station} is wider than the screen"
        if house != "d1-saltmarsh" or station in IN_ORDER:
            w.accessible()


def test_dark_theme_keeps_its_contrast(walk: Walk) -> None:
    w = walk("petra", "d1-saltmarsh-mistakes")
    for station in ("loads", "strings", "bank", "circuits", "wall", "links", "settings", "power-up"):
        w.go(station)
        if w.page.evaluate("() => document.documentElement.dataset.theme") != "dark":
            w.page.keyboard.press("d")
        w.accessible("color-contrast")


def test_a_decision_moves_everything_without_a_page_load(walk: Walk) -> None:
    w = walk("petra")
    w.go("strings")
    w.page.evaluate("() => { window.sameLoad = true }")
    w.page.fill("#f-strings-S1-modules", "13")
    w.redraw(lambda: w.page.press("#f-strings-S1-modules", "Tab"))
    assert "538.4 V" in w.page.inner_text("main")
    assert "PV-COLD-VOC" in w.page.inner_text("aside")
    assert w.page.locator(".trail a.here .mark-held").count() == 1
    assert w.page.evaluate("() => window.sameLoad")
    assert w.page.evaluate("() => document.activeElement !== document.body"), "the keyboard was thrown out"
    w.page.evaluate("() => document.activeElement.blur()")
    w.redraw(lambda: w.page.keyboard.press("z"))
    assert "PV-COLD-VOC" not in w.page.inner_text("aside")
    assert w.page.evaluate("() => window.sameLoad")


def test_a_refused_value_says_why_and_stays(walk: Walk) -> None:
    w = walk("petra")
    w.go("bank")
    w.page.fill("#f-runs-bat-main-length_m", "three")
    w.redraw(lambda: w.page.press("#f-runs-bat-main-length_m", "Enter"))
    assert "is not a number" in w.page.inner_text(".problem")
    assert w.page.input_value("#f-runs-bat-main-length_m") == "three"


def test_a_blower_on_leg_one(walk: Walk) -> None:
    w = walk("petra")
    w.go("loads")
    assert "1465 W running" in w.page.inner_text("main")
    w.redraw(lambda: w.page.select_option("#f-loads-blower-leg", "L1"))
    assert "2615 W running" in w.page.inner_text("main")
    w.redraw(lambda: w.page.select_option("#f-loads-blower-leg", "L2"))


def test_any_figure_opens_its_working_by_click_and_by_key(walk: Walk) -> None:
    w = walk("petra")
    w.go("circuits")
    w.page.click("g[data-figure='circuits.grid.installed'] text")
    w.page.wait_for_selector("[data-current-figure='circuits.grid.installed']")
    assert "6 AWG" in w.page.inner_text("#working .big")
    w.page.focus("g[data-figure='circuits.bat-main.drop_pct']")
    w.page.keyboard.press("Enter")
    w.page.wait_for_selector("[data-current-figure='circuits.bat-main.drop_pct']")
    assert "210.19" in w.page.inner_text("#working")


def test_keys_lead_through_the_trail(walk: Walk) -> None:
    w = walk("petra")
    w.go("survey")
    w.page.keyboard.press("]")
    w.page.wait_for_url("**/loads")
    w.page.keyboard.press("[")
    w.page.wait_for_url("**/survey")
    w.page.keyboard.press("g")
    w.page.keyboard.press("6")
    w.page.wait_for_url("**/wall")
    w.page.keyboard.press("?")
    assert w.page.locator("dialog[open]").count() == 1
    w.page.keyboard.press("Escape")


def test_nudging_a_box_with_the_arrows(walk: Walk) -> None:
    w = walk("petra")
    w.go("wall")
    w.page.focus("#f-walls-wall-placements-sub-board-x_mm")
    for _ in range(2):
        w.redraw(lambda: w.page.keyboard.press("Shift+ArrowUp"))
    assert "WALL-STUD-MISS" in w.page.inner_text("aside")
    assert w.page.evaluate("() => document.activeElement.id") == "f-walls-wall-placements-sub-board-x_mm"
    for _ in range(2):
        w.redraw(lambda: w.page.keyboard.press("Shift+ArrowDown"))
    assert "WALL-STUD-MISS" not in w.page.inner_text("aside")


def test_two_people_on_one_field(walk: Walk) -> None:
    petra, ivo = walk("petra"), walk("ivo")
    petra.go("bank")
    ivo.go("bank")
    ivo.page.fill("#f-settings-reserve_pct", "70")
    ivo.redraw(lambda: ivo.page.press("#f-settings-reserve_pct", "Enter"))
    petra.page.fill("#f-settings-reserve_pct", "60")
    petra.redraw(lambda: petra.page.press("#f-settings-reserve_pct", "Enter"))
    shown = petra.page.inner_text(".conflict")
    assert "70" in shown
    assert "60" in shown
    assert "Ivo" in shown
    petra.redraw(lambda: petra.page.click(".conflict button"))
    assert petra.page.input_value("#f-settings-reserve_pct") == "60"


def test_torque_card_on_a_laptop(walk: Walk) -> None:
    w = walk("ivo")
    w.go(f"wire/{LUG}")
    # What is typed first has the keyboard.
    assert w.page.evaluate("() => document.activeElement.id") == "reached"
    assert w.page.inner_text("section[aria-label='Torque to reach'] p >> nth=0") == "97"
    small = w.page.evaluate(
        "() => [...document.querySelectorAll('.thumb .act, .cell input:not([type=radio]), .cell select, .tug label:has(input)')].filter(e => e.getBoundingClientRect().height < 47.5).map(e => e.outerHTML.slice(0, 80))"
    )
    assert small == []
    w.accessible()
    w.page.fill("#reached", "11")
    assert "too low; did you read N m?" in w.page.inner_text(".hint")
    w.page.fill("#reached", "97")
    assert w.page.inner_text(".hint") == "in band"
    w.page.select_option("#tool", "TW-2")
    w.page.check("input[value=held]")
    w.page.click(".thumb button")
    w.page.wait_for_url("**/inverter.battery.neg.bat-main")
    w.go(f"wire/{LUG}")
    assert "Recorded: 97 lbf in" in w.page.inner_text(".verdict")


def test_without_signal_the_record_is_kept_and_sent_later(walk: Walk) -> None:
    # A house of its own: what others did to the shared one may hold its ends.
    w = walk("ivo", copied(walk, "Kept and sent").job)
    w.go("wire/inverter.earth.pv1.pv-pv1")
    w.page.context.set_offline(True)
    w.page.fill("#reached", "23")
    w.page.select_option("#tool", "TD-1")
    w.page.check("input[value=held]")
    w.page.click(".thumb button")
    w.page.wait_for_function("() => document.getElementById('outbox').textContent.includes('1 kept')")
    w.page.context.set_offline(False)
    # At the latest with the try after next, 20 s apart.
    w.page.wait_for_function("() => !document.getElementById('outbox').checkVisibility()", timeout=60000)
    w.go("wire/inverter.earth.pv1.pv-pv1")
    assert "Recorded: 23 lbf in" in w.page.inner_text(".verdict")


def test_rehearsal_refuses_the_accident(walk: Walk) -> None:
    w = walk("abel", "d1-saltmarsh-mistakes")
    w.go("power-up")
    for title in ("bat-1 breaker and power", "Battery switch-fuse"):
        w.page.click(f".rehearsal p >> text={title}")
    assert "pre-charge first" in w.page.inner_text(".rehearsal ol li.bg-oxide-wash")
    for title in ("Pre-charge button", "Battery switch-fuse", "Inverter on", "Backed-up board main", "Bypass from the main board"):
        w.page.click(f".rehearsal p >> text={title}")
    assert "destroys the inverter" in w.page.inner_text(".rehearsal ol li:last-child")
    assert w.page.locator("g.live[data-node='backed-up-board'][data-source='inverter']").count() == 2


def test_from_dead_test_to_island(walk: Walk) -> None:
    w = walk("ivo")
    w.go("prove")
    for dead in (c for c in plan_of().checks if c.station == "wire"):
        w.record(f"check/{dead.id}", value="0")
    # Landed first: an earth that is landed anew is proved anew.
    for t in plan_of().terminations:
        if t.circuit.startswith(("bat", "backup")):
            reached = {"reached": f"{t.torque.value:.3f}", "unit": "N m", "tool": "TD-1"} if t.torque else {"pressed": "yes"}
            w.record(f"torque/{t.id}", tug="held", **reached)
    standing = stand(plan_of(), [], datetime.now(UTC))
    for act in standing.acts.values():
        if act.station == "links" or act.kind is Kind.JOINT:
            w.record(act.id.replace(":", "/", 1), **typed_of(plan_of(), standing, act))
    for check, value in (
        ("dead-grid", "0"),
        ("dead-dc", "0.4"),
        ("earth-pv-pv1", "0.2"),
        ("earth-pv-pv2", "0.2"),
        ("earth-bat-main", "0.1"),
        ("earth-grid", "0.3"),
        ("earth-backup", "0.2"),
        ("pack-bat-1", "52.1"),
        ("pack-bat-2", "52.2"),
        ("pack-bat-3", "52.4"),
    ):
        w.page.fill(f"#check-{check}-value", value)
        w.redraw(lambda c=check: w.page.press(f"#check-{c}-value", "Enter"))  # type: ignore[misc]
    w.redraw(lambda: w.page.click("#check-look-open button[value=yes]"))
    assert "0.30 V, from the readings above" in w.page.inner_text("#check-pack-spread")
    w.go("power-up")
    for step in ("start-dead", "on-bat-1", "on-bat-2", "on-bat-3", "precharge", "battery-switch", "inverter-on", "soc-agrees"):
        w.redraw(lambda s=step: w.page.click(f"#step-{s} button.act"))  # type: ignore[misc]
    assert "record the reading" in w.page.inner_text("#step-island-volts")
    w.page.fill("#check-island-volts-value", "241")
    w.redraw(lambda: w.page.press("#check-island-volts-value", "Enter"))
    for step in ("island-volts", "sub-main"):
        w.redraw(lambda s=step: w.page.click(f"#step-{s} > .reading button.act"))  # type: ignore[misc]
    assert w.page.locator("g.live[data-node='backed-up-board'][data-source='inverter']").count() >= 1


def test_links_and_settings_are_recorded(walk: Walk) -> None:
    w = walk("ivo", "k11-millhouse")
    plan = plan_of(name="k11-millhouse")
    standing = stand(plan, [], datetime.now(UTC))
    w.go("links")
    told = [act for act in standing.acts.of("links") if act.kind in (Kind.RITUAL, Kind.READ_BACK)]
    for act in told:
        # One task after another: the next is offered when the one before is done, in a part that opens by itself.
        offered = w.page.locator("ol.checks .check:not(.good) .reading > form")
        assert offered.count() == 1
        for name, value in typed_of(plan, standing, act).items():
            w.page.fill(f"[id='{act_mark(act)}-{name}']", value)
        w.redraw(lambda: w.page.click("ol.checks .check:not(.good) .reading > form button"))
        w.page.wait_for_selector(f"[id='{act_mark(act)}'].good", state="attached")
    assert w.page.locator("ol.checks .check.good").count() == len(told) == 11
    assert "Bat-2 5 of 5" in " ".join(w.page.inner_text("main").split())
    w.go("sensing")
    assert "nothing flows through the cores" in w.page.inner_text("main")
    w.go("settings")
    w.page.fill("#setting-charge_a-value", "1 A")
    w.redraw(lambda: w.page.press("#setting-charge_a-value", "Enter"))
    w.page.wait_for_selector("#setting-charge_a-reason")
    assert "differs from the sheet" in w.page.inner_text("#setting-charge_a")
    w.page.fill("#setting-charge_a-reason", "set low for the first week")
    w.redraw(lambda: w.page.press("#setting-charge_a-reason", "Enter"))
    w.page.wait_for_function("() => document.getElementById('setting-charge_a').innerText.includes('a licence holder agrees to it')")


def test_hand_over_prints_a_pack_and_refuses_an_early_signature(walk: Walk) -> None:
    w = walk("lena")
    w.go("hand-over")
    assert "It is signed by a licence holder when nothing is missing." in w.page.inner_text("main")
    assert w.page.locator("#sign-off-number").count() == 0
    with w.page.expect_download() as download:
        w.page.click("text=Print the pack")
    assert download.value.path().read_bytes().startswith(b"%PDF")
