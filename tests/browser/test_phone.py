"""A day's work on phones: taken along, without signal, over restarts, by two people; nothing lost, doubled, mis-signed or refused in silence."""

from __future__ import annotations

import json
import random
from collections import Counter
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

import pytest

from gumboot.catalogue import shelf
from gumboot.core.acts import Act, Kind
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.standing import Standing, stand
from tests.browser.conftest import Walker
from tests.browser.hand import Hand, stored, until, waiting
from tests.browser.test_plan_leg import copied

Walk = Callable[..., Walker]
HOUSE = "k10-bungalow"
# What is not done on the day: the day after, the year after, the way back, pictures and signatures.
LATER = {Kind.RECHECK, Kind.OFF, Kind.PHOTO, Kind.PLAN, Kind.CLEARANCE, Kind.SIGN_OFF}


def phone(walk: Walk, name: str = "ivo", job: str = HOUSE, width: int = 390, height: int = 844) -> Hand:
    hand = Hand(walk(name, job, width=width, height=height))
    hand.name = name
    return hand


def rows_of(w: Walker) -> list[dict[str, Any]]:
    """The records of the house in the database."""
    text = w.page.request.get(f"{w.server}/jobs/{w.job}/download/records.jsonl", max_retries=3).text()
    return [json.loads(line) for line in text.splitlines()]


def planned(w: Walker) -> tuple[Plan, Standing]:
    """The plan of a house as it stands there, and nothing recorded."""
    document = w.page.request.get(f"{w.server}/jobs/{w.job}/document.json", max_retries=3).text()
    plan = derive(Job.model_validate_json(document), shelf())
    return plan, stand(plan, [], datetime.now(UTC), 1)


class Crew:
    """Two phones on one house: each does its boxes, and what is open to it; they meet where there is signal."""

    def __init__(self, hands: list[Hand], seed: int) -> None:
        self.hands, self.chance = hands, random.Random(seed)
        self.plan, self.standing = planned(hands[0].w)
        wanted = [a for a in self.standing.acts.values() if not a.is_derived and not a.is_optional and a.kind not in LATER]
        self.left = {act.id: act for act in wanted if act.id != "yearly:house"}
        self.wanted = len(self.left)
        # Both know that everything is landed: who measures while the other lands an end measures in vain.
        self.landed = False

    def mine(self, hand: Hand) -> list[Act]:
        """What is one's own: boxes by turns, everything else by stations."""
        places = list(dict.fromkeys(a.thing for a in self.standing.acts.values() if a.station == "wire"))
        order = self.hands.index(hand)

        def turn(act: Act) -> int:
            if act.station == "wire":
                return places.index(act.thing) % len(self.hands)
            return {"settings": 1, "live-checks": 1}.get(act.station, 0) % len(self.hands)

        ready = [act for act in self.left.values() if self.landed or act.station not in ("prove", "power-up")]
        return [act for act in ready if turn(act) == order]

    def work(self, hand: Hand, most: int) -> int:
        """As much of one's own as is open, and no more than so much of it."""
        done = 0
        for act in self.mine(hand):
            if done == most:
                break
            mode = hand.go(act.id)
            if not mode:
                continue
            hand.answer(self.plan, self.standing, act, mode)
            del self.left[act.id]
            done += 1
        return done

    def day(self) -> None:
        """Until everything is done: signal comes and goes at places that nobody chose."""
        idle = 0
        while self.left:
            did = 0
            for hand in self.hands:
                hand.signal(self.chance.random() < 0.25)
                did += self.work(hand, self.chance.randint(4, 30))
            idle = 0 if did else idle + 1
            assert idle < 3, f"nothing is open to anybody: {list(self.left)[:6]}"
            if not did or self.chance.random() < 0.3:
                self.meet()
        self.meet()

    def again(self) -> None:
        """What was seen by one and is true no more, since the other landed an end of that run, is seen again."""
        w = self.hands[0].w
        served = w.page.request.get(f"{w.server}/api/jobs/{w.job}/acts", max_retries=3).json()["acts"]
        for act in served:
            if act["state"] == "lapsed" and act["id"] not in self.left:
                self.left[act["id"]] = self.standing.acts[act["id"]]

    def meet(self) -> None:
        """Both where there is signal: what each did leaves, what the other did comes."""
        for hand in self.hands:
            hand.hear()
        for hand in [*self.hands, *self.hands]:
            hand.sync()
        self.again()
        self.landed = not any(act.station == "wire" for act in self.left.values())
        for hand in self.hands:
            hand.signal(False)


