"""Recording: torque, measurements, steps, settings, holds, sign-off; who may, and in what order."""

from __future__ import annotations

import io
import json
import re
import uuid
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import pytest
from pypdf import PdfReader
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from gumboot.core.acts import Kind, acts
from gumboot.core.standing import stand
from gumboot.store import records
from tests.core.test_standing import everything, is_kind
from tests.crew import typed_of
from tests.helpers import plan_of
from tests.web.conftest import Crew

LUG = "inverter.battery.pos.bat-main"
GOOD = {"reached": "97", "unit": "lbf in", "tool": "TW-2", "tug": "held"}


def test_recording_a_torque_leads_to_the_next_terminal(ivo: Crew) -> None:
    answer = ivo.post(f"records/torque/{LUG}", fragment=False, **GOOD)
    assert answer.status_code == 200
    assert answer.url.path.endswith("inverter.battery.neg.bat-main")
    assert "1/105" in ivo.get("wire")


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"reached": "97", "unit": "lbf ft"}, "outside"),
        ({"reached": "80"}, "outside"),
        ({"tool": "TD-0"}, "out of calibration"),
        ({"tug": "moved"}, "no tug test"),
    ],
)
def test_a_bad_torque_is_recorded_and_stays_open(ivo: Crew, change: dict[str, str], words: str) -> None:
    page = ivo.post(f"records/torque/{LUG}", fragment=False, **{**GOOD, **change, "sure": "yes"})
    assert page.url.path.endswith(LUG)
    assert words in page.text.lower()
    assert "0/105" in ivo.get("wire")


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"reached": ""}, "not a number"),
        ({"reached": "0"}, "above 0"),
        ({"tool": ""}, "choose the torque tool"),
        ({"unit": "kg"}, "wrong kind"),
        ({"reached": "snug"}, "not a number"),
    ],
)
def test_a_refused_torque_keeps_what_was_typed(ivo: Crew, change: dict[str, str], words: str) -> None:
    answer = ivo.post(f"records/torque/{LUG}", fragment=False, **{**GOOD, **change, "note": "left stud"})
    assert answer.status_code == 422
    assert words in answer.text
    assert 'value="left stud"' in answer.text
    assert "0/105" in ivo.get("wire")


def test_a_correction_is_a_new_record(ivo: Crew) -> None:
    ivo.post(f"records/torque/{LUG}", **{**GOOD, "reached": "80"})
    ivo.post(f"records/torque/{LUG}", **GOOD)
    rows = ivo.client.get(f"/jobs/{ivo.job}/download/records.csv").text.splitlines()
    assert len(rows) == 3
    assert rows[2].endswith(rows[1].split(",")[0])


def test_a_record_kept_on_the_phone_is_sent_once(ivo: Crew) -> None:
    identity = str(uuid.uuid4())
    for _ in range(2):
        answer = ivo.client.post(
            f"/jobs/{ivo.job}/records/torque/{LUG}",
            data={"csrf": ivo.csrf, "record_id": identity, **GOOD},
            headers={"Accept": "application/json"},
        )
        assert answer.status_code == 200
        assert answer.json()["next"]
    assert len(ivo.client.get(f"/jobs/{ivo.job}/download/records.csv").text.splitlines()) == 2


@pytest.mark.parametrize("name", ["petra", "abel"])
def test_planner_and_apprentice_do_not_record(crew: Callable[[str], Crew], name: str) -> None:
    answer = crew(name).post(f"records/torque/{LUG}", **GOOD)
    assert answer.status_code == 403
    assert "a person with the role installer or licence holder does this" in answer.text


def test_an_apprentice_looks_and_rehearses_but_decides_nothing(crew: Callable[[str], Crew]) -> None:
    abel = crew("abel")
    answer = abel.edit("strings.S1.modules", "9")
    assert answer.status_code == 403
    assert answer.text.startswith('<div id="bench"')
    assert "signed in as apprentice" in answer.text
    assert abel.post("undo").status_code == 403
    assert abel.post("redo").status_code == 403
    assert (
        abel.client.patch(
            f"/api/jobs/{abel.job}", json={"path": "title", "value": "x", "base": 1}, headers={"X-CSRF-Token": abel.csrf}
        ).status_code
        == 403
    )
    assert abel.revision() == 1
    assert "Rehearsal" in abel.client.get(f"/jobs/{abel.job}/power-up?moves=bat-1").text


