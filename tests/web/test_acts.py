"""Acts on their pages: what may be done, what is asked about, what is taken back, what stays in sight; files of records."""

from __future__ import annotations

import hashlib
import importlib
import json
import re
import uuid
from collections import Counter
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from io import BytesIO
from typing import Any
from zoneinfo import ZoneInfo

from PIL import Image
from pypdf import PdfReader
from sqlalchemy import Engine

from gumboot.core.standing import STATION_IDS
from tests.web.conftest import Crew
from tests.web.test_records import GOOD, LUG, fill


def send(crew: Crew, act: str, **typed: str) -> Any:
    """As the phone's queue sends it."""
    seen = crew.seen() if act.startswith("sign-off/") else {}
    data = {"csrf": crew.csrf, "record_id": str(uuid.uuid4()), **seen, **typed}
    return crew.client.post(f"/jobs/{crew.job}/records/{act}", data=data, headers={"Accept": "application/json"})


def history(crew: Crew, act: str) -> str:
    page = crew.client.get(f"/jobs/{crew.job}/acts/{act}")
    assert page.status_code == 200
    return str(page.text)


def test_a_box_is_hung_on_its_holes(ivo: Crew) -> None:
    assert "Held by Plover 6S hybrid inverter unpacked" in send(ivo, "lift/inverter").text
    assert send(ivo, "unpack/inverter", answer="yes").status_code == 200
    assert "Held by Plover 6S hybrid inverter: in before it hangs" in send(ivo, "lift/inverter").text
    assert send(ivo, "inside/inverter", answer="yes").status_code == 200
    assert "Held by Holes of Plover" in send(ivo, "lift/inverter").text
    assert "Holes of Plover 6S hybrid inverter marked" in send(ivo, "hole/inverter", right="0", up="0").text
    assert "Wires and pipes found" in send(ivo, "marked/inverter", answer="yes").text
    for act in ("find/wall", "board/wall", "marked/inverter"):
        assert send(ivo, act, answer="yes").status_code == 200
    assert send(ivo, "hole/inverter", right="left", up="0").status_code == 422
    assert send(ivo, "hole/inverter", right="9", up="0", unit="mm").status_code == 200
    assert "off the stud" in history(ivo, "hole/inverter")
    assert "the worst 9 mm right of its mark" in history(ivo, "hole/inverter")
    assert "Held by failed: Holes of Plover" in send(ivo, "lift/inverter").text
    assert send(ivo, "hole/inverter", right="0", up="0").status_code == 200
    assert send(ivo, "lift/inverter").status_code == 200
    assert "7 of 32" in ivo.get("wire")


def test_numbers_covers_and_labels_are_kept(engine: Engine, ivo: Crew) -> None:
    assert send(ivo, "serial/bat-1", text=" ").status_code == 422
    assert "SN 4711" in ivo.post("records/serial/bat-1", text="SN 4711").text
    assert "is older than" in ivo.post("records/firmware/inverter", text="0.1").text
    assert "answered no" in ivo.post("records/label/service-disconnect", answer="no").text
    assert "Held by" in send(ivo, "cover/inverter", answer="yes").text
    fill(engine, ivo, "torque", "measurement", "done", "link", "setting", "ct", hours=1)
    assert "Next: Plover 6S hybrid inverter closed" in ivo.get("live-checks")
    assert send(ivo, "cover/inverter", answer="yes").status_code == 200
    assert "Next: Plover 6S hybrid inverter closed" not in ivo.get("live-checks")


def test_a_slip_is_asked_about_and_kept_as_typed_when_it_is_meant(ivo: Crew) -> None:
    asked = ivo.post("records/check/voc-PV1", value="4211")
    assert asked.status_code == 422
    assert "did you mean 421.1 V?" in asked.text
    assert 'name="sure" value="yes"' in asked.text
    assert 'value="4211"' in asked.text
    assert "above" in ivo.post("records/check/voc-PV1", value="4211", sure="yes").text
    torque = ivo.post(f"records/torque/{LUG}", fragment=False, **{**GOOD, "unit": "lbf ft"})
    assert torque.status_code == 422
    assert 'name="sure" value="yes"' in torque.text