def counted(crew: Crew) -> None:
    """Every record stands in the database once, by its doer, and nothing else does."""
    for hand in crew.hands:
        hand.signal(True)
    rows = rows_of(crew.hands[0].w)
    did = Counter(entry for hand in crew.hands for entry in hand.did)
    assert Counter((row["doer"], row["act"]) for row in rows) == did
    assert len(rows) == len({row["id"] for row in rows})
    devices = {row["doer"]: row["device"] for row in rows}
    for row in rows:
        assert row["device"] == devices[row["doer"]]
        assert row["device"].startswith("phone ")
        assert row["defects"] == [], row
        assert row["clock_ahead_s"] is not None
    for who in devices:
        # In the order in which each did them, by the time of their own phone.
        done = sorted(rows, key=lambda row: datetime.fromisoformat(row["done_at"]))
        mine = [row["act"] for row in done if row["doer"] == who]
        wanted = [act for name, act in next(h.did for h in crew.hands if h.name == who) if name == who]
        wrong = [n for n, pair in enumerate(zip(mine, wanted, strict=True)) if pair[0] != pair[1]][:2]
        told = [
            (row["act"], row["done_at"], row["received_at"], row["clock_ahead_s"]) for row in done if row["act"] in [mine[n] for n in wrong]
        ]
        assert not wrong, told


def signed(crew: Crew) -> None:
    """Signed without signal: provisional until the server has taken it, and taken only for what the signer saw and recorded."""
    ivo, lena = crew.hands
    for hand in (ivo, lena):
        hand.sync()
    provisional = bool(lena.page.request.get(f"{lena.w.server}/api/jobs/{lena.w.job}/acts", max_retries=3).json()["missing"])
    act = crew.standing.acts["sign-off:provisional" if provisional else "sign-off:job"]
    again = next(a for a in crew.standing.acts.values() if a.kind is Kind.SERIAL)

    def sign() -> None:
        lena.signal(False)
        mode = ""
        for _ in range(40):
            # What came with the signal is still being put in order.
            mode = mode or lena.go(act.id)
            lena.page.wait_for_timeout(0 if mode else 100)
        assert mode == "text", lena.page.inner_text("body")
        lena.answer(crew.plan, crew.standing, act, mode)

    sign()
    # Another does something meanwhile: what was signed is not what stands.
    ivo.w.record(again.id.replace(":", "/"), text="SN 2")
    lena.signal(True)
    lena.page.evaluate("() => dispatchEvent(new Event('online'))")
    lena.page.wait_for_function("() => document.getElementById('net').innerText.includes('needs you')")
    lena.go("outbox")
    lena.page.wait_for_selector("text=Something was recorded or changed since this page was made")
    assert not [row for row in rows_of(lena.w) if row["kind"] == "sign-off"]
    lena.page.get_by_role("button", name="Discard, with a reason").click()
    lena.page.locator(".hand-needs input:visible").fill("looked at it again, signing anew")
    lena.page.get_by_role("button", name="Discard it").click()
    lena.page.wait_for_selector(".hand-needs", state="detached")
    until(lena.page, 0)
    # What she sets aside is a record too: she signs for what stands now, and one more of her own that leaves before the signature.
    lena.sync()
    lena.signal(False)
    sign()
    lena.sync()
    found = [row for row in rows_of(lena.w) if row["kind"] == "sign-off"]
    assert [(row["doer"], row["licence"]) for row in found] == [("lena", "L-7")]
    assert lena.page.request.get(f"{lena.w.server}/api/jobs/{lena.w.job}/acts", max_retries=3).json()["signed"]["by"] == "Lena Licence"
    # Signed off, and nothing of it waits: the house leaves the phone.
    lena.go("trail")
    lena.page.wait_for_selector("text=Not taken along", timeout=15000)
    assert stored(lena.page, "bags") == []