def test_recheck_before_24_h_is_refused(ivo: Crew) -> None:
    ivo.post(f"records/torque/{LUG}", **GOOD)
    answer = ivo.post(f"records/recheck/{LUG}", ok="yes")
    assert answer.status_code == 422
    assert "not over yet" in answer.text


def test_measurement_in_band_and_out(ivo: Crew) -> None:
    assert "in band" in ivo.post("records/measurement/dead-dc", value="0.3").text
    assert "Hold: 48 V is above 5 V" in ivo.post("records/measurement/dead-dc", value="48").text
    assert ivo.post("records/measurement/dead-dc", value="none").status_code == 422
    assert ivo.post("records/measurement/dead-dc", value="3 A").status_code == 422
    assert ivo.post("records/measurement/look-open").status_code == 422
    assert ivo.post("records/measurement/nothing", value="1").status_code == 404


def test_only_a_licence_holder_clears_a_hold_and_only_with_a_reason(ivo: Crew, lena: Crew) -> None:
    assert lena.post("records/hold/dead-dc", reason="meter was on the wrong range").status_code == 422
    ivo.post("records/measurement/dead-dc", value="48")
    assert ivo.post("records/hold/dead-dc", reason="meter was on the wrong range").status_code == 403
    assert lena.post("records/hold/dead-dc", reason="ok").status_code == 422
    page = lena.post("records/hold/dead-dc", reason="meter was on the wrong range").text
    assert "Hold cleared by Lena Licence: meter was on the wrong range" in page


def test_power_up_steps_keep_their_order(ivo: Crew) -> None:
    early = ivo.post("records/done/grid-breaker")
    assert early.status_code == 422
    assert "Held by" in early.text
    assert ivo.post("records/done/start-dead").status_code == 422
    for check, value in (
        ("dead-grid", "0"),
        ("dead-dc", "0"),
        ("earth-pv-pv1", "0.2"),
        ("earth-pv-pv2", "0.2"),
        ("earth-bat-main", "0.2"),
        ("earth-grid", "0.2"),
        ("earth-backup", "0.2"),
    ):
        ivo.post(f"records/measurement/{check}", value=value)
    ivo.post("records/measurement/look-open", answer="yes")
    assert "Rapid-shutdown loop" in ivo.post("records/done/start-dead").text
    ivo.post("records/bridge/shutdown.inverter", answer="yes")
    ivo.post("records/lead/shutdown.inverter")
    ivo.post("records/ring/shutdown.inverter", **{"pin-1": "1", "pin-2": "2"})
    assert "bar behind its breaker" in ivo.post("records/done/start-dead").text
    plan = plan_of({"preferences.units": "SI"})
    for joint in (act for act in acts(plan).values() if act.kind is Kind.JOINT):
        typed = typed_of(plan, stand(plan, [], datetime.now(UTC)), joint)
        assert ivo.post(f"records/joint/{joint.name}", **typed).status_code == 200
    assert ivo.post("records/done/start-dead").status_code == 200
    assert ivo.post("records/done/on-bat-1").status_code == 422
    for unit, volts in (("bat-1", "52.1"), ("bat-2", "52.2"), ("bat-3", "52.3")):
        ivo.post(f"records/measurement/pack-{unit}", value=volts)
    held = ivo.post("records/done/on-bat-1")
    assert "terminations without a good record" in held.text
    assert "links: every battery breaker off" in held.text


def fill(engine: Engine, crew: Crew, *kinds: str, but: tuple[str, ...] = (), hours: float = 30) -> None:
    """Write the good records of some kinds, all of them without a kind, as a crew would have made them some hours ago."""
    plan = plan_of({"preferences.units": "SI"})
    with Session(engine) as db:
        for n, r in enumerate(everything(plan, datetime.now(UTC) - timedelta(hours=hours))):
            if (not kinds or is_kind(r, *kinds)) and r.name not in but:
                made = r.model_copy(update={"id": f"{crew.job}-{n}"})
                records.add_record(db, crew.job, records.Sent(made.id, made.kind, made.act, {}, made.by), made)
        db.commit()