def test_a_record_that_comes_in_late_and_out_of_order_is_kept_as_a_defect(ivo: Crew) -> None:
    assert send(ivo, "step/grid-breaker").status_code == 422
    assert send(ivo, "step/grid-breaker", age_s="3600").status_code == 200
    told = history(ivo, "step/grid-breaker")
    assert "out of order: the step before" in told
    assert "came in" in told
    assert "Open: kept, and does not count" in told
    assert "0/14" in ivo.get("power-up")


def test_a_mis_tap_is_taken_back_and_stays_in_sight(ivo: Crew, lena: Crew) -> None:
    page = ivo.post("records/check/look-open", answer="no").text
    found = re.search(r'name="take_back" value="([^"]+)"', page)
    assert found
    lena.job = ivo.job
    assert "Who made a record takes it back" in send(lena, "check/look-open", take_back=found[1]).text
    assert send(ivo, "check/look-open", take_back=found[1], age_s="0").status_code == 200
    told = history(ivo, "check/look-open")
    assert told.count("taken back") >= 2
    assert "Open" in told
    assert "no such record" in send(ivo, "check/dead-dc", take_back=found[1]).text


def test_what_could_not_be_done_is_a_defect(ivo: Crew) -> None:
    assert "Say why" in send(ivo, f"torque/{LUG}", could_not="could not be done").text
    assert send(ivo, f"torque/{LUG}", could_not="snug only").status_code == 200
    assert send(ivo, f"torque/{LUG}", could_not="a lie").status_code == 422
    assert "Failed: snug only" in history(ivo, f"torque/{LUG}")
    assert "0/105" in ivo.get("wire")


def test_the_history_shows_gate_band_and_every_failure(ivo: Crew, lena: Crew) -> None:
    ivo.post("records/check/dead-dc", value="48")
    lena.job = ivo.job
    lena.post("records/clear/dead-dc", reason="meter was on the wrong range")
    ivo.post("records/check/dead-dc", value="0.2")
    told = history(ivo, "check/dead-dc")
    for words in (
        "48 V",
        "0.2 V",
        "hold cleared",
        "meter was on the wrong range",
        "replaced since",
        "at most 5 V",
        "12 h, until a switch is moved",
    ):
        assert words in told, words
    gate = history(ivo, "step/on-bat-1")
    assert "not done yet" in gate
    assert "/links#link-off" in gate
    assert ivo.client.get(f"/jobs/{ivo.job}/acts/check/nothing").status_code == 404


def test_switching_off_is_never_held_and_takes_the_steps_back(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, hours=1)
    assert "14/14" in ivo.get("power-up") or "Clear" in ivo.get("power-up")
    page = ivo.post("records/off/grid-breaker").text
    assert "11/14" in page
    assert "The way back, at any time" in page
    ivo.post("records/check/dead-dc", value="52")
    assert send(ivo, "off/all.switches").status_code == 200
    assert "True no more: switched off since" in history(ivo, "step/export")
    assert "True no more: switched off since" in history(ivo, "step/start-dead")


def test_a_house_is_handed_over_with_its_day_old_check_promised(engine: Engine, lena: Crew) -> None:
    fill(engine, lena, "torque", "measurement", "done", "link", "setting", "ct", "rest", hours=1)
    page = lena.get("hand-over")
    assert "the 24 h check promised" in page
    assert send(lena, "sign-off/job", number="L-1").status_code == 422
    assert send(lena, "sign-off/provisional", number="L-1").status_code == 200