@pytest.mark.parametrize(("house", "least"), [("d1-saltmarsh", 150), ("d2-schoolhouse", 110), ("k07-ridge", 90)])
def test_a_house_is_fitted_and_started_from_two_phones_without_signal(walk: Walk, house: str, least: int) -> None:
    petra = copied(walk, f"Phones {house}", like=house)
    hands = [phone(walk, "ivo", petra.job), phone(walk, "lena", petra.job)]
    for hand in hands:
        hand.take_along()
        hand.signal(False)
    crew = Crew(hands, seed=7)
    crew.day()
    assert crew.wanted >= least
    counted(crew)
    signed(crew)


def taken_along(walk: Walk, job: str = HOUSE, name: str = "ivo") -> Hand:
    hand = phone(walk, name, job)
    hand.take_along()
    return hand


def first_open(hand: Hand, *kinds: Kind) -> Act:
    """The first act of a kind that may be done now."""
    _, standing = planned(hand.w)
    served = hand.page.request.get(f"{hand.w.server}/api/jobs/{hand.w.job}/acts", max_retries=3).json()["acts"]
    free = {a["id"] for a in served if a["state"] == "open" and not a["held_by"] and not a["hours_after"]}
    return next(a for a in standing.acts.values() if a.id in free and a.kind in kinds)


def test_a_note_for_the_next_crew_is_kept_without_signal_and_says_nothing_of_its_act(walk: Walk) -> None:
    hand = taken_along(walk, copied(walk, "Notes", like=HOUSE).job)
    hand.signal(False)
    # At an act that waits for others a note may be written all the same.
    hand.go("marked:inverter")
    hand.page.click("text=A note for the next crew")
    hand.page.fill("#why", "Mind the pipe behind the second stud")
    hand.hold("why")
    until(hand.page, 1)
    hand.told()
    hand.sync()
    (row,) = rows_of(hand.w)
    assert (row["kind"], row["act"], row["text"]) == ("card-note", "marked:inverter", "Mind the pipe behind the second stud")
    served = hand.page.request.get(f"{hand.w.server}/api/jobs/{hand.w.job}/acts", max_retries=3).json()["acts"]
    assert next(act["state"] for act in served if act["id"] == "marked:inverter") == "open"
    # What is about no card has no place for a note.
    hand.go("find:wall")
    hand.page.locator("text=A note for the next crew").wait_for(state="hidden")


def test_a_load_is_ticked_line_by_line_without_signal_and_stays_ticked_while_one_looks_elsewhere(walk: Walk) -> None:
    hand = taken_along(walk, copied(walk, "Van", like=HOUSE).job)
    hand.signal(False)
    hand.go("pack:cable")
    lines = hand.page.locator(".hand-tick")
    count = lines.count()
    assert count > 4
    for nth in (0, 2):
        lines.nth(nth).click()
    hand.go("find:wall")
    hand.go("pack:cable")
    assert [lines.nth(n).get_attribute("aria-checked") for n in range(4)] == ["true", "false", "true", "false"]
    hand.hold("main")
    until(hand.page, 1)
    hand.told()
    hand.sync()
    (row,) = rows_of(hand.w)
    assert (row["kind"], row["act"], len(row["packed"])) == ("packed", "pack:cable", 2)
    served = hand.page.request.get(f"{hand.w.server}/api/jobs/{hand.w.job}/acts", max_retries=3).json()["acts"]
    assert next(act["why"] for act in served if act["id"] == "pack:cable").endswith(f"and {count - 2 - 3} more")