def test_an_edit_or_a_reading_that_turns_bad_closes_the_next_step(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, "torque", "measurement", "link", "setting", hours=1)
    for step in (
        "start-dead",
        "on-bat-1",
        "on-bat-2",
        "on-bat-3",
        "precharge",
        "battery-switch",
        "inverter-on",
        "soc-agrees",
        "island-volts",
    ):
        assert ivo.post(f"records/done/{step}").status_code == 200, step
    assert 'data-source="battery"' in ivo.get("power-up")
    ivo.edit("settings.charge_a", "250", unit="A")
    stopped = ivo.post("records/done/sub-main")
    assert stopped.status_code == 422
    assert "Held by stop:" in stopped.text
    ivo.post("undo")
    ivo.post("records/measurement/dead-dc", value="-52")
    failed = ivo.post("records/done/sub-main")
    assert "Held by failed reading: DC busbars" in failed.text
    ivo.post("records/measurement/dead-dc", value="0.2")
    assert ivo.post("records/done/sub-main").status_code == 200


def read(*runs: tuple[float, float]) -> dict[str, str]:
    """What two channels show with nothing on, and with a load on each leg in turn."""
    names = ("CT1", "CT2")
    found = {f"before-{name}": "0" for name in names}
    return found | {f"l{leg}-{name}": f"{watts}" for leg, run in enumerate(runs, 1) for name, watts in zip(names, run, strict=True)}


def test_pv_and_export_wait_for_the_meter_test_after_the_grid(engine: Engine, ivo: Crew) -> None:
    loose = ivo.post("records/ct/test", **read((1500, 0), (0, 600)))
    assert loose.status_code == 422
    assert "CT1 closed round L1" in loose.text
    fill(engine, ivo, "link", hours=1)
    early = ivo.post("records/ct/test", **read((1500, 0), (0, 600)))
    assert early.status_code == 422
    assert "Held by the step before: Close the grid breaker" in early.text
    fill(engine, ivo, "torque", "measurement", "setting", "done", but=("pv-switch", "export"), hours=1)
    assert "the meter test with PV off is not recorded" in ivo.post("records/done/pv-switch").text
    ivo.post("records/ct/test", **read((0, -1500), (-600, 0)))
    assert "meter test: CT1 sits on L2" in ivo.post("records/done/pv-switch").text
    ivo.post("records/ct/test", **read((1500, 0), (0, 600)))
    assert ivo.post("records/done/pv-switch").status_code == 200


def test_live_checks_are_refused_before_their_step(ivo: Crew) -> None:
    for check, typed in (("outage", {"answer": "yes"}), ("soc-agree", {"value": "41", "second": "41"}), ("island-volts", {"value": "240"})):
        refused = ivo.post(f"records/measurement/{check}", **typed)
        assert refused.status_code == 422, check
        assert "Held by" in refused.text
    assert ivo.post("records/serial/bat-1", text="SN 4711").status_code == 200
    assert "SN 4711" in ivo.get("wire")


def test_two_displays_are_two_readings(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, but=("soc-agree",))
    assert "above 1 %" in ivo.post("records/measurement/soc-agree", value="41", second="71").text
    assert "battery shows:" in ivo.post("records/measurement/soc-agree", value="41", second="").text
    assert "is no state of charge" in ivo.post("records/measurement/soc-agree", value="-1", second="41").text
    moments = {"value_ms": "1790000000000", "second_ms": "1790000121000"}
    assert "read 2 min apart" in ivo.post("records/measurement/soc-agree", value="41", second="41", **moments).text
    timed = ivo.post("records/measurement/soc-agree", value="41", second="41", **{**moments, "value_ms": "1790000099000"}).text
    at = re.findall(r"41 % at (\d\d:\d\d:\d\d)", timed)
    assert len(at) == 2
    assert (datetime.strptime(at[1], "%H:%M:%S") - datetime.strptime(at[0], "%H:%M:%S")).seconds == 22  # noqa: DTZ007 - two of one clock
    # What is no time is none; the readings are kept.
    for odd in ("x", "", "9" * 15):
        assert ivo.post("records/measurement/soc-agree", value="41", second="41", value_ms=odd, second_ms="1").status_code == 200
    good = ivo.post("records/measurement/soc-agree", value="41", second="41 %")
    assert "in band" in good.text