def test_records_leave_and_come_back(engine: Engine, ivo: Crew, crew: Callable[[str], Crew]) -> None:
    ivo.post("records/check/dead-dc", value="0.2")
    ivo.post("records/serial/bat-1", text="SN 1")
    lines = ivo.client.get(f"/jobs/{ivo.job}/download/records.jsonl").text
    assert lines.count("gumboot.record/1") == 2

    def take(name: str, content: str | bytes) -> Any:
        body = content if isinstance(content, bytes) else content.encode()
        return ivo.client.post(f"/jobs/{ivo.job}/records-file", data={"csrf": ivo.csrf}, files={"file": (name, body)})

    assert take("r.jsonl", lines).text.count("stood already") == 2
    table = "check,value,unit\ndead-grid,0.4,V\nearth-grid,0.12,ohm\nnothing,1,V\n"
    page = take("tester.csv", table).text
    assert page.count(": kept") == 2
    assert "no check of this house" in page
    assert "0.4 V" in history(ivo, "check/dead-grid")
    assert take("r.csv", b"\xff\xfe\x00").status_code == 422
    assert take("r.csv", b"").status_code == 422
    assert take("r.jsonl", "\n").status_code == 422
    abel = crew("abel")
    abel.job = ivo.job
    answer = abel.client.post(f"/jobs/{ivo.job}/records-file", data={"csrf": abel.csrf}, files={"file": ("t.csv", table.encode())})
    assert answer.text.count("refused") >= 2


def test_a_time_without_an_offset_is_read_by_the_clock_of_who_sends_it(ivo: Crew) -> None:
    berlin = ZoneInfo("Europe/Berlin")
    at = datetime.now(berlin).replace(microsecond=0, second=0) - timedelta(hours=1)
    table = f"check,value,unit,time\ndead-grid,0.4,V,{at:%Y-%m-%d %H:%M}\n"

    def take(zone: str, rows: str = table) -> str:
        form = {"csrf": ivo.csrf, "zone": zone}
        return str(ivo.client.post(f"/jobs/{ivo.job}/records-file", data=form, files={"file": ("t.csv", rows.encode())}).text)

    assert "does not say by which clock" in take("")
    assert "does not say by which clock" in take("../Mars")
    assert ": kept" in take("Europe/Berlin")
    told = history(ivo, "check/dead-grid")
    assert f"{at.astimezone(UTC):%H:%M:%S} UTC" in told
    assert "stood already" in take("", table.replace(f"{at:%Y-%m-%d %H:%M}", at.astimezone(UTC).isoformat()))


def picture(kind: str = "PNG", size: tuple[int, int] = (40, 30), shade: int = 90, **more: Any) -> bytes:
    """A picture as a camera writes it."""
    written = BytesIO()
    Image.new("RGB", size, (shade, 20, 20)).save(written, kind, **more)
    return written.getvalue()


PNG = picture()


def test_a_picture_is_kept_by_its_hash_and_says_nothing_of_how_the_act_stands(ivo: Crew, crew: Callable[[str], Crew]) -> None:
    def send_picture(who: Crew, content: bytes, act: str = f"torque/{LUG}") -> Any:
        return who.client.post(
            f"/jobs/{who.job}/photos/{act}", data={"csrf": who.csrf}, files={"file": ("p.png", content)}, follow_redirects=False
        )

    # What prints a pack does not make the server take pictures that are cut short.
    importlib.import_module("gumboot.documents.pdf")
    ivo.post(f"records/torque/{LUG}", **GOOD)
    assert send_picture(ivo, PNG).status_code == 303
    assert send_picture(ivo, picture(shade=91), "photo/inverter").status_code == 303
    assert send_picture(ivo, PNG, "step/export").status_code == 303
    told = history(ivo, f"torque/{LUG}")
    found = re.search(rf'src="(/jobs/{ivo.job}/photos/[0-9a-f]{{64}})"', told)
    assert found
    assert "Good" in told
    shown = ivo.client.get(found[1])
    assert (shown.content, shown.headers["content-type"]) == (PNG, "image/png")
    assert "Open" in history(ivo, "step/export")
    for content, words in (
        (b"", "Choose a picture"),
        (b"GIF89a", "no JPEG or PNG"),
        (PNG + b"0" * 8_000_000, "larger than 8 MB"),
        (PNG[:60], "cut short or none"),
    ):
        refused = send_picture(ivo, content)
        assert refused.status_code == 422
        assert words in refused.text
    assert send_picture(ivo, PNG, "torque/nothing").status_code == 404
    abel = crew("abel")
    abel.job = ivo.job
    assert send_picture(abel, PNG).status_code == 403
    assert ivo.client.get(f"/jobs/{ivo.job}/photos/{'0' * 64}").status_code == 404
    assert ivo.client.get(found[1].replace(ivo.job, "d1-saltmarsh")).status_code == 404


