"""May this record be made, by this person, now? Each refusal, each question, and what a kept record carries."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.core.acts import State
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, parse_record
from gumboot.core.recording import Person, Verdict, may_record
from gumboot.core.recording.plausible import slip
from gumboot.core.standing import Standing, asked_text, stand
from tests.crew import IVO, LENA, TOOL, record_of, said
from tests.helpers import plan_of

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)
LUG = "torque:inverter.battery.pos.bat-main"
PLAN = plan_of()
METER = {"id": "MM-1", "title": "Multimeter MM-1", "calibrated_to": "2027-04-30"}
EMPTY = stand(PLAN, [], NOW, 1)


def made(act: str, at: datetime = NOW, who: Person = IVO, **more: Any) -> AnyRecord:
    return parse_record({**said(act, at, who), **more})


def landed(**more: Any) -> dict[str, Any]:
    return {"kind": "landing", "reached_nm": 11.0, "tool": TOOL, "tug": True, "size": "2/0 AWG", **more}


def meter(**more: Any) -> AnyRecord:
    both = {"CT1": 310.0, "CT2": 310.0}
    return made("meter:ct-test", **{"kind": "meter", "before": both, "after": both, "loads": {"L1": 1500.0}, **more})


def asked(record: AnyRecord, standing: Standing = EMPTY, who: Person | None = None, *, plan: Plan = PLAN, sure: bool = False) -> Verdict:
    person = who or (IVO if record.doer == "ivo" else LENA)
    return may_record(plan, standing, record, person, NOW, sure=sure)


def after(*records: AnyRecord, plan: Plan = PLAN) -> Standing:
    return stand(plan, records, NOW, 1)


def kept(record: AnyRecord, standing: Standing = EMPTY) -> AnyRecord:
    verdict = asked(record, standing, sure=True)
    assert verdict.record is not None, verdict.text
    return verdict.record


def everything(*, but: str = "") -> list[AnyRecord]:
    """All of the house on record, hour after hour, a day before now."""
    records, at = list[AnyRecord](), NOW - timedelta(hours=40)
    for act in EMPTY.acts.values():
        if act.is_derived or act.is_optional or act.kind == "sign-off" or act.id == but:
            continue
        records.append(record_of(PLAN, EMPTY, act, at + timedelta(hours=25 if act.kind == "recheck" else 0)))
    return records


@pytest.mark.parametrize(
    ("record", "who", "outcome", "words"),
    [
        (made(LUG, **landed()), Person("abel", "Abel", "apprentice"), "forbidden", "This was done by ivo, and abel is signed in."),
        (
            made(LUG, who=Person("abel", "Abel", "apprentice"), **landed()),
            Person("abel", "Abel", "apprentice"),
            "forbidden",
            "you are apprentice",
        ),
        (made("clear:dead-dc", kind="clearance", reason="looked at again"), IVO, "forbidden", "with the role licence holder"),
        (made("sign-off:job", kind="sign-off", licence="L-1"), IVO, "forbidden", "with the role licence holder"),
        (made("torque:nothing", **landed()), IVO, "unknown", "no act of this plan"),
        (made("check:pack-spread", kind="reading", value=0.1), IVO, "unknown", "no act of this plan"),
        (made("plan:clear", kind="done"), IVO, "unknown", "no act of this plan"),
        (made(LUG, NOW + timedelta(minutes=2, seconds=1), **landed()), IVO, "refused", "dated in the future"),
        (made(LUG, NOW - timedelta(days=90, seconds=1), **landed()), IVO, "refused", "older than 90 days"),
        (made(LUG, kind="answer", yes=True), IVO, "refused", "is not recorded by a answer"),
        (made(LUG, **landed(reached_nm=None)), IVO, "refused", "give a value above 0 N m"),
        (made(LUG, **landed(tool=None)), IVO, "refused", "choose the torque tool"),
        (made(LUG, **landed(tool={**TOOL, "low": 11.1})), IVO, "refused", "Wrench reads from 11.1 N m; 11 N m is outside that."),
        (made(LUG, **landed(tool={**TOOL, "high": 10.9})), IVO, "refused", "Wrench reads 0 to 10.9 N m"),
        (made(LUG, **landed(tool={**TOOL, "id": "TW-77"})), IVO, "refused", "is no tool of this job"),
        (made(LUG, **landed(tool={**TOOL, "calibrated_to": "2027-04-01"})), IVO, "refused", "ends 2027-03-31 in this job"),
        (made("check:earth-grid", kind="reading", value=0.1, tool={**TOOL, "id": "M-1"}), IVO, "refused", "is no tool of this job"),
        (
            made("check:voc-PV1", kind="reading", value=1000.1, cell_c=0.0, tool=METER),
            IVO,
            "refused",
            "rated for 1000 V, and 1000.1 V is above",
        ),
        (made("check:voc-PV1", kind="reading", value=-1000.1, cell_c=0.0, tool=METER), IVO, "refused", "Take its leads off"),
        (made("check:voc-PV1", kind="reading", value=400.0), IVO, "refused", "say at which the reading was taken"),
        (made("check:voc-PV1", kind="reading", value=400.0, cell_c=-40.1), IVO, "refused", "Write -40 to 90 °C"),
        (made("check:voc-PV1", kind="reading", value=400.0, cell_c=90.1), IVO, "refused", "Write -40 to 90 °C"),
        (meter(power_factor=0.19), IVO, "refused", "write 0.2 to 1"),
        (meter(power_factor=1.01), IVO, "refused", "write 0.2 to 1"),
        (meter(loads={"L1": -1.0}), IVO, "refused", "nothing or more"),
        (meter(after={"CT1": 1e6 + 1, "CT2": 910.0}), IVO, "refused", "at most 1e+06 W"),
        (meter(after={"CT1": 1810.0}), IVO, "refused", "Give what CT1, CT2 showed"),
        (meter(before=None), IVO, "refused", "Give what CT1, CT2 showed"),
        (made("check:earth-grid", kind="reading", value=-0.1), IVO, "refused", "null the test leads"),
        (made("check:earth-grid", kind="reading"), IVO, "refused", "Give what the instrument shows."),
        (made("check:soc-agree", kind="reading", value=0.0, shown=(41.0,)), IVO, "refused", "Both displays are read"),
        (made("check:soc-agree", kind="reading", value=0.0, shown=(41.0, 41.0), shown_at=(NOW,)), IVO, "refused", "of both or none"),
        (made("setting:charge_a", kind="left", as_left="110", reason="less"), IVO, "refused", "at least 10 characters"),
        (made("clear:dead-dc", who=LENA, kind="clearance", reason="looked at again"), LENA, "refused", "Measure it first"),
        (made(LUG, kind="could-not", what="could not be done"), IVO, "refused", "Say why"),
        (made("clear:dead-dc", who=LENA, kind="could-not", what="no tool"), LENA, "refused", "stays a hold"),
        (made("sign-off:job", who=LENA, kind="sign-off", licence="L1"), LENA, "refused", "Give your licence number."),
        (made("sign-off:job", who=LENA, kind="sign-off", licence="L-1"), LENA, "refused", "things are missing"),
        (made("step:grid-breaker", kind="done"), IVO, "refused", "Held by the step before"),
        (made("recheck:inverter.battery.pos.bat-main", kind="answer", yes=True), IVO, "refused", "24 hours are not over"),
    ],
)
def test_each_refusal_says_what_to_do(record: AnyRecord, who: Person, outcome: str, words: str) -> None:
    verdict = asked(record, EMPTY, who)
    assert (verdict.outcome, verdict.record) == (outcome, None)
    assert words in verdict.text


@pytest.mark.parametrize(
    "record",
    [
        made(LUG, **landed()),
        made(LUG, NOW + timedelta(minutes=2), **landed()),
        made(LUG, NOW - timedelta(days=90), **landed()),
        made(LUG, **landed(tool={**TOOL, "low": 11.0, "high": 11.0})),
        made(LUG, kind="could-not", what="snug only"),
        made(LUG, kind="could-not", what="could not be done", reason="stud is bent"),
        made("check:voc-PV1", kind="reading", value=400.0, cell_c=-40.0),
        made("check:voc-PV1", kind="reading", value=1000.0, cell_c=0.0, tool=METER),
        made("check:iso-PV1", kind="reading", value=900.0, tool=METER),
        made("check:voc-PV1", kind="reading", value=400.0, cell_c=90.0),
        made("check:earth-grid", kind="reading", over=True),
        made("check:earth-grid", kind="reading", value=0.0),
        made("off:all.switches", kind="done"),
    ],
)
def test_what_is_right_is_kept(record: AnyRecord) -> None:
    assert asked(record).is_kept


def test_a_kept_record_carries_what_was_expected_of_it() -> None:
    record = kept(made("check:voc-PV1", kind="reading", value=430.0, cell_c=0.0))
    check = next(c for c in PLAN.checks if c.id == "voc-PV1")
    assert record.stood is not None
    assert check.low is not None
    assert record.stood.low == pytest.approx(check.low.value * check.moved_by(0.0))
    assert record.stood.rests.startswith("11 × ")
    assert record.stood.unit == "V"


@pytest.mark.parametrize(("seconds", "is_kept"), [(90, False), (91, True)])
def test_what_comes_in_late_and_out_of_order_is_kept_and_opens_nothing(seconds: int, is_kept: bool) -> None:
    verdict = asked(made("step:grid-breaker", NOW - timedelta(seconds=seconds), kind="done"))
    assert verdict.is_kept == is_kept
    if verdict.record is not None:
        assert verdict.record.defects[0].startswith("out of order: the step before")
        stands = after(verdict.record).stands["step:grid-breaker"]
        assert stands.state is State.OPEN
        assert "does not count" in stands.why


@pytest.mark.parametrize(
    ("value", "wanted", "unit", "meant"),
    [
        (4211, 421, "V", 421.1),
        (42.1, 421, "V", 421),
        (0.421, 421, "V", 421),
        (421000, 421, "V", 421),
        (97.0, 11.0, "N m", 10.96),
        (1.243, 11.0, "N m", 11.0),
        (132.0, 11.0, "N m", 11.0),
        (167, 75, "°C", 75),
        (400, 421, "V", None),
        (8421, 421, "V", None),
        (0, 421, "V", None),
    ],
)
def test_a_slip_of_decimals_or_units_is_told(value: float, wanted: float, unit: str, meant: float | None) -> None:
    found = slip(value, wanted, unit)
    assert (found and found.meant) == (meant and pytest.approx(meant, rel=0.01))


def test_a_slip_is_asked_about_before_it_is_kept_and_again_before_it_is_cleared() -> None:
    reading = made("check:voc-PV1", kind="reading", value=4211.0, unit="V", cell_c=18.0)
    question = asked(reading)
    assert (question.outcome, question.field) == ("asked", "value")
    assert "did you mean 421.1 V?" in question.text
    stands = after(kept(reading))
    clearing = made("clear:voc-PV1", who=LENA, kind="clearance", reason="cloud edge at dusk", of=reading.id)
    assert asked(clearing, stands).outcome == "asked"
    assert asked(clearing, stands, sure=True).is_kept
    assert asked(made("check:voc-PV1", kind="reading", value=300.0, unit="V", cell_c=18.0)).is_kept


def test_a_clearance_speaks_of_the_reading_that_it_names() -> None:
    first = kept(made("check:dead-dc", kind="reading", value=12.0))
    second = kept(made("check:dead-dc", NOW + timedelta(seconds=5), kind="reading", value=13.0))
    clearing = made("clear:dead-dc", who=LENA, kind="clearance", reason="leads were swapped", of=first.id)
    assert asked(clearing, after(first)).is_kept
    assert "measured anew meanwhile" in asked(clearing, after(first, second)).text
    assert "at least 10" in asked(made("clear:dead-dc", who=LENA, kind="clearance", reason="ok", of=first.id), after(first)).text
    assert after(first, clearing).stands["check:dead-dc"].state is State.CLEARED
    assert after(first, clearing, second).stands["check:dead-dc"].state is State.FAILED


def test_an_agreement_speaks_of_the_setting_that_it_names() -> None:
    left = kept(made("setting:charge_a", kind="left", as_left="110", reason="ten below the sheet"))
    row = next(r for r in PLAN.settings.sheet if r.key == "charge_a")
    agreed = made("setting:charge_a", who=LENA, kind="agreement", of=left.id, asked=asked_text(row), as_left="110")
    assert asked(agreed, after(left)).is_kept
    assert asked(agreed.model_copy(update={"doer": "ivo"}), after(left), IVO).outcome == "forbidden"
    assert "recorded anew" in asked(agreed.model_copy(update={"asked": "150 A"}), after(left)).text
    assert "not on the sheet" in asked(agreed, EMPTY).text
    bare = kept(made("setting:charge_a", kind="left", as_left="110"))
    assert "no reason to agree to" in asked(agreed.model_copy(update={"of": bare.id}), after(bare)).text


@pytest.mark.parametrize(
    ("seconds", "who", "act", "words"),
    [
        (60, IVO, LUG, ""),
        (61, IVO, LUG, "The minute is over"),
        (5, LENA, LUG, "Who made a record takes it back."),
        (5, IVO, "check:dead-dc", "no such record"),
    ],
)
def test_a_slip_of_the_finger_is_taken_back_within_a_minute_by_its_doer(seconds: int, who: Person, act: str, words: str) -> None:
    slip_ = kept(made(LUG, NOW - timedelta(seconds=seconds), **landed()))
    back = made(act, who=who, kind="taken-back", of=slip_.id)
    verdict = asked(back, after(slip_))
    assert words in verdict.text
    assert verdict.is_kept == (not words)
    if verdict.is_kept:
        stands = after(slip_, back)
        assert stands.stands[LUG].state is State.OPEN
        assert len(stands.records) == 2


@pytest.mark.parametrize(
    ("done", "received", "words"),
    [(30, 150, ""), (30, 151, "The minute is over"), (-1, 0, "dated before what it takes back")],
)
def test_no_time_that_a_device_names_stretches_the_minute(done: int, received: int, words: str) -> None:
    slip_ = kept(made(LUG, NOW - timedelta(seconds=done), **landed()))
    slip_ = slip_.model_copy(update={"received_at": NOW - timedelta(seconds=received)})
    assert words in asked(made(LUG, kind="taken-back", of=slip_.id), after(slip_)).text
    assert asked(made(LUG, kind="taken-back", of=slip_.id), after(slip_)).is_kept == (not words)


def test_what_a_slip_took_the_place_of_stands_again() -> None:
    bad = kept(made("check:dead-dc", NOW - timedelta(seconds=20), kind="reading", value=40.0, unit="V"))
    slip_ = kept(made("check:dead-dc", NOW - timedelta(seconds=10), kind="reading", value=0.1, unit="V"))
    slip_ = slip_.model_copy(update={"corrects": bad.id})
    assert after(bad, slip_).stands["check:dead-dc"].holds
    back = kept(made("check:dead-dc", kind="taken-back", of=slip_.id), after(bad, slip_))
    assert after(bad, slip_, back).stands["check:dead-dc"].state is State.FAILED


def test_nobody_says_for_the_server_what_a_record_replaces_or_who_made_it() -> None:
    bad = kept(made("check:dead-dc", kind="reading", value=40.0, unit="V"))
    sent = made(LUG, **landed(corrects=bad.id, by="Somebody Else", received_at=NOW, defects=("none of it",)))
    record = kept(sent, after(bad))
    assert (record.corrects, record.by, record.received_at, record.defects) == (None, IVO.display, None, ())
    assert after(bad, record).stands["check:dead-dc"].state is State.FAILED


def test_a_record_of_an_earlier_revision_stands_for_what_that_planned() -> None:
    """A phone without signal landed and lifted; meanwhile the plan was changed."""
    now = plan_of({"things.inverter.card": "plover-6p"})
    lift = made("lift:inverter", NOW - timedelta(hours=2), kind="done")
    standing = stand(now, [], NOW, 2)
    today, before = (may_record(now, standing, lift, IVO, NOW, under=under).record for under in (None, PLAN))
    assert today is not None
    assert before is not None
    assert today.stood is not None
    assert before.stood is not None
    assert today.stood.cards == {"inverter": "plover-6p"}
    assert before.stood.cards == {"inverter": "plover-6s"}
    clean = before.model_copy(update={"defects": ()})
    assert stand(now, [clean], NOW, 2).stands["lift:inverter"].why == "done with plover-6s at inverter; plover-6p stands there now"
    # An act that it had not then is taken as today's plan has it.
    added = may_record(PLAN, EMPTY, made("serial:bat-3", kind="words", text="SN 3"), IVO, NOW, under=plan_of(name="k11-millhouse")).record
    assert added is not None
    assert added.stood is not None
    assert added.stood.cards == {"bat-3": "cobble-5"}


def test_what_could_not_be_done_is_a_defect_until_it_is_done() -> None:
    snug = kept(made(LUG, kind="could-not", what="snug only"))
    stands = after(snug).stands[LUG]
    assert (stands.state, stands.why) == (State.FAILED, "snug only")
    again = kept(made(LUG, NOW + timedelta(seconds=9), **landed()))
    assert after(snug, again).stands[LUG].state is State.GOOD


@pytest.mark.parametrize(
    "act", ["meter:ct-test", "setting:charge_a", "step:start-dead", "off:all.switches", "check:dead-dc", "serial:bat-1"]
)
def test_what_was_tried_last_and_not_done_is_a_defect_whatever_stood_before(act: str) -> None:
    done = everything()
    assert act.startswith("off:") or stand(PLAN, done, NOW, 1).stands[act].state in (State.GOOD, State.USED)
    tried = made(act, NOW - timedelta(minutes=1), kind="could-not", what="could not be done", reason="the key is at home")
    stands = stand(PLAN, [*done, tried], NOW, 1).stands[act]
    assert (stands.state, stands.why) == (State.FAILED, "could not be done: the key is at home")


def test_a_mark_that_has_moved_opens_its_lug_again() -> None:
    lug = kept(made(LUG, NOW - timedelta(hours=25), **landed()))
    mark = f"recheck:{LUG.partition(':')[2]}"
    looked = kept(made(mark, NOW, kind="answer", yes=False), after(lug))
    stands = after(lug, looked).stands
    assert (stands[LUG].state, stands[mark].state) == (State.LAPSED, State.FAILED)
    assert "its mark has moved" in stands[LUG].why
    early = made(mark, NOW - timedelta(hours=1, seconds=1), kind="answer", yes=True)
    assert "not over yet" in asked(early, after(lug)).text
    assert asked(made(mark, NOW - timedelta(hours=1), kind="answer", yes=True), after(lug)).is_kept


def test_everything_on_record_is_signed_and_a_day_early_handed_over_with_promises() -> None:
    done = everything()
    sign = made("sign-off:job", who=LENA, kind="sign-off", licence="L-1")
    assert asked(sign, after(*done)).is_kept
    early = [r for r in done if not r.act.startswith("recheck:")]
    assert "1 thing is missing" in asked(sign, after(*early)).text
    assert asked(sign.model_copy(update={"act": "sign-off:provisional"}), after(*early)).is_kept
    chained = stand(PLAN, everything(), NOW, 1, head="b" * 64)
    assert asked(sign.model_copy(update={"head": "b" * 64}), chained).is_kept
    assert "since this page was made" in asked(sign.model_copy(update={"head": "a" * 64}), chained).text
    assert "since this page was made" in asked(sign.model_copy(update={"head": "b" * 64, "revision": 2}), chained).text
    assert not asked(sign.model_copy(update={"act": "sign-off:provisional"}), after(*early[:-1])).is_kept


def test_what_comes_in_late_is_judged_by_what_was_done_before_it() -> None:
    ready = [r for r in everything() if not r.act.startswith(("step:", "recheck:", "check:", "meter:"))]
    hours_ago = NOW - timedelta(hours=2)
    proved = [record_of(PLAN, EMPTY, a, hours_ago) for a in EMPTY.acts.of("prove") if not a.is_derived]
    before = made("step:start-dead", hours_ago - timedelta(minutes=1), kind="done")
    after_it = made("step:start-dead", hours_ago + timedelta(minutes=1), kind="done")
    standing = after(*ready, *proved)
    early = asked(before, standing).record
    assert early is not None
    assert early.defects
    late = asked(after_it, standing).record
    assert late is not None
    assert late.defects == ()


def test_a_handing_over_with_promises_stands_while_they_are_kept() -> None:
    done = everything()
    early = [r for r in done if not r.act.startswith("recheck:")]
    marks = [r for r in done if r.act.startswith("recheck:")]
    promised = tuple(r.act for r in marks)
    over = made("sign-off:provisional", who=LENA, kind="sign-off", licence="L-1", promised=promised)
    assert after(*early, over).stations["hand-over"].word.startswith("handed over; 18 battery lugs")
    kept_ = after(*early, over, *marks)
    assert kept_.ended == ""
    assert kept_.stations["hand-over"].word == "handed over, its promises kept: ready to sign"
    assert after(*early, over, *marks, made("off:all.switches", kind="done")).ended == "1 record came in since"