def press(hand: Hand, name: str, ms: int) -> None:
    """A thumb on what is held, for so long."""
    box = hand.page.locator(f"[data-hold={name}]:visible").bounding_box()
    assert box is not None
    hand.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    hand.page.mouse.down()
    hand.page.wait_for_timeout(ms)
    hand.page.mouse.up()


def test_what_is_held_is_recorded_and_a_pocket_records_nothing(walk: Walk) -> None:
    hand = taken_along(walk)
    act = first_open(hand, Kind.INSIDE, Kind.FIND, Kind.LOOK)
    hand.signal(False)
    hand.go(act.id)
    press(hand, "main", 150)
    hand.page.wait_for_timeout(200)
    assert waiting(hand.page) == []
    assert hand.act == act.id
    press(hand, "main", 900)
    until(hand.page, 1)
    # Five seconds in which it is as if it had not been tapped.
    hand.page.get_by_role("button", name="Take back").first.click()
    until(hand.page, 0)
    hand.page.wait_for_function("(id) => decodeURIComponent(location.hash.slice(1)) === id", arg=act.id)
    assert [row for row in rows_of_online(hand) if row["act"] == act.id] == []


def rows_of_online(hand: Hand) -> list[dict[str, Any]]:
    hand.signal(True)
    return rows_of(hand.w)


def test_a_usual_act_takes_one_tap_once_the_tool_is_named(walk: Walk) -> None:
    w = copied(walk, "Taps", like=HOUSE)
    hand = taken_along(walk, w.job)
    plan, _ = planned(hand.w)
    lugs = [t for t in plan.terminations if t.torque is not None][:3]
    hand.signal(False)
    hand.page.evaluate("() => { window.taps = 0; addEventListener('pointerdown', () => { window.taps += 1; }, true); }")
    counts: list[int] = []
    for lug in lugs:
        hand.go(f"torque:{lug.id}")
        if hand.page.locator("text=It is done already").is_visible():
            hand.page.evaluate(
                "() => [...document.querySelectorAll('.hand-link')].find((one) => one.textContent === 'It is done already').click()"
            )
        before = hand.page.evaluate("() => window.taps")
        press(hand, "main", 900)
        if hand.page.evaluate("() => document.body.dataset.mode") == "tool":
            hand.page.locator(".hand-could button:visible >> nth=0").click()
        # What is large on the glass is there for less than a second: that it is kept is what is waited for.
        until(hand.page, len(counts) + 1)
        counts.append(hand.page.evaluate("() => window.taps") - before)
        hand.page.wait_for_selector(".hand-told", state="hidden")
    assert counts == [2, 1, 1]


# Fingers on the picture: two taps, two fingers that part, one that is drawn across.
FINGERS = """(kind) => {
  const glass = document.querySelector('.hand-near');
  const box = glass.getBoundingClientRect();
  const at = (type, id, dx, dy = 0) => glass.dispatchEvent(new PointerEvent(type, {
    pointerId: id, bubbles: true, clientX: box.x + box.width / 2 + dx, clientY: box.y + box.height / 2 + dy }));
  if (kind === 'double') for (const id of [1, 2]) { at('pointerdown', id, 0); at('pointerup', id, 0); }
  if (kind === 'apart') { at('pointerdown', 1, -20); at('pointerdown', 2, 20); at('pointermove', 1, -60); at('pointermove', 2, 60); at('pointerup', 1, -60); at('pointerup', 2, 60); }
  if (kind === 'across') { at('pointerdown', 1, 0); at('pointermove', 1, -40); at('pointerup', 1, -40); }
  return document.querySelector('.hand-near svg').getAttribute('viewBox').split(' ').map(Number);
}"""