def test_a_picture_loses_where_it_was_taken_and_is_made_small(ivo: Crew) -> None:
    place = Image.Exif()
    place[0x8825] = {1: "N", 2: (48.0, 12.0, 0.0)}
    place[0x0112] = 6
    for content in (picture("JPEG", (2400, 1200), exif=place), picture("JPEG", (60, 30), exif=place), picture("JPEG", (1700, 20))):
        sent = ivo.client.post(
            f"/jobs/{ivo.job}/photos/torque/{LUG}",
            data={"csrf": ivo.csrf, "record_id": str(uuid.uuid4())},
            files={"file": ("p.jpg", content)},
            headers={"Accept": "application/json"},
        )
        assert sent.status_code == 200
        kept = ivo.client.get(f"/jobs/{ivo.job}/photos/{sent.json()['photo']}").content
        with Image.open(BytesIO(kept)) as shown:
            assert not dict(shown.getexif())
            assert max(shown.size) <= 1600
            if b"Exif" in content:
                # What lay on its side in the camera stands upright.
                assert shown.width < shown.height


def test_a_picture_that_is_small_and_says_nothing_is_kept_to_the_byte_and_once(ivo: Crew) -> None:
    content, ident = picture("JPEG", shade=33), str(uuid.uuid4())
    for _ in range(2):
        data = {"csrf": ivo.csrf, "record_id": ident, "doer": "ivo", "age_s": "7200", "device": "phone 12"}
        sent = ivo.client.post(
            f"/jobs/{ivo.job}/photos/torque/{LUG}", data=data, files={"file": ("p.jpg", content)}, headers={"Accept": "application/json"}
        )
        assert sent.json() == {"ok": True, "photo": hashlib.sha256(content).hexdigest()}
    rows = [r for r in ivo.client.get(f"/jobs/{ivo.job}/download/records.jsonl").text.splitlines() if ident in r]
    assert len(rows) == 1
    assert '"device":"phone 12"' in rows[0].replace(": ", ":")


def test_a_record_names_the_device_that_it_was_made_on(ivo: Crew) -> None:
    send(ivo, "check/dead-dc", value="0.2", device="phone ab12cd")
    assert '"device": "phone ab12cd"' in ivo.client.get(f"/jobs/{ivo.job}/download/records.jsonl").text


def test_the_pack_shows_every_failure_and_the_head_of_the_chain(ivo: Crew) -> None:
    import io

    from pypdf import PdfReader

    ivo.post("records/check/dead-dc", value="48")
    ivo.post("records/check/dead-dc", value="0.2")
    answer = ivo.client.get(f"/jobs/{ivo.job}/download/pack.pdf")
    text = " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.content)).pages).split())
    for words in ("Failures, and what became of each", "48 V is above 5 V", "good since", "2 records; the last hash of their chain is"):
        assert words in text, words


def test_a_meter_is_chosen_where_the_job_has_one_and_stands_in_the_record(ivo: Crew, petra: Crew) -> None:
    assert 'aria-label="Instrument' not in ivo.get("prove")
    added = petra.post("list/add", path="tools", **{"item.title": "Meter M 1", "item.kind": "meter", "item.calibrated_to": "2020-01-01"})
    assert added.status_code == 200
    page = ivo.get("prove")
    found = re.search(r'<option value="([\w-]+)">Meter M 1', page)
    assert found
    assert "Meter M 1" not in ivo.client.get(f"/jobs/{ivo.job}/wire/{LUG}").text
    assert "the instrument was out of calibration" in ivo.post("records/check/dead-dc", value="0.2", tool=found[1]).text
    assert "in band" in ivo.post("records/check/dead-grid", value="0.2").text


def test_a_refusal_stands_where_it_is_seen_whatever_form_it_was_sent_by(engine: Engine, ivo: Crew, lena: Crew) -> None:
    fill(engine, ivo, "torque", "measurement", "link", "setting", "rest", hours=1)
    ivo.post("records/step/grid-breaker")
    short = ivo.post("records/meter/ct-test", could_not="could not be done", reason="short")
    assert short.status_code == 422
    assert "Say why in at least 10 characters." in short.text
    early = lena.post("records/sign-off/provisional", number="L-1")
    assert early.status_code == 422
    assert "things are missing; see the list." in early.text
    assert lena.post("records/sign-off/job", number="L-1", revision="9" * 5000).status_code == 422


