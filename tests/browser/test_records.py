"""Records on a phone: kept before they are sent, sent until they are acknowledged, under their doer's name."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Route

from tests.browser.conftest import Walker
from tests.browser.hand import until, waiting

Walk = Callable[..., Walker]
HOUSE = "k12-orchard-flat"


def kept(w: Walker) -> list[dict[str, Any]]:
    return waiting(w.page)


def rows(w: Walker, subject: str) -> int:
    text = w.page.request.get(f"{w.server}/jobs/{w.job}/download/records.csv", max_retries=3).text()
    return sum(subject in line for line in text.splitlines())


def wait_kept(w: Walker, count: int) -> None:
    until(w.page, count)


# A form of each station of Fit and Start, with what is typed.
FORMS: tuple[tuple[str, str, dict[str, str], str], ...] = (
    ("prove", "check/dead-grid", {"value": "0.3"}, ""),
    ("prove", "check/look-joints", {}, "button[value=yes]"),
    ("links", "ritual/off", {}, ""),
    ("settings", "setting/charge_a", {"value": "120 A"}, ""),
)


@pytest.mark.parametrize(("station", "subject", "typed", "button"), FORMS)
def test_every_form_keeps_what_could_not_be_sent_and_says_so(
    walk: Walk, station: str, subject: str, typed: dict[str, str], button: str
) -> None:
    w = walk("ivo", HOUSE)
    w.go(station)
    form = f"form[action$='records/{subject}']"
    before = rows(w, subject.split("/")[1])
    w.page.context.set_offline(True)
    for name, value in typed.items():
        w.page.fill(f"{form} [name={name}]", value)
    w.page.click(f"{form} {button or 'button'}")
    w.page.wait_for_function("() => [...document.querySelectorAll('.told')].some((e) => e.textContent.includes('kept on this phone'))")
    assert "1 kept" in w.page.inner_text("#outbox")
    w.page.click(f"{form} {button or 'button'}")  # a second tap is the same record
    w.page.wait_for_function("() => !document.querySelector('form[aria-busy]')")
    wait_kept(w, 1)
    assert kept(w)[0]["who"] == "ivo"
    w.page.context.set_offline(False)
    wait_kept(w, 0)
    assert rows(w, subject.split("/")[1]) == before + 1


def test_what_waits_is_sent_from_any_page_and_a_refusal_blocks_nothing(walk: Walk) -> None:
    w = walk("ivo", HOUSE)
    w.go("prove")
    base = f"/jobs/{w.job}/records"
    items = [
        {"id": "gone-00000001", "action": f"{base}/torque/no.such.end", "fields": {"tug": "held"}, "title": "Torque: no such end"},
        {"id": f"good-{time.time_ns()}", "action": f"{base}/measurement/look-glands", "fields": {"answer": "yes"}, "title": "Glands"},
    ]
    whole = [{**i, "who": "ivo", "at": int(time.time() * 1000) - 3_600_000, "state": "waiting", "reason": ""} for i in items]
    w.page.evaluate("(list) => localStorage.setItem('gumboot-kept', JSON.stringify(list))", whole)
    before = rows(w, "look-glands")
    w.page.goto(f"{w.server}/")
    wait_kept(w, 1)
    assert rows(w, "look-glands") == before + 1
    w.page.wait_for_function("() => document.getElementById('outbox').textContent.includes('1 needs you')")
    assert "no act of this plan any more" in w.page.inner_text("#outbox")
    w.page.click("#outbox button:text-is('Discard')")
    w.page.click("#outbox button:text-is('Discard for that reason')")
    w.page.wait_for_selector("text=in at least 10 characters")
    w.page.fill("#outbox input:visible", "the end was taken out of the plan")
    w.page.click("#outbox button:text-is('Discard for that reason')")
    wait_kept(w, 0)
    assert rows(w, "set-aside") == 1
    w.trouble.clear()  # the browser reports the refusal that was asked for


def test_a_record_leaves_under_its_doer_s_name_only(walk: Walk) -> None:
    w = walk("lena", HOUSE)
    w.go("prove")
    item = {
        "id": f"ivos-{time.time_ns()}", "action": f"/jobs/{w.job}/records/measurement/look-glands", "fields": {"answer": "yes"},
        "title": "Glands", "who": "ivo", "at": int(time.time() * 1000), "state": "waiting", "reason": "",
    }  # fmt: skip
    w.page.evaluate("(list) => localStorage.setItem('gumboot-kept', JSON.stringify(list))", [item])
    w.page.reload()
    w.page.wait_for_function("() => document.getElementById('outbox').textContent.includes('waits until ivo signs in here')")
    assert len(kept(w)) == 1


@pytest.mark.parametrize(("status", "words"), [(502, "the server answered 502"), (401, "your session is over")])
def test_what_another_answers_keeps_the_record(walk: Walk, status: int, words: str) -> None:
    w = walk("ivo", HOUSE)
    w.go("prove")

    def answer(route: Route) -> None:
        route.fulfill(status=status, body="bad gateway", content_type="text/plain")

    w.page.route("**/records/check/**", answer)
    w.page.click("form[action$='check/look-joints'] button[value=yes]")
    w.page.wait_for_function("() => [...document.querySelectorAll('.told')].some((e) => e.textContent.includes('kept on this phone'))")
    assert words in w.page.inner_text(".told")
    assert "bad gateway" not in w.page.inner_text("main")
    assert len(kept(w)) == 1
    w.page.unroute("**/records/check/**")
    w.page.reload()
    wait_kept(w, 0)
    w.trouble.clear()  # the browser reports the answer that was made here


def test_a_request_that_hangs_is_given_up_and_kept(walk: Walk) -> None:
    w = walk("ivo", HOUSE)
    w.go("prove")
    w.page.clock.install()
    w.page.route("**/records/check/**", lambda route: None)
    w.page.click("form[action$='check/look-joints'] button[value=yes]")
    w.page.clock.fast_forward(9000)
    w.page.wait_for_function("() => [...document.querySelectorAll('.told')].some((e) => e.textContent.includes('no answer within 8 s'))")
    assert len(kept(w)) == 1


def test_a_plan_field_that_could_not_be_sent_says_so(walk: Walk) -> None:
    w = walk("ivo", HOUSE)
    w.go("settings")
    w.page.context.set_offline(True)
    w.page.fill("#f-settings-reserve_pct", "33")
    w.page.press("#f-settings-reserve_pct", "Tab")
    w.page.wait_for_function("() => [...document.querySelectorAll('.told')].some((e) => e.textContent.includes('Not saved'))")
    assert w.page.input_value("#f-settings-reserve_pct") == "33"
    w.trouble.clear()


def test_kept_by_an_earlier_version_is_shown_and_sent_only_when_somebody_says_it_is_theirs(walk: Walk) -> None:
    w = walk("ivo", HOUSE)
    w.go("prove")
    old = [{"action": f"/jobs/{w.job}/records/measurement/look-glands", "fields": {"record_id": f"old-{time.time_ns()}", "answer": "yes"}}]
    w.page.evaluate("(list) => localStorage.setItem('gumboot-kept', JSON.stringify(list))", old)
    w.page.reload()
    w.page.wait_for_function("() => document.getElementById('outbox').textContent.includes('Kept by an earlier version')")
    w.page.click("#outbox >> text=Send again")
    wait_kept(w, 0)


def test_two_taps_at_once_are_one_record(walk: Walk) -> None:
    w = walk("ivo", HOUSE)
    w.go("prove")
    before = rows(w, "look-joints")
    w.page.evaluate(
        "() => { const b = document.querySelector(\"form[action$='check/look-joints'] button[value=yes]\"); b.click(); b.click(); }"
    )
    wait_kept(w, 0)
    w.page.wait_for_function("() => document.querySelector('#check-look-joints.good')")
    assert rows(w, "look-joints") == before + 1


def test_what_another_records_appears_without_a_reload_and_waits_while_somebody_types(walk: Walk) -> None:
    house = "k10-bungalow"
    ivo, lena = walk("ivo", house), walk("lena", house)
    with lena.page.expect_request(lambda r: r.url.endswith("/events")):
        lena.go("prove")
    row = lena.page.locator("#check-look-joints .ok")
    assert row.count() == 0
    ivo.go("prove")
    ivo.record("check/look-joints", answer="yes")
    row.wait_for()
    assert "Ivo Installer" in row.inner_text()
    field = lena.page.locator("#check-dead-grid-value")
    field.fill("0.3")
    ivo.record("check/look-open", answer="yes")
    line = lena.page.locator(".heard")
    line.wait_for(state="visible")
    assert "Ivo Installer recorded something here." in line.inner_text()
    assert field.input_value() == "0.3"
    line.get_by_role("button").click()
    lena.page.locator("#check-look-open .ok").wait_for()
    line.wait_for(state="hidden")


def test_a_mis_tap_is_taken_back_where_it_was_tapped(walk: Walk) -> None:
    w = walk("ivo", "k10-bungalow")
    w.go("prove")
    w.redraw(lambda: w.page.click("#check-look-glands button[value=no]"))
    back = w.page.locator("#check-look-glands").get_by_role("button", name="Take back")
    w.redraw(back.click)
    assert w.page.locator("#check-look-glands.bad").count() == 0
    w.page.locator("#check-look-glands").get_by_role("button", name="History, gate and working").click()
    w.page.locator("#working .history").wait_for()
    assert "taken back" in w.page.inner_text("#working")
    w.accessible()


def test_the_page_of_an_act_opens_figures_and_says_what_became_of_a_slip(walk: Walk) -> None:
    w = walk("ivo", "k10-bungalow")
    w.go("prove")
    w.redraw(lambda: w.page.click("#check-look-joints button[value=no]"))
    w.go("acts/check/look-joints")
    w.page.get_by_role("button", name="Take back").click()
    w.page.wait_for_selector(".history .gone >> text=taken back")
    assert not w.page.get_by_role("button", name="Take back").count()
    w.go("acts/check/voc-PV1")
    figure = w.page.locator("#working .fig >> nth=0")
    key = figure.get_attribute("data-figure")
    figure.click()
    w.page.wait_for_selector(f"[data-current-figure='{key}']")
    w.accessible()


def test_without_signal_a_phone_says_what_is_held_as_far_as_it_knows(walk: Walk) -> None:
    w = walk("ivo", "k03-tollhouse")
    w.go("links")
    off, program = "form[action$='ritual/off']", "form[action$='ritual/program.bat-1']"
    # Typed into, so that what comes in meanwhile is not drawn over it.
    w.page.click("#link-off .could-not summary")
    w.page.fill("#link-off-not-reason", "no key to the store")
    w.record("ritual/off")
    other = w.page.context.new_page()
    with other.expect_response(lambda r: r.url.endswith("/api/jobs/k03-tollhouse/acts")):
        other.goto(f"{w.server}/jobs/{w.job}/links")
    w.page.context.set_offline(True)
    w.page.click(f"{off} >> text=Record it")
    wait_kept(w, 1)
    other.click(f"{program} button")
    other.wait_for_function("() => document.body.innerText.includes('No signal, and nothing was kept here')")
    assert "it waits for: Every battery breaker off, every BMS off" in other.inner_text(f"{program} .told")
    wait_kept(w, 1)
    other.click(f"{program} button")
    other.wait_for_function("() => document.body.innerText.includes('kept on this phone, not sent: no signal')")
    wait_kept(w, 2)
    w.trouble.clear()
