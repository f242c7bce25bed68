"""The plan in the hand: a question is answered with the pad, a choice is held, and what cannot be taken says why and loses nothing."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from tests.browser.conftest import Walker
from tests.browser.hand import Hand
from tests.browser.test_phone import phone
from tests.browser.test_plan_leg import copied

Walk = Callable[..., Walker]
COLD = "site.record_low_c"


def decided(w: Walker, path: str, value: Any) -> int:
    """A field decided elsewhere; the revision that it made."""
    csrf = w.page.request.get(f"{w.server}/api/me", max_retries=3).json()["csrf"]
    base = w.page.request.get(f"{w.server}/api/jobs/{w.job}/revision", max_retries=3).json()["revision"]
    answer = w.page.request.patch(
        f"{w.server}/api/jobs/{w.job}", data={"path": path, "value": value, "base": base}, headers={"X-CSRF-Token": csrf}
    )
    assert answer.ok, answer.text()
    return int(answer.json()["revision"])


def value_of(hand: Hand, section: str, field: str) -> Any:
    return hand.page.request.get(f"{hand.w.server}/jobs/{hand.w.job}/document.json", max_retries=3).json()[section][field]


def typed(hand: Hand, digits: str) -> None:
    for key in ("clear", *digits):
        hand.page.locator(".hand-digit", has_text=key).first.click()


def asked(hand: Hand, sheet: str, field: str) -> None:
    """A field of a sheet, opened."""
    hand.open(f"sheet:{sheet}")
    hand.page.click(f"[data-field='{field}']")


def test_a_question_is_asked_at_once_and_its_answer_moves_the_plan(walk: Walk) -> None:
    job = copied(walk, "Cold house").job
    decided(walk("petra", job), COLD, None)
    hand = phone(walk, "petra", job)
    # Its station opens at what is asked, with the pad.
    hand.open("strings")
    hand.page.wait_for_selector("body[data-screen=sheet]")
    assert "record low" in hand.page.inner_text(".hand-act").lower()
    hand.open(f"sheet:survey:{COLD}")
    hand.page.wait_for_selector("body[data-mode=pad]")
    assert hand.page.inner_text(".hand-field-unit") == "°F"
    typed(hand, "7")
    hand.hold("pad")
    hand.page.wait_for_function("() => document.body.dataset.mode === 'main' || !location.hash.includes('record_low_c')")
    assert abs(value_of(hand, "site", "record_low_c") + 13.89) < 0.01
    # What waited for it is worked out, and read on its sheet.
    hand.open("sheet:strings:S1")
    hand.page.wait_for_selector(".hand-facts >> text=/45[0-9]/")


def test_what_is_refused_stays_typed_with_its_reason(walk: Walk) -> None:
    hand = phone(walk, "petra", copied(walk, "Odd house").job)
    asked(hand, "loads:dark", "settings.reserve_pct")
    hand.w.accessible()
    typed(hand, "170")
    hand.hold("pad")
    hand.page.wait_for_selector(".hand-answers .hand-hint.bad:visible")
    assert "100" in hand.page.inner_text(".hand-answers .hand-hint.bad:visible")
    assert hand.page.inner_text(".hand-field output") == "170"
    hand.signal(False)
    typed(hand, "40")
    hand.hold("pad")
    hand.page.wait_for_selector("text=what you typed stays here")
    assert hand.page.inner_text(".hand-field output") == "40"
    assert value_of(hand, "settings", "reserve_pct") == 65


def test_two_who_decide_the_same_field_hear_of_each_other(walk: Walk) -> None:
    w = copied(walk, "Two minds")
    hand = phone(walk, "ivo", w.job)
    asked(hand, "loads:dark", "settings.reserve_pct")
    typed(hand, "40")
    hand.page.context.route("**/events", lambda route: route.abort())
    decided(w, "settings.reserve_pct", 50)
    hand.hold("pad")
    hand.page.wait_for_selector("text=changed the same field meanwhile")
    assert value_of(hand, "settings", "reserve_pct") == 50
    hand.told()
    # Kept again after what it is now was heard.
    hand.page.wait_for_selector("[data-field='settings.reserve_pct'] >> text=/50.%/")
    hand.hold("pad")
    hand.page.wait_for_selector("[data-field='settings.reserve_pct'] >> text=/40.%/")
    assert value_of(hand, "settings", "reserve_pct") == 40


def test_a_choice_is_held_and_an_apprentice_reads(walk: Walk) -> None:
    w = copied(walk, "Choices")
    hand = phone(walk, "petra", w.job)
    asked(hand, "loads:kettle", "loads.kettle.side")
    assert hand.page.locator("[data-hold=choose]").is_disabled()
    hand.w.accessible()
    hand.page.locator(".hand-options").get_by_text("backed", exact=True).click()
    hand.hold("choose")
    hand.page.wait_for_selector("[data-field='loads.kettle.side'] >> text=backed")
    loads = hand.page.request.get(f"{w.server}/jobs/{w.job}/document.json", max_retries=3).json()["loads"]
    assert next(load["side"] for load in loads if load["id"] == "kettle") == "backed"
    # A label is letters, and what it may not be empty of cannot be kept empty.
    asked(hand, "strings:S1", "strings.S1.label_top")
    hand.page.fill("#text", "S1 roof")
    hand.page.wait_for_selector("[data-hold=text] >> text=Keep it")
    hand.hold("text")
    hand.page.wait_for_selector("[data-field='strings.S1.label_top'] >> text=S1 roof")
    reads = phone(walk, "abel", w.job)
    reads.open("sheet:loads:kettle")
    reads.page.wait_for_selector("text=You read the plan as")
    assert reads.page.locator("[data-field='loads.kettle.side']").is_disabled()


def test_from_a_sheet_to_the_list_to_the_trail_and_back_by_the_phone_s_own_key(walk: Walk) -> None:
    hand = phone(walk, "ivo", "d1-saltmarsh")
    hand.open("sheet:wall:inverter")
    hand.page.get_by_role("button", name="All of Wall").click()
    hand.page.wait_for_selector("body[data-screen=list]")
    hand.page.get_by_role("button", name="Stations", exact=True).click()
    hand.page.wait_for_selector("body[data-screen=trail]")
    hand.page.go_back()
    hand.page.wait_for_selector("body[data-screen=list]")
    hand.page.go_back()
    hand.page.wait_for_selector("body[data-screen=sheet]")
    # The same from an act: its station's list, not the act again.
    hand.open("wire")
    hand.page.wait_for_selector("body[data-screen=act]")
    hand.page.locator(".hand-where").click()
    hand.page.wait_for_selector("body[data-screen=list]")


def test_an_address_that_was_typed_wrong_leads_to_what_is_next(walk: Walk) -> None:
    hand = phone(walk, "ivo", "d1-saltmarsh")
    hand.page.goto(f"{hand.w.server}/jobs/d1-saltmarsh/hand#%E0%A4%A")
    hand.page.wait_for_selector("body[data-screen=act]")
    hand.open("sheet:wall:nothing")
    hand.page.wait_for_selector("body[data-screen=list]")
    hand.open("sheet:nowhere:nothing")
    hand.page.wait_for_selector("body[data-screen=trail]")


def test_of_an_act_that_is_held_the_card_is_read_and_its_keys_come_when_it_is_free(walk: Walk) -> None:
    hand = phone(walk, "ivo", "d1-saltmarsh")
    hand.open("check:soc-agree")
    hand.page.wait_for_selector(".hand-held.stop")
    assert hand.page.evaluate("() => document.body.dataset.mode") == "main"
    assert hand.page.locator(".hand-pad").is_hidden()
    hand.page.get_by_role("button", name="It is done already").click()
    hand.page.wait_for_selector("body[data-mode=pad]")