def test_the_working_beside_an_act_is_that_of_its_own_band(ivo: Crew) -> None:
    head = {"HX-Request": "true"}
    shown = ivo.client.get(f"/jobs/{ivo.job}/acts/check/voc-PV1", headers=head).text
    assert 'data-current-figure="strings.PV1.today_v"' in shown
    assert "data-current-figure" not in ivo.client.get(f"/jobs/{ivo.job}/acts/step/start-dead", headers=head).text
    assert "House notes" in ivo.client.get(f"/jobs/{ivo.job}/acts/ritual/off", headers=head).text


def test_no_two_things_of_a_page_are_marked_alike(engine: Engine, ivo: Crew, lena: Crew) -> None:
    fill(engine, ivo, "torque", "measurement", "link", hours=1)
    ivo.post("records/check/dead-grid", value="230", sure="yes")
    ivo.post("records/setting/charge_a", value="300 A", sure="yes")
    ivo.post("records/step/start-dead", could_not="no tool")
    for station in STATION_IDS:
        page = lena.get(station)
        ids = re.findall(r'\sid="([^"]*)"', page)
        assert [name for name, number in Counter(ids).items() if number > 1] == [], station
        for target in set(re.findall(r'<label[^>]*\sfor="([^"]*)"', page)):
            assert target in ids, (station, target)


def offered(crew: Crew, station: str) -> set[str]:
    """The acts that a page offers to record."""
    return set(re.findall(rf'action="/jobs/{crew.job}/records/([^"]+)"', crew.get(station)))


def test_who_does_none_of_it_reads_along(crew: Callable[[str], Crew], ivo: Crew) -> None:
    abel = crew("abel")
    abel.job = ivo.job
    for station in ("wire", "links", "sensing", "prove", "power-up", "settings", "live-checks"):
        assert offered(abel, station) == set()
        assert "You are signed in as apprentice: you read along." in abel.get(station)
        assert "you read along" not in ivo.get(station)
    assert "you read along" not in abel.get("bank")
    assert "Take it in hand" in ivo.get("wire")
    assert "Take it in hand" not in abel.get("wire")
    hand = abel.client.get(f"/jobs/{abel.job}/wire/{LUG}").text
    assert "Recorded by an installer" in hand
    assert "torque-form" not in hand
    assert "look-open" in "".join(offered(ivo, "prove"))


def test_a_mark_is_asked_for_when_its_day_is_over(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, "torque", hours=25, but=(LUG,))
    assert ivo.post(f"records/torque/{LUG}", **GOOD).status_code < 400
    assert "due " in ivo.get("wire")
    marks = {act for act in offered(ivo, "wire") if act.startswith("recheck/")}
    assert marks
    assert f"recheck/{LUG}" not in marks
    lug, asked = min(marks), ivo.get("wire").count("Mark unmoved")
    moved = ivo.post(f"records/{lug}", answer="no").text
    # A lug whose mark has moved is tightened again before anybody looks at its mark.
    assert "without a good record." in moved
    assert moved.count("Mark unmoved") == asked - 1


def test_a_signature_is_offered_when_nothing_is_missing(lena: Crew) -> None:
    assert "It is signed by a licence holder when nothing is missing." in lena.get("hand-over")
    assert offered(lena, "hand-over") == set()
    assert "things are missing" in lena.post("records/sign-off/job", number="L-123").text


def test_what_speaks_against_a_tool_is_said_before_it_is_used(petra: Crew, ivo: Crew) -> None:
    assert '<option value="MM-1">Multimeter MM-1</option>' in ivo.get("prove")
    assert '<option value="">instrument</option>' in ivo.get("prove")
    petra.edit("tools.MM-1.rated_v", "300")
    # On the strings alone, which are above it; the terminals are dead.
    assert ivo.get("prove").count("Multimeter MM-1, only to 300 V") == 2
    petra.edit("tools.MM-1.calibrated_to", "2026-02-28", kind="text")
    assert "Multimeter MM-1, calibration over since 2026-02-28" in ivo.get("prove")
    hand = ivo.client.get(f"/jobs/{ivo.job}/wire/{LUG}").text
    assert "Torque driver TD-1, cal. to 2027-05-31" in hand
    petra.edit("tools.TD-1.high_nm", "6")
    assert "Torque driver TD-1, cal. to 2027-05-31, not in its range" in ivo.client.get(f"/jobs/{ivo.job}/wire/{LUG}").text