def test_a_picture_fits_the_glass_and_is_moved_and_made_larger_by_fingers(walk: Walk) -> None:
    hand = phone(walk, "ivo", "d1-saltmarsh")
    hand.open("sheet:wall:inverter")
    hand.page.wait_for_selector(".hand-near svg")
    near = hand.page.evaluate(FINGERS, "")
    whole = hand.page.evaluate(FINGERS, "double")
    assert whole[2] > 2 * near[2]
    hand.page.wait_for_timeout(400)
    assert hand.page.evaluate(FINGERS, "double") == near
    hand.page.wait_for_timeout(400)
    larger = hand.page.evaluate(FINGERS, "apart")
    assert larger[2] < near[2] / 2
    hand.page.wait_for_timeout(400)
    moved = hand.page.evaluate(FINGERS, "across")
    assert moved[2] == larger[2]
    assert moved[0] > larger[0]


def test_on_a_laptop_what_is_typed_goes_into_the_value_at_once(walk: Walk) -> None:
    hand = phone(walk, "ivo", HOUSE, width=1280, height=800)
    act = next(a.id for a in planned(hand.w)[1].acts.values() if a.kind is Kind.MEASUREMENT)
    hand.open(act)
    hand.page.wait_for_function("() => document.activeElement.id === 'typed'")
    hand.page.keyboard.type("3.5")
    assert hand.page.inner_text(".hand-field output") == "3.5"


def test_a_phone_that_was_switched_off_keeps_what_waits_and_where_it_was(
    walk: Walk, server: str, playwright: Any, tmp_path: Any, browser_type_launch_args: dict[str, Any]
) -> None:
    def start() -> Any:
        context = playwright.chromium.launch_persistent_context(
            tmp_path, viewport={"width": 390, "height": 844}, **browser_type_launch_args
        )
        return context, context.pages[0] if context.pages else context.new_page()

    job = copied(walk, "Switched off", like=HOUSE).job
    context, page = start()
    hand = Hand(Walker(page, server, job))
    hand.w.sign_in("ivo")
    hand.take_along()
    act = first_open(hand, Kind.INSIDE, Kind.FIND)
    context.set_offline(True)
    hand.go(act.id)
    hand.hold("main")
    until(page, 1)
    context.close()
    context, page = start()
    context.set_offline(True)
    again = Hand(Walker(page, server, job))
    again.open(act.id)
    again.net("1 kept")
    assert "by you" in page.inner_text(".hand-last") or ", you," in page.inner_text(".hand-last")
    context.set_offline(False)
    again.sync()
    assert [row["doer"] for row in rows_of(again.w) if row["act"] == act.id] == ["ivo"]
    context.close()


def test_the_next_person_on_a_phone_reads_nothing_of_the_one_before(walk: Walk) -> None:
    hand = taken_along(walk, copied(walk, "Passed on", like=HOUSE).job)
    act = first_open(hand, Kind.INSIDE, Kind.FIND)
    hand.signal(False)
    hand.go(act.id)
    hand.hold("main")
    until(hand.page, 1)
    kept = json.dumps([stored(hand.page, "items"), stored(hand.page, "bags")])
    assert act.id not in kept
    assert "Passed on" not in kept
    # Signing out says what waits, closes it, and needs signal before anybody opens anything here again.
    hand.go("trail")
    out = hand.page.locator("button:has-text('Sign out')")
    out.click()
    assert "1 of yours wait" in out.inner_text()
    out.click()
    hand.page.wait_for_timeout(300)
    hand.page.goto(f"{hand.w.server}/jobs/{hand.w.job}/hand")
    hand.page.wait_for_function(
        "() => document.body.innerText.includes('nobody has signed in on this phone') || location.pathname === '/sign-in'"
    )
    assert stored(hand.page, "keep") == [] or [row["id"] for row in stored(hand.page, "keep")] == ["out"]
    hand.signal(True)
    hand.w.sign_in("lena")
    hand.open(act.id)
    hand.net("1 kept")
    hand.go("outbox")
    hand.page.wait_for_selector("text=1 of ivo: closed, until they sign in here")
    hand.page.get_by_role("button", name="Leave it behind").wait_for(state="hidden")
    assert [row for row in rows_of(hand.w) if row["act"] == act.id] == []
    hand.w.sign_in("ivo")
    until(hand.page, 0)
    assert [(row["doer"], row["by"]) for row in rows_of(hand.w) if row["act"] == act.id] == [("ivo", "Ivo Installer")]