@pytest.mark.parametrize(
    ("check", "typed", "words"),
    [
        ("dead-dc", "-48.2", "-48.2 V, whatever its sign, is above 5 V"),
        ("voc-PV1", "-421", "reversed"),
        ("earth-grid", "-0.1", "null the test leads"),
        ("iso-PV1", ">999", "in band"),
        ("iso-PV1", "OL", "in band"),
        ("earth-grid", "OL", "beyond the instrument"),
    ],
)
def test_readings_as_instruments_show_them(ivo: Crew, check: str, typed: str, words: str) -> None:
    assert words in ivo.post(f"records/measurement/{check}", value=typed).text


def test_settings_as_left(ivo: Crew) -> None:
    assert "differs from the sheet" in ivo.post("records/setting/charge_a", value="90").text
    assert "differs from the sheet" not in ivo.post("records/setting/charge_a", value="120 A").text
    assert ivo.post("records/setting/charge_a", value=" ").status_code == 422


def test_a_difference_is_agreed_by_a_licence_holder(ivo: Crew, lena: Crew) -> None:
    assert "at least 10 characters" in ivo.post("records/setting/charge_a", value="110", reason="less").text
    assert "a licence holder agrees to it" in ivo.post("records/setting/charge_a", value="110", reason="ten ampere below the sheet").text
    found = re.search(r'name="record" value="([^"]+)"', lena.client.get(f"/jobs/{ivo.job}/settings").text)
    assert found
    lena.job = ivo.job
    assert ivo.post("records/setting-agreed/charge_a", record=found.group(1)).status_code == 403
    assert "agreed by Lena Licence" in lena.post("records/setting-agreed/charge_a", record=found.group(1)).text
    ivo.post("records/setting/charge_a", value="100", reason="twenty below the sheet")
    assert "recorded anew meanwhile" in lena.post("records/setting-agreed/charge_a", record=found.group(1)).text


def test_programming_ritual_refuses_the_wrong_order(ivo: Crew) -> None:
    answer = ivo.post("records/ritual/address.bat-1")
    assert answer.status_code == 422
    assert "Held by" in answer.text
    assert "bat-1: protocol chosen on CAN" in answer.text
    # The name of the task as earlier versions sent it.
    assert ivo.post("records/link/off").status_code == 200
    assert ivo.post("records/ritual/program.bat-1").status_code == 200
    other = ivo.post("records/ritual/program.bat-2")
    assert other.status_code == 422
    # What its display shows is typed, and judged: another protocol holds the next task.
    assert ivo.post("records/told/bat-1.can", protocol="two").status_code == 422
    assert "protocol 1 shown, 3 wanted" in ivo.post("records/told/bat-1.can", protocol="1").text
    assert ivo.post("records/ritual/address.bat-1").status_code == 422
    plan = plan_of({"preferences.units": "SI"})
    standing = stand(plan, [], datetime.now(UTC))
    for act in acts(plan).of("links"):
        word, _, name = act.id.partition(":")
        answer = ivo.post(f"records/{word}/{name}", **typed_of(plan, standing, act))
        assert answer.status_code == 200, act.id
    assert "clear" in ivo.get("links")


