"""What a phone takes along: the key of its person, the bag of a house, the page of the hand, the worker, the manifest."""

from __future__ import annotations

import base64
import json
import re
import uuid
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.core.acts import Kind
from gumboot.core.reading import parse
from gumboot.core.standing import stand
from gumboot.drawing import show
from gumboot.drawing.hand.ending import UNIT, copper_mm, ending_of
from gumboot.drawing.hand.landing import terminals
from gumboot.drawing.hand.ruler import ruler
from gumboot.drawing.svg import INK, PIGMENT
from gumboot.web import urls
from gumboot.web.rendering import HERE
from tests.helpers import plan_of
from tests.web.conftest import Crew

HOUSES = ("d1-saltmarsh", "d2-schoolhouse", "d3-lockkeeper", "d4-lookout", "k07-ridge", "k05-homestead", "g01-cooperage", "g02-dairy")


def test_the_key_is_one_s_own_and_stays_the_same(ivo: Crew, crew: Callable[[str], Crew]) -> None:
    mine = ivo.client.get(urls.ME).json()
    assert (mine["name"], mine["role"], mine["csrf"]) == ("ivo", "installer", ivo.csrf)
    assert len(base64.b64decode(mine["key"])) == 32
    assert ivo.client.get(urls.ME).json()["key"] == mine["key"]
    assert crew("lena").client.get(urls.ME).json()["key"] != mine["key"]
    assert abs(datetime.fromisoformat(mine["at"]) - datetime.now(UTC)) < timedelta(minutes=1)


def test_nobody_gets_a_key_or_a_bag_without_signing_in(ivo: Crew) -> None:
    ivo.client.cookies.clear()
    for address in (urls.ME, f"/api/jobs/{ivo.job}/bag"):
        assert ivo.client.get(address, headers={"Accept": "application/json"}).status_code == 401
    # The page itself says nothing of anybody, so that a phone may keep it.
    shell = ivo.client.get(urls.HAND)
    assert shell.status_code == 200
    assert "ivo" not in shell.text
    assert "csrf" not in shell.text


@pytest.mark.parametrize("house", HOUSES)
def test_every_act_of_a_house_has_a_card_and_what_it_looks_at_is_there(ivo: Crew, house: str) -> None:
    bag = ivo.client.get(f"/api/jobs/{house}/bag").json()
    plan = plan_of(name=house)
    acts = stand(plan, [], datetime.now(UTC), 1).acts
    shown = [name for station in bag["stations"] for name in station["acts"]]
    wanted = {a.id for a in acts.values() if not a.is_derived and a.kind not in (Kind.PLAN, Kind.CLEARANCE)}
    assert set(shown) == set(bag["cards"]) == wanted
    assert len(shown) == len(set(shown))
    for name, card in bag["cards"].items():
        assert card["title"], name
        if card["look"]:
            picture = bag["pictures"][card["look"]["picture"]]
            picture = bag["pictures"][picture["as"]] if "as" in picture else picture
            for x, y in (picture["at"][at] for at in card["look"]["at"] if at in picture["at"]):
                assert 0 <= x <= picture["width"]
                assert 0 <= y <= picture["height"]
        if acts[name].kind is Kind.TORQUE:
            assert card["look"]["at"][0] in picture["at"]
    assert bag["holds"]["terminations"] == len(plan.terminations)


@pytest.mark.parametrize("house", HOUSES)
def test_the_torque_that_one_tap_records_lies_in_its_band(house: str) -> None:
    # What is shown is rounded, and what is shown is recorded: it must not fall out of the band by that.
    plan = plan_of(name=house)
    for term in plan.terminations:
        if term.torque is None or term.torque_low is None or term.torque_high is None:
            continue
        for system, unit in (("US", "lbf in"), ("SI", "N m")):
            shown = parse(f"{show.quantity(term.torque.value, 'N m', system).split(' ')[0]} {unit}", "N m")
            assert term.torque_low.value <= shown <= term.torque_high.value, (term.id, system)


def test_a_picture_to_look_at_opens_nothing_and_stops_no_key(ivo: Crew) -> None:
    bag = ivo.client.get(f"/api/jobs/{ivo.job}/bag").json()
    for name, picture in bag["pictures"].items():
        svg = picture.get("svg", "")
        assert not re.search(r'data-figure|tabindex|role="button"|<a ', svg), name
        assert svg.count("aria-label") == (1 if svg else 0), name