def test_two_people_who_did_the_same_without_signal_are_shown_two_values(walk: Walk) -> None:
    job = copied(walk, "Two values", like="d1-saltmarsh").job
    ivo, lena = taken_along(walk, job), taken_along(walk, job, "lena")
    act = first_open(ivo, Kind.INSIDE)
    for hand, button in ((ivo, "main"), (lena, "no")):
        hand.signal(False)
        hand.go(act.id)
        hand.hold(button)
        until(hand.page, 1)
    ivo.sync()
    lena.sync()
    ivo.sync()
    ivo.open(act.id)
    ivo.page.wait_for_selector(".hand-two:visible")
    shown = ivo.page.inner_text(".hand-two")
    assert "yes" in shown
    assert "no" in shown
    assert "Ivo Installer" in shown
    assert "Lena Licence" in shown
    ivo.w.go("at-the-bench/hand-over")
    assert "two values:" in ivo.page.inner_text("main")
    # Who sees both says which it is.
    ivo.open(act.id)
    ivo.page.wait_for_selector(".hand-two:visible")
    ivo.hold("main")
    ivo.sync()
    ivo.page.wait_for_selector(".hand-two", state="hidden")


# Targets that are smaller than 48 px, or nearer to another than 8 px, half a point left to rounding; what lies within another is one with it.
SMALL = """() => {
  const find = 'button, a, label, input, summary';
  const shown = [...document.querySelectorAll(find)].filter((one) => one.checkVisibility({ opacityProperty: true }) && !one.matches('.skip, .sr, #typed, label:not(.hand-key)'));
  const told = (one, box) => one.outerHTML.slice(0, 80) + ' ' + box.width + 'x' + box.height;
  const boxes = shown.map((one) => [one, one.getBoundingClientRect()]).filter(([, box]) => box.width > 1 && box.height > 1);
  const small = boxes.filter(([, box]) => box.height < 47.5 || box.width < 47.5).map(([one, box]) => told(one, box));
  const near = [];
  for (const [n, [one, a]] of boxes.entries()) for (const [other, b] of boxes.slice(n + 1)) {
    if (one.contains(other) || other.contains(one) || one.closest('main') !== other.closest('main')) continue;
    const apart = Math.max(a.left - b.right, b.left - a.right, a.top - b.bottom, b.top - a.bottom);
    if (apart < 7.5) near.push(apart.toFixed(1) + ' px: ' + told(one, a) + ' and ' + told(other, b));
  }
  return [...small, ...near]; }"""
# Luminance contrast of every piece of text of the card against its ground (WCAG 2.2, 1.4.6).
FAINT = """() => { const rgb = (text) => (text.match(/[\\d.]+/g) || []).map(Number);
  const light = ([r, g, b]) => { const f = (v) => { v /= 255; return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4; }; return 0.2126 * f(r) + 0.7152 * f(g) + 0.0722 * f(b); };
  const ground = (one) => { for (let at = one; at; at = at.parentElement) { const c = rgb(getComputedStyle(at).backgroundColor); if (c.length === 3 || c[3] > 0.99) return c; } return [255, 255, 255]; };
  const found = [];
  for (const one of document.querySelectorAll('.hand-act *, .hand-answers *, .hand-head *')) {
    if (!one.checkVisibility() || one.closest('svg, :disabled, .hand-needs') || ![...one.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim())) continue;
    const a = light(rgb(getComputedStyle(one).color)), b = light(ground(one));
    const ratio = (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
    if (ratio < 7) found.push(ratio.toFixed(2) + ' ' + one.outerHTML.slice(0, 90));
  }
  return found; }"""