def test_a_lead_rung_out_wrong_names_the_crossed_cores_and_holds_first_power(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, "torque", "measurement", "link", "setting", but=("battery.bank",), hours=1)
    held = ivo.post("records/ring/battery.bank", **{"pin-1": "2", "pin-4": "8", "pin-5": "7"})
    assert held.status_code == 422
    assert "Held by" in held.text
    assert ivo.post("records/lead/battery.bank").status_code == 200
    for typed in ({"pin-1": "2", "pin-4": "8"}, {"pin-1": "2", "pin-4": "8", "pin-5": "9"}, {"pin-1": "2", "pin-4": "8", "pin-5": ""}):
        refused = ivo.post("records/ring/battery.bank", **typed)
        assert refused.status_code == 422
        assert "beeps at: choose 1, 2, 3" in refused.text
    page = ivo.post("records/ring/battery.bank", **{"pin-1": "2", "pin-4": "8", "pin-5": "7"}).text
    assert "Blue and white/blue are crossed: 4 beeped at 8, 5 at 7. The bus does not speak." in page
    assert 'aria-label="Lead L1, held: not as it should be"' in page
    assert ivo.post("records/done/start-dead").status_code == 200
    assert "crossed" in ivo.post("records/done/on-bat-1").text
    # Made again it is rung out again.
    assert ivo.post("records/ring/battery.bank", **{"pin-1": "2", "pin-4": "7", "pin-5": "8"}).status_code == 200
    assert 'aria-label="Lead L1, proved"' in ivo.get("links")
    assert ivo.post("records/lead/battery.bank").status_code == 200
    assert 'aria-label="Lead L1, made, not rung out"' in ivo.get("links")
    assert "lead Battery lead was landed anew since" in ivo.get("links")


def test_ct_readings_are_judged(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, but=("ct-test",))
    base = {"before-CT1": "310", "before-CT2": "0.2 kW", "load-l1": "1.5 kW"}
    reversed_ = {"l1-CT1": "-1180", "l1-CT2": "0.2 kW", "l2-CT1": "320", "l2-CT2": "800 W"}
    page = ivo.post("records/ct/test", **base, **reversed_).text
    assert "CT1 is on L1 but its arrow points the other way" in page
    assert "Turn CT1 round; leave it on L1. Then test CT1 again." in page
    assert "CT2 is right" in page
    assert "The inverter acts on" in page
    # What that instruction touches is asked for, the rest where more was touched.
    first, _, rest = page.partition("Another core was touched as well")
    assert 'name="l1-CT1"' in first
    assert 'name="l1-CT2"' not in first
    assert 'name="l1-CT2"' in rest
    refused = ivo.post("records/ct/test", **base, **{**reversed_, "l2-CT2": "blank"})
    assert refused.status_code == 422
    assert 'value="blank"' in refused.text
    assert ivo.post("records/ct/test", **{"l1-CT1": "1500", "l2-CT1": "600"}).status_code == 422
    # Of a core that is named all is typed; with "all" of each.
    half = ivo.post("records/ct/test", **{"before-CT1": "0", "l1-CT1": "1500", "l2-CT1": "0", "l1-CT2": "0"})
    assert (half.status_code, 'id="problem-before-CT2"' in half.text) == (422, True)
    every = ivo.post("records/ct/test", **{"before-CT1": "0", "l1-CT1": "1500", "l2-CT1": "0", "all": "yes"})
    assert (every.status_code, 'id="problem-before-CT2"' in every.text) == (422, True)
    # What comes in late of the other core alone is kept: this one was tested before.
    assert ivo.post("records/ct/test", **{"before-CT2": "200", "l1-CT2": "200", "l2-CT2": "800"}).status_code == 200
    # One core again: the other stays as it was found.
    mended = ivo.post("records/ct/test", **{"before-CT1": "310", "l1-CT1": "1805", "l2-CT1": "300"}).text
    assert "The meter tells the truth." in mended


def test_a_phone_of_an_earlier_version_sends_all_loads_at_once(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, but=("ct-test",))
    kept = {"before-CT1": "310", "before-CT2": "200", "reading-CT1": "1810", "reading-CT2": "800", "load-l1": "1500", "load-l2": "600"}
    assert "The meter tells the truth." in ivo.post("records/ct/test", **kept).text
    assert ivo.post("records/ct/test", **{**kept, "reading-CT2": ""}).status_code == 422


def test_sign_off_needs_a_licence_holder_and_nothing_missing(ivo: Crew, lena: Crew) -> None:
    assert ivo.post("records/sign-off/job", number="L-123").status_code == 403
    answer = lena.post("records/sign-off/job", number="L-123")
    assert answer.status_code == 422
    assert "things are missing" in answer.text