def test_a_bag_that_is_there_is_not_sent_again_until_the_plan_or_the_units_change(ivo: Crew) -> None:
    tag = ivo.client.get(f"/api/jobs/{ivo.job}/bag").json()["tag"]
    assert ivo.client.get(f"/api/jobs/{ivo.job}/bag?tag={tag}").status_code == 204
    ivo.edit("runs.bat-main.length_m", "3.1 m")
    assert ivo.client.get(f"/api/jobs/{ivo.job}/bag?tag={tag}").status_code == 200


def test_the_bag_goes_packed_through_the_air(ivo: Crew) -> None:
    packed = ivo.client.get(f"/api/jobs/{ivo.job}/bag", headers={"Accept-Encoding": "gzip"})
    plain = ivo.client.get(f"/api/jobs/{ivo.job}/bag", headers={"Accept-Encoding": "identity"})
    assert packed.headers["content-encoding"] == "gzip"
    assert packed.json() == plain.json()
    assert int(packed.headers["content-length"]) * 8 < len(plain.content) < 2_000_000


def test_the_worker_keeps_all_that_is_shipped_and_the_page_of_the_hand(ivo: Crew) -> None:
    told = ivo.client.get(urls.WORKER)
    assert told.headers["content-type"].startswith("text/javascript")
    listed = json.loads(re.search(r"work\((\{.*\})\);", told.text)[1])  # type: ignore[index]
    assert listed["shell"] == urls.HAND
    assert {urls.static("js/hand/hand.js"), urls.static("zxing.min.js"), urls.static("js/stations/wire.js"), urls.static("app.css")} <= set(
        listed["files"]
    )
    for address in listed["files"]:
        assert ivo.client.get(address).status_code == 200, address


def test_it_can_be_put_among_a_phone_s_own(ivo: Crew) -> None:
    told = ivo.client.get(urls.MANIFEST).json()
    assert (told["start_url"], told["display"]) == (urls.HAND, "standalone")
    for icon in told["icons"]:
        assert ivo.client.get(icon["src"]).status_code == 200
    assert urls.MANIFEST in ivo.get("wire")


PHONE = {"User-Agent": "Mozilla/5.0 (Linux; Android 14) Mobile Safari/537.36"}


def test_a_phone_is_led_to_the_hand_and_the_bench_is_there_for_who_asks(ivo: Crew) -> None:
    def asked(station: str) -> Any:
        return ivo.client.get(f"/jobs/{ivo.job}/{station}", headers=PHONE, follow_redirects=False)

    assert asked("wire").headers["location"] == f"/jobs/{ivo.job}/hand#wire"
    assert asked("survey").headers["location"] == f"/jobs/{ivo.job}/hand#survey"
    assert asked("power-up?moves=bat-1").status_code == 200
    assert ivo.client.get(f"/jobs/{ivo.job}/hand").status_code == 200
    assert ivo.client.get("/jobs/none-such/hand").status_code == 404
    ivo.client.get(f"/jobs/{ivo.job}/at-the-bench/wire")
    assert asked("wire").status_code == 200


def sent(who: Crew, act: str, **typed: str) -> Any:
    data = {"csrf": who.csrf, "record_id": str(uuid.uuid4()), "doer": "ivo", **typed}
    return who.client.post(f"/jobs/{who.job}/{act}", data=data, headers={"Accept": "application/json"})


def row(who: Crew, act: str) -> dict[str, Any]:
    lines = who.client.get(f"/jobs/{who.job}/download/records.jsonl").text.splitlines()
    return next(r for r in map(json.loads, lines) if r["act"] == act)


def test_a_clock_that_is_off_by_hours_is_put_right_and_noted(ivo: Crew) -> None:
    now = datetime.now(UTC)
    ahead = now + timedelta(hours=3)
    told = sent(ivo, "records/inside/inverter", answer="yes", age_s="600.250", clock_ms=str(int(ahead.timestamp() * 1000)))
    assert told.status_code == 200
    kept = row(ivo, "inside:inverter")
    assert abs(kept["clock_ahead_s"] - 10_800) < 30
    assert abs(datetime.fromisoformat(kept["done_at"]) - (now - timedelta(seconds=600.25))) < timedelta(seconds=30)


def test_a_phone_s_own_time_is_believed_only_near_to_its_age(ivo: Crew) -> None:
    now = datetime.now(UTC)
    near, far = now - timedelta(seconds=62), now - timedelta(hours=5)
    for act, done in (("inside/inverter", near), ("find/wall", far)):
        assert sent(ivo, f"records/{act}", answer="yes", age_s="60", done_ms=str(int(done.timestamp() * 1000))).status_code == 200
    assert abs(datetime.fromisoformat(row(ivo, "inside:inverter")["done_at"]) - near) < timedelta(seconds=0.01)
    assert abs(datetime.fromisoformat(row(ivo, "find:wall")["done_at"]) - (now - timedelta(seconds=60))) < timedelta(seconds=20)
    assert sent(ivo, "records/lift/inverter", age_s="-4").status_code == 422
    assert sent(ivo, "records/lift/inverter", age_s="7776001").status_code == 422