def measured(hand: Hand, screen: str) -> None:
    """A screen that is none of an act: what a thumb meets, how it reads, what a program can judge."""
    hand.page.wait_for_selector(f"body[data-screen={screen}]")
    hand.page.wait_for_timeout(60)
    assert hand.page.evaluate(SMALL) == [], screen
    assert hand.page.evaluate(FAINT) == [], screen
    hand.w.accessible()


@pytest.mark.parametrize("light", ["plain", "dark", "sun"])
def test_every_screen_of_the_hand_is_accessible_and_made_for_gloves(walk: Walk, light: str) -> None:
    hand = phone(walk, "ivo", "d1-saltmarsh", width=360, height=640)
    hand.page.evaluate("(light) => localStorage.setItem('gumboot-light', light)", light)
    hand.open("trail")
    _, standing = planned(hand.w)
    first = {act.kind: act.id for act in reversed(list(standing.acts.values())) if not act.is_derived and act.kind is not Kind.CLEARANCE}
    sheets = (
        "all:survey",
        "sheet:survey:site.service_main_a",
        "sheet:strings:S1",
        "sheet:bank:bank",
        "sheet:circuits:bat-main",
        "sheet:wall:inverter",
    )
    for place in ("trail", "all:wire", "outbox", *sheets, *first.values()):
        hand.go(place)
        hand.page.wait_for_timeout(60)
        assert hand.page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth"), place
        assert hand.page.evaluate(SMALL) == [], place
        assert hand.page.evaluate(FAINT) == [], place
        if place in ("trail", "outbox", *sheets, first[Kind.TORQUE], first[Kind.MEASUREMENT], first[Kind.STEP], first[Kind.SERIAL]):
            hand.w.accessible()
    # The glass of the camera, the true size, and the houses of a phone.
    hand.go(first[Kind.TORQUE])
    hand.page.get_by_role("button", name="Take photo").click()
    measured(hand, "camera")
    hand.page.get_by_role("button", name="Back", exact=True).click()
    hand.page.evaluate("() => document.querySelector('.hand-lay').click()")
    measured(hand, "scale")
    hand.page.goto(f"{hand.w.server}/hand")
    measured(hand, "houses")


def test_a_lead_is_rung_out_core_by_core_and_a_crossed_one_is_named(walk: Walk) -> None:
    w = copied(walk, "Rung", like="d1-saltmarsh")
    hand = taken_along(walk, w.job)
    hand.signal(False)
    hand.go("lead:battery.bank")
    press(hand, "main", 900)
    until(hand.page, 1)
    hand.told()
    assert hand.go("ring:battery.bank") == "ring"
    say, fault = hand.page.locator("[data-mode=ring] .hand-could:visible p >> nth=0"), hand.page.locator(".hand-hint.bad:visible")
    assert "0 of 3 cores rung. White/orange, GND: probe on 1 at inverter" in " ".join(say.inner_text().split())
    # A slip is rung again; the blue pair is crossed in a plug.
    for key in ("3", "before", "2", "8", "7"):
        hand.page.click(
            "text=The one before again"
            if key == "before"
            else f"[data-ring='{key}']:visible, [data-ring=wanted]:visible:has-text('at {key}')"
        )
    assert "Blue, CAN H: 4 beeped at 8, it belongs at 7" in fault.inner_text()
    assert hand.page.locator(".hand-mark.wrong").count() == 4
    press(hand, "ring", 900)
    until(hand.page, 2)
    assert hand.act == "ring:battery.bank"
    hand.told()
    hand.page.wait_for_selector(".hand-last.bad:has-text('Not good: 1 at 2, 4 at 8, 5 at 7')")
    hand.answer_by("ring", "ring:battery.bank")
    until(hand.page, 3)
    hand.signal(True)
    until(hand.page, 0)
    rows = [row for row in rows_of(hand.w) if row["act"] == "ring:battery.bank"]
    assert [row["heard"] for row in rows] == [{"1": 2, "4": 8, "5": 7}, {"1": 2, "4": 7, "5": 8}]