def test_what_could_not_be_done_stands_at_its_station(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, "torque", "measurement", "link", "setting", hours=1)
    ivo.post("records/step/start-dead")
    for act, station in (
        ("setting/charge_a", "settings"),
        ("step/on-bat-1", "power-up"),
        ("off/all.switches", "power-up"),
        ("ritual/off", "links"),
        ("check/dead-dc", "prove"),
    ):
        why = f"no key for {act}"
        assert send(ivo, act, could_not="could not be done", reason=why).status_code == 200, act
        assert f"ould not be done: {why}" in ivo.get(station), act


def test_a_battery_that_comes_later_is_not_the_one_that_was_taken_out(petra: Crew, ivo: Crew) -> None:
    assert send(ivo, "serial/bat-3", text="SN 4713").status_code == 200
    petra.post("list/remove", path="banks.bank.units", item="bat-3", station="bank")
    assert petra.post("list/add", path="banks.bank.units", station="bank").status_code == 200
    page = ivo.get("wire")
    assert "SN 4713" not in page
    assert 'id="serial-bat-4"' in page
    assert 'id="serial-bat-3"' not in page


def test_what_was_read_of_an_act_that_is_none_any_more_stays_in_sight(petra: Crew, ivo: Crew) -> None:
    assert send(ivo, "check/voc-PV2", value="-300").status_code == 200
    petra.post("list/remove", path="strings", item="W1", station="strings")
    page = ivo.get("hand-over")
    assert "Found wrong, and what became of it" in page
    assert f'href="/jobs/{ivo.job}/acts/check/voc-PV2"' in page
    gone = history(ivo, "check/voc-PV2")
    assert "That is no act of this plan any more. What was recorded of it stays." in gone
    assert "reversed: -300 V is the wrong way round" in gone
    assert ivo.client.get(f"/jobs/{ivo.job}/acts/check/never").status_code == 404


def test_a_record_that_was_made_under_an_earlier_plan_says_so(petra: Crew, ivo: Crew) -> None:
    assert 'data-revision="1"' in ivo.get("wire")
    petra.post("things/fit", path="things.inverter.card", value="plover-6p")
    assert send(ivo, "inside/inverter", answer="yes", under="1").status_code == 200
    assert send(ivo, "serial/inverter", text="SN 9", under="2").status_code == 200
    made = {r["act"]: r for r in map(json.loads, ivo.client.get(f"/jobs/{ivo.job}/download/records.jsonl").text.splitlines())}
    assert made["inside:inverter"]["revision"] == 1
    assert made["serial:inverter"]["revision"] == 2
    assert "done with plover-6s at inverter; plover-6p stands there now" in ivo.get("wire")
    # A revision that is none is that of today.
    for odd in ("0", "77", "-1", "one", "9" * 30):
        assert send(ivo, "inside/inverter", answer="yes", under=odd).status_code == 200
    assert "stands there now" not in ivo.get("wire")


def test_so_does_one_that_comes_in_by_the_api_or_in_a_file(petra: Crew, ivo: Crew) -> None:
    petra.post("things/fit", path="things.inverter.card", value="plover-6p")
    at = (datetime.now(UTC) - timedelta(minutes=5)).isoformat()
    every = {"done_at": at, "by": "Ivo", "doer": "ivo", "role": "installer", "kind": "words", "format": "gumboot.record/1"}
    rows = [{**every, "id": f"{ivo.job}-{n}", "act": "serial:inverter", "text": f"SN {n}", "revision": 1} for n in (1, 2)]
    sent = ivo.client.post(f"/api/jobs/{ivo.job}/records", json=rows[0], headers={"X-CSRF-Token": ivo.csrf})
    assert sent.status_code == 201
    assert "stands there now" in history(ivo, "serial/inverter")
    file = (json.dumps(rows[1]) + "\n").encode()
    answer = ivo.client.post(f"/jobs/{ivo.job}/records-file", data={"csrf": ivo.csrf}, files={"file": ("r.jsonl", file)})
    assert answer.status_code == 200
    stood = [r["stood"]["cards"] for r in map(json.loads, ivo.client.get(f"/jobs/{ivo.job}/download/records.jsonl").text.splitlines())]
    assert stood == [{"inverter": "plover-6s"}] * 2