def test_what_is_asked_about_says_so_and_is_kept_when_it_was_meant(ivo: Crew) -> None:
    slip = {"value": "4211", "age_s": "100"}
    first = sent(ivo, "records/check/voc-PV1", **slip)
    assert (first.status_code, first.headers["X-Asks"]) == (422, "yes")
    assert "did you mean 421.1 V" in first.json()["detail"]
    assert "X-Asks" not in sent(ivo, "records/check/voc-PV1", value="much", age_s="100").headers
    assert sent(ivo, "records/check/voc-PV1", **slip, sure="yes").status_code == 200


def test_set_aside_is_a_record_and_sent_twice_is_one(ivo: Crew) -> None:
    ident = str(uuid.uuid4())
    typed = {"record_id": ident, "said": "97 lbf in", "refused": "That is no act of this plan any more.", "reason": "the end was taken out"}
    for _ in range(2):
        assert sent(ivo, "set-aside/torque/no.such.end", **typed).status_code == 200
    kept = row(ivo, "torque:no.such.end")
    assert (kept["kind"], kept["said"], kept["doer"]) == ("set-aside", "97 lbf in", "ivo")
    assert sent(ivo, "set-aside/torque/no.such.end", **{**typed, "reason": "another reason now"}).status_code == 409
    assert sent(ivo, "set-aside/torque/x", said="x", reason="short").status_code == 422
    assert sent(ivo, "set-aside/torque/x", said="", reason="long enough a reason").status_code == 422


def test_an_end_is_drawn_as_long_as_it_is_stripped(ivo: Crew) -> None:
    del ivo
    for term in plan_of().terminations:
        made = ending_of(term)
        strip = [s for s in made.canvas.shapes if s.kind == "line" and s.ink == "blue" and s.points[0][1] == s.points[1][1]]
        assert len(strip) == 1
        (x1, _), (x2, _) = strip[0].points
        assert (x2 - x1) / UNIT == pytest.approx(term.terminal.strip_mm)
        assert made.width_mm * UNIT == pytest.approx(made.canvas.width)


def test_a_conductor_is_drawn_about_as_thick_as_it_is() -> None:
    # A stranded 10 mm2 copper conductor measures about 4.1 mm (IEC 60228 class 2, common tables), a 2/0 AWG one 10.6 mm (NEC Chapter 9 Table 8).
    assert copper_mm("10 mm2") == pytest.approx(4.1, abs=0.2)
    assert copper_mm("2/0 AWG") == pytest.approx(10.6, abs=0.5)


@pytest.mark.parametrize("house", HOUSES)
def test_ends_of_a_box_stand_apart_and_within_it(house: str) -> None:
    plan = plan_of(name=house)
    for place in dict.fromkeys(t.place for t in plan.terminations):
        drawn = terminals(plan, place)
        at = list(drawn.anchors.values())
        assert len(at) == sum(t.place == place for t in plan.terminations)
        for n, (x, y) in enumerate(at):
            assert 10 <= x <= drawn.width - 10
            assert all(abs(x - a) >= 29.9 or abs(y - b) > 20 for a, b in at[n + 1 :]), place


def test_a_band_that_is_open_at_one_end_is_green_to_the_edge() -> None:
    assert str(ruler("r", 1.0, None, None)).count("hatch-oxide)") == 1
    assert str(ruler("r", 1.0, 2.0, 1.5)).count("hatch-oxide)") == 2
    assert ruler("r", None, None, None) == ""


def test_every_ink_of_a_drawing_turns_with_the_theme_but_pigment() -> None:
    built = (HERE / "static/app.css").read_text()
    for ink in INK:
        for kind in ("f", "s"):
            assert (f".{kind}-{ink}{{" in built) == (ink not in PIGMENT), ink


def test_every_script_of_the_hand_is_asked_for_at_once(ivo: Crew) -> None:
    shell = ivo.client.get(urls.HAND).text
    told = set(re.findall(r'rel="modulepreload" href="/static/[0-9a-f]+/([^"]+)"', shell))
    own = {f"js/{folder}/{path.name}" for folder in ("hand", "phone") for path in (HERE / "static/js" / folder).glob("*.js")}
    # The worker is no part of a page, and the first stands in the page itself.
    assert own - {"js/phone/worker.js", "js/hand/main.js"} <= told
    assert "idb.js" in told