def test_the_pack_prints_what_is_there_and_what_is_missing(ivo: Crew) -> None:
    ivo.post(f"records/torque/{LUG}", **GOOD)
    answer = ivo.client.get(f"/jobs/{ivo.job}/download/pack.pdf")
    assert answer.headers["content-type"] == "application/pdf"
    reader = PdfReader(io.BytesIO(answer.content))
    text = " ".join(" ".join(page.extract_text() for page in reader.pages).split())
    for words in (
        "Saltmarsh Cottage",
        "Not signed",
        "licensed person",
        "53 of 54 terminations",
        "Shutting down",
        "TW-2",
        "455.5 V",
        "2/0 AWG",
        "Cut at once",
        "CAN H",
    ):
        assert words in text, words
    assert len(reader.pages) >= 6


def test_a_whole_job_is_signed_and_a_later_edit_shows(engine: Engine, lena: Crew) -> None:
    fill(engine, lena)
    assert "Nothing is missing" in lena.get("hand-over")
    assert "Give your licence number" in lena.post("records/sign-off/job", number="").text
    before = lena.seen()
    assert lena.post("records/serial/bat-1", text="SN 77").status_code == 200
    stale = lena.post("records/sign-off/job", number="L-123", **before)
    assert "since this page was made" in stale.text
    assert "since this page was made" in lena.post("records/sign-off/job", number="L-123", revision="2").text
    assert "Signed by Lena Licence" in lena.post("records/sign-off/job", number="L-123").text
    page = lena.edit("backup.bypass", "breaker without interlock", kind="choice", station="hand-over").text
    assert "stop at power-up" in page
    assert "the plan is at revision 2; signed was revision 1" in page


@pytest.mark.parametrize(("screw", "house_sizes", "says"), [("socket 1/4", True, "by table"), ("slot_small", False, "ask the maker")])
def test_a_torque_that_is_not_the_makers_is_told_in_the_hand(petra: Crew, ivo: Crew, screw: str, house_sizes: bool, says: str) -> None:
    """The card in the hand never calls a screw a spring, and says whose torque it shows."""
    own = f"own-{uuid.uuid4().hex[:8]}"
    card = json.loads(petra.client.get("/cards/larder-8/card.json").text)
    card |= {"id": own, "title": "Own board"}
    for terminal in (t for port in card["ports"] for t in port["terminals"]):
        terminal |= {"torque_nm": None, "screw": screw}
    sent = petra.client.post(
        "/cards", data={"csrf": petra.csrf}, files={"file": ("c.json", json.dumps(card).encode())}, follow_redirects=False
    )
    assert sent.status_code == 303
    petra.post("things/fit", path="things.sub-board.card", value=own)
    # No slotted screw so small takes 1 AWG: Annex I is silent.
    petra.edit("runs.backup.installed_size", "6 AWG" if house_sizes else "1 AWG", kind="text")
    end = "sub-board.main.l1.backup"
    hand = ivo.client.get(f"/jobs/{petra.job}/wire/{end}").text
    assert "spring terminal" not in hand
    assert "The maker gives no torque for sub-board MAIN L1." in hand
    assert ("Record torque" in hand) == house_sizes
    assert ("Not to be landed yet" in hand) == (not house_sizes)
    assert says in petra.client.get(f"/jobs/{petra.job}/wire").text
    answer = ivo.client.post(
        f"/jobs/{ivo.job}/records/torque/{end}",
        data={
            "csrf": ivo.csrf,
            "record_id": str(uuid.uuid4()),
            "tug": "held",
            "pressed": "yes",
            "reached": "22.6",
            "unit": "N m",
            "tool": "TD-1",
        },
        headers={"Accept": "application/json"},
    )
    assert answer.status_code == (200 if house_sizes else 422)
    assert house_sizes or "ask the maker before landing it" in answer.text
    rows = petra.client.get(f"/jobs/{petra.job}/download/terminations.csv").text.splitlines()
    assert next(row for row in rows if row.startswith(f"{end},")).endswith(",table" if house_sizes else ",unknown")