def test_a_file_of_another_house_is_refused_line_by_line(petra: Crew, ivo: Crew, crew: Callable[[str], Crew]) -> None:
    assert send(ivo, "serial/inverter", text="SN 1").status_code == 200
    file = ivo.client.get(f"/jobs/{ivo.job}/download/records.jsonl").content
    other = "d1-saltmarsh-mistakes"
    answer = ivo.client.post(f"/jobs/{other}/records-file", data={"csrf": ivo.csrf}, files={"file": ("r.jsonl", file)})
    assert answer.status_code == 200
    assert "this record stands at Saltmarsh Cottage: the file is of that house" in answer.text
    assert "SN 1" not in ivo.client.get(f"/jobs/{other}/live-checks").text
    table = ivo.client.get(f"/jobs/{ivo.job}/download/records.csv").content
    answer = ivo.client.post(f"/jobs/{other}/records-file", data={"csrf": ivo.csrf}, files={"file": ("r.csv", table)})
    assert "the file is of that house" in answer.text


def test_the_reading_that_a_step_rests_on_is_next_before_the_step(engine: Engine, ivo: Crew) -> None:
    assert "Next: Everything open, locked and proved dead (held)" in ivo.get("power-up")
    fill(engine, ivo, "torque", "measurement", "link", "setting", hours=1, but=("island-volts",))
    for step in ("start-dead", "on-bat-1", "on-bat-2", "on-bat-3", "precharge", "battery-switch", "inverter-on", "soc-agrees"):
        assert send(ivo, f"step/{step}").status_code == 200, step
    assert re.search(r'href="#check-island-volts">Next: ', ivo.get("power-up"))
    assert send(ivo, "check/island-volts", value="240").status_code == 200
    assert re.search(r'href="#step-island-volts">Next: ', ivo.get("power-up"))


def test_nor_is_an_inverter_that_comes_later(petra: Crew, ivo: Crew) -> None:
    assert petra.post("things/another", like="inverter", station="survey").status_code == 200
    assert send(ivo, "serial/inverter-2", text="SN 22").status_code == 200
    assert petra.post("things/fit", path="things.inverter-2.card", value="").status_code == 200
    assert 'id="serial-inverter-2"' not in ivo.get("wire")
    assert petra.post("things/another", like="inverter", station="survey").status_code == 200
    page = ivo.get("wire")
    assert 'id="serial-inverter-3"' in page
    assert "SN 22" not in page


def test_the_pack_prints_the_pictures_that_nobody_took_back(ivo: Crew) -> None:
    def sent(content: bytes, act: str) -> str:
        number = str(uuid.uuid4())
        data = {"csrf": ivo.csrf, "record_id": number}
        answer = ivo.client.post(
            f"/jobs/{ivo.job}/photos/{act}", data=data, files={"file": ("p.png", content)}, headers={"Accept": "application/json"}
        )
        assert answer.status_code == 200
        return number

    def printed() -> PdfReader:
        return PdfReader(BytesIO(ivo.client.get(f"/jobs/{ivo.job}/download/pack.pdf").content))

    def shown(reader: PdfReader) -> int:
        return len({image.data for page in reader.pages for image in page.images})

    assert (shown(printed()), "Pictures" in printed().pages[-1].extract_text()) == (0, False)
    sent(picture(shade=40), f"torque/{LUG}")
    slip = sent(picture(shade=200), "photo/inverter")
    both = printed()
    assert shown(both) == 2
    assert "Ivo Installer" in both.pages[-1].extract_text()
    assert "Photo inside" in both.pages[-1].extract_text()
    ivo.post("records/photo/inverter", take_back=slip)
    assert shown(printed()) == 1
