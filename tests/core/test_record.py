"""Records as they are written, as earlier versions wrote them, and as they are chained; files of them."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from pydantic import ValidationError

from gumboot.core.record import RECORD, OldRow, chain, parse_record, typed
from gumboot.core.recording.files import Line, Site, lines_of, read_lines, read_table, take_in
from gumboot.core.standing import stand
from tests.crew import IVO, LENA, record_of, said
from tests.helpers import plan_of

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)
PLAN = plan_of()
EMPTY = stand(PLAN, [], NOW, 1)
EVERY = said("", NOW)


def old(kind: str, subject: str, value: dict[str, Any]) -> Any:
    return typed(OldRow("a-1", kind, subject, value, "Ivo", "installer", NOW))


@pytest.mark.parametrize(
    ("kind", "subject", "value", "act", "says"),
    [
        ("torque", "lug", {"value_nm": 11, "tool": "TW-2", "calibrated_to": "2027-03-31", "tug": True, "size": "4 AWG"}, "torque:lug",
         {"kind": "landing", "reached_nm": 11.0, "tug": True, "size": "4 AWG"}),
        ("torque", "lug", {"value_nm": None, "pressed": True}, "torque:lug", {"reached_nm": None, "tool": None, "pressed": True}),
        ("recheck", "lug", {"ok": True}, "recheck:lug", {"kind": "answer", "yes": True}),
        ("measurement", "dead-dc", {"value": 0.3, "entered": "0,3", "unit": "V"}, "check:dead-dc", {"kind": "reading", "value": 0.3, "typed": "0,3"}),
        ("measurement", "iso", {"value": None, "over": True}, "check:iso", {"value": None, "over": True}),
        ("measurement", "soc", {"value": 30, "shown": [71, 41]}, "check:soc", {"shown": (71.0, 41.0)}),
        ("measurement", "voc", {"value": 421, "cell_c": 18.0}, "check:voc", {"cell_c": 18.0}),
        ("measurement", "look", {"ok": False}, "check:look", {"kind": "answer", "yes": False}),
        ("done", "on-bat-1", {"ok": True}, "step:on-bat-1", {"kind": "done"}),
        ("link", "off", {"ok": True}, "ritual:off", {"kind": "done"}),
        ("ct", "ct-test", {"before": {"CT1": 1}, "readings": {"CT1": 2}, "test_l1_w": 1500, "unmoved": True}, "meter:ct-test",
         {"before": {"CT1": 1.0}, "after": {"CT1": 2.0}, "unmoved": True, "power_factor": 1.0}),
        ("ct", "ct-test", {"readings": {"CT1": 2}}, "meter:ct-test", {"before": None}),
        ("setting", "charge_a", {"as_left": "110", "reason": "ten below the sheet"}, "setting:charge_a", {"kind": "left", "as_left": "110"}),
        ("setting-agreed", "charge_a", {"record": "r-1", "asked": "120 A", "as_left": "110"}, "setting:charge_a", {"kind": "agreement", "of": "r-1"}),
        ("hold-cleared", "check:dead-dc", {"reason": "leads were swapped"}, "clear:dead-dc", {"kind": "clearance", "of": None}),
        ("sign-off", "job", {"licence": "L-1", "revision": 7}, "sign-off:job", {"kind": "sign-off", "licence": "L-1", "revision": 7}),
    ],
)  # fmt: skip
def test_every_row_of_earlier_versions_is_read_as_a_record(
    kind: str, subject: str, value: dict[str, Any], act: str, says: dict[str, Any]
) -> None:
    record = old(kind, subject, value)
    assert (record.act, record.done_at, record.by, record.doer) == (act, NOW, "Ivo", "")
    assert {name: getattr(record, name) for name in says} == says


def test_a_kind_that_nobody_wrote_is_refused() -> None:
    with pytest.raises(ValueError, match="no version ever wrote a record of kind dream"):
        old("dream", "x", {})


def test_a_record_that_carries_its_format_is_read_as_it_is() -> None:
    record = record_of(PLAN, EMPTY, EMPTY.acts["check:dead-dc"], NOW)
    row = OldRow(
        record.id, record.kind, record.act, record.model_dump(mode="json"), record.by, record.role, NOW, None, NOW + timedelta(seconds=1)
    )
    assert typed(row) == record.model_copy(update={"received_at": NOW + timedelta(seconds=1)})


@pytest.mark.parametrize(
    "change",
    [
        {"kind": "dream"},
        {"act": "no colon"},
        {"done_at": "2026-11-27T12:00:00"},
        {"id": "with space"},
        {"value": float("nan")},
        {"format": "gumboot.record/9"},
        {"photo": "short"},
        {"more": 1},
    ],
)
def test_what_is_no_record_is_refused(change: dict[str, Any]) -> None:
    good = {**said("check:dead-dc", NOW), "kind": "reading", "value": 1.0}
    assert parse_record(good).act == "check:dead-dc"
    with pytest.raises(ValidationError):
        parse_record({**good, **change})


def test_the_schema_has_every_kind() -> None:
    kinds = {d["properties"]["kind"]["const"] for d in RECORD.json_schema()["$defs"].values() if "kind" in d.get("properties", {})}
    assert kinds >= {
        "landing",
        "reading",
        "answer",
        "done",
        "words",
        "left",
        "agreement",
        "meter",
        "clearance",
        "could-not",
        "taken-back",
        "sign-off",
    }


ROWS = {f"r{n}": {"id": f"r{n}", "value": {"n": n, "text": "Ω"}} for n in range(1, 5)}


def chained() -> list[chain.Link]:
    links, last = list[chain.Link](), chain.START
    for place, (name, row) in enumerate(ROWS.items(), start=1):
        last = chain.linked(last, row)
        links.append(chain.Link(place, name, last))
    return links


def test_a_chain_that_stands() -> None:
    assert chain.faults(chained(), ROWS) == []
    assert chain.faults([], {}) == []
    assert chain.faults(reversed(chained()), ROWS) == []


@pytest.mark.parametrize(
    ("links", "rows", "words"),
    [
        (chained(), {**ROWS, "r2": {"id": "r2", "value": {"n": 3}}}, ["record r2 of link 2 is not what was received"]),
        (chained(), {k: v for k, v in ROWS.items() if k != "r3"}, ["record r3 of link 3 is gone"]),
        (chained(), {**ROWS, "r9": {"id": "r9"}}, ["record r9 stands outside the chain"]),
        ([link for link in chained() if link.place != 2], ROWS,
         ["link 2 is missing; the next is link 3", "record r3 of link 3 is not what was received", "record r2 stands outside the chain"]),
        ([*chained()[:3], chain.Link(4, "r4", "0" * 64)], ROWS, ["record r4 of link 4 is not what was received"]),
    ],
)  # fmt: skip
def test_tampering_is_found(links: list[chain.Link], rows: dict[str, Any], words: list[str]) -> None:
    assert chain.faults(links, rows) == words


def test_lines_written_read_and_written_are_the_same_bytes() -> None:
    acts = [EMPTY.acts[i] for i in ("torque:inverter.battery.pos.bat-main", "check:dead-dc", "setting:charge_a", "serial:bat-1")]
    once = lines_of([record_of(PLAN, EMPTY, act, NOW) for act in acts])
    records = [line.record for line in read_lines(once)]
    assert lines_of([r for r in records if r]) == once
    assert len(records) == 4


def taken(lines: list[Line], *before: Any) -> list[tuple[int, str, str]]:
    return [(t.number, t.outcome, t.text) for t in take_in(Site(PLAN, before, 1), lines, IVO, NOW)]


def test_each_line_is_judged_by_the_rule_of_recording() -> None:
    good = record_of(PLAN, EMPTY, EMPTY.acts["check:dead-dc"], NOW)
    early = record_of(PLAN, EMPTY, EMPTY.acts["step:grid-breaker"], NOW - timedelta(hours=1))
    others = good.model_copy(update={"id": "other-1", "doer": "lena"})
    text = lines_of([good, good, early, others]) + "{\nno\n[]\n\n"
    said_ = taken(read_lines(text))
    assert [(n, o) for n, o, _ in sorted(said_)] == [
        (1, "kept"), (2, "stood already"), (3, "kept"), (4, "refused"), (5, "refused"), (6, "refused"), (7, "refused"),
    ]  # fmt: skip
    words = {n: text for n, _, text in said_}
    assert words[3].startswith("out of order")
    assert "This was done by lena" in words[4]
    assert "no JSON" in words[5]
    assert "an object is wanted" in words[7]
    changed = good.model_copy(update={"value": 4.0})
    assert taken([Line(1, changed)], good) == [(1, "refused", "a record of this id says something else")]


def test_the_table_of_a_tester_is_mapped_to_checks() -> None:
    table = (
        "Test,Result,Unit,Time\n"
        "dead-dc,0.2,V,2026-11-27 11:00\n"
        '"Earth continuity, Grid feed",0.11,ohm,\n'
        "check:iso-PV1,>999,Mohm,2026-11-27T11:05:00+01:00\n"
        "nothing,1,V,\n"
        "dead-grid,1,A,\n"
        "dead-grid,1,V,yesterday\n"
    )
    lines = read_table(table, EMPTY.acts, EVERY, ZoneInfo("Europe/Berlin"))
    assert [line.record.act if line.record else "" for line in lines][:1] == ["check:dead-dc"]
    read = {line.number: line for line in lines}
    assert read[2].record is not None
    assert read[2].record.done_at == datetime(2026, 11, 27, 10, tzinfo=UTC)
    assert read[4].record is not None
    assert getattr(read[4].record, "over", None) is True
    assert "no check of this house" in read[5].text
    assert "wrong kind of unit" in read[6].text
    assert "is no time" in read[7].text
    # Sent again, it is the same record.
    again = read_table(table, EMPTY.acts, EVERY, ZoneInfo("Europe/Berlin"))
    assert [line.record and line.record.id for line in again] == [line.record and line.record.id for line in lines]
    unsaid = {line.number: line.text for line in read_table(table, EMPTY.acts, EVERY)}
    assert "does not say by which clock" in unsaid[2]
    assert not unsaid[3]
    assert not unsaid[4]


def test_a_tester_says_at_which_cell_temperature_a_string_was_read() -> None:
    table = "check,value,unit,cell_c\nvoc-PV1,421,V,18\nvoc-PV2,306,V,\nvoc-PV1,421,V,warm\n"
    first, second, third = read_table(table, EMPTY.acts, EVERY)
    assert getattr(first.record, "cell_c", None) == 18.0
    assert third.record is None
    said_ = {row.number: row for row in take_in(Site(PLAN, [], 1), [first, second], IVO, NOW)}
    assert said_[2].outcome == "kept"
    assert said_[3].outcome == "refused"
    assert "say at which the reading was taken" in said_[3].text


def test_the_table_of_records_is_read_again() -> None:
    from gumboot.documents.tables import records_csv

    records = [
        record_of(PLAN, EMPTY, EMPTY.acts[i], NOW) for i in ("check:dead-dc", "torque:inverter.battery.pos.bat-main", "clear:dead-dc")
    ]
    again = read_table(records_csv(records), EMPTY.acts, EVERY)
    assert [line.record for line in again] == records
    assert LENA.name in [r.doer for r in records]
    assert json.loads(lines_of(records).splitlines()[0])["format"] == "gumboot.record/1"


def test_a_moment_is_kept_in_one_clock_whatever_it_was_written_by() -> None:
    said = {"format": "gumboot.record/1", "id": "one", "act": "step:start", "kind": "done", "by": "Ivo", "doer": "ivo", "role": "installer"}
    here, there = (parse_record({**said, "done_at": at}) for at in ("2026-11-27T12:30:00Z", "2026-11-27T13:30:00+01:00"))
    assert here == there
    assert there.done_at.isoformat() == "2026-11-27T12:30:00+00:00"
    with pytest.raises(ValidationError, match="another age"):
        parse_record({**said, "done_at": "0001-01-01T00:00:00+05:00"})
