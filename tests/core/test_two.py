"""Two people, one act, no signal: both values are shown until somebody who sees them says which it is; and what was set aside."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.core.record import AnyRecord, Photo, SetAside, TakenBack, parse_record
from gumboot.core.recording import Person, may_record
from gumboot.core.standing import stand
from gumboot.core.standing.history import failures, wrong_with
from gumboot.core.standing.signed import signature
from gumboot.core.standing.two import two_values
from tests.crew import IVO, LENA, said
from tests.helpers import plan_of

NOW = datetime(2026, 11, 27, 12, 0, tzinfo=UTC)
ACT = "inside:inverter"


def answer(minutes: int, who: Person = IVO, *, yes: bool = True, **more: Any) -> AnyRecord:
    return parse_record({**said(ACT, NOW + timedelta(minutes=minutes), who), "kind": "answer", "yes": yes, **more})


def test_neither_knew_of_the_other_and_they_differ() -> None:
    first, second = answer(0, knew=""), answer(5, LENA, yes=False, knew="")
    assert two_values([second, first]) == {ACT: (first, second)}


@pytest.mark.parametrize(
    "pair",
    [
        lambda first: answer(5, LENA, yes=False, knew=first.id),
        lambda _: answer(5, LENA, yes=True, knew=""),
        lambda _: answer(5, IVO, yes=False, knew=""),
        lambda _: answer(5, LENA, yes=False),
    ],
    ids=["they knew", "they say the same", "it is one person", "a row that does not say"],
)
def test_it_is_one_value_where(pair: Any) -> None:
    first = answer(0, knew="")
    assert two_values([first, pair(first)]) == {}


def test_who_saw_both_settles_it_and_who_saw_the_first_only_does_not() -> None:
    first, second = answer(0, knew=""), answer(5, LENA, yes=False, knew="")
    assert two_values([first, second, answer(9, IVO, knew=second.id)]) == {}
    third = answer(9, IVO, knew=first.id)
    assert set(two_values([first, second, third])) == {ACT}
    # Nor does another answer of one's own that nobody has told of yet; who then sees all of them does.
    blind = answer(9, LENA, knew="")
    assert two_values([first, second, blind]) == {ACT: (first, second)}
    assert two_values([first, second, blind, answer(20, IVO, knew=blind.id)]) == {}


def test_a_value_that_was_taken_back_is_none_and_a_picture_is_no_value() -> None:
    first, second = answer(0, knew=""), answer(5, LENA, yes=False, knew="")
    back = TakenBack(**said(ACT, NOW + timedelta(minutes=6), LENA), of=second.id)
    assert two_values([first, second, back]) == {}
    shown = Photo(**said(ACT, NOW + timedelta(minutes=2), LENA), photo="0" * 64, knew="")
    assert two_values([first, shown]) == {}


def test_two_values_stand_in_the_way_of_handing_over() -> None:
    plan = plan_of()
    rows = [answer(0, knew=""), answer(5, LENA, yes=False, knew="")]
    standing = stand(plan, rows, NOW + timedelta(hours=1), 1)
    assert "two values: Plover 6S hybrid inverter: in before it hangs" in standing.missing
    assert [r.doer for r in standing.two[ACT]] == ["ivo", "lena"]
    assert not any("two values" in line for line in stand(plan, rows[:1], NOW + timedelta(hours=1), 1).missing)


def test_who_records_with_signal_knew_what_stood_there() -> None:
    plan, first = plan_of(), answer(0)
    standing = stand(plan, [first], NOW + timedelta(minutes=1), 1)
    later = answer(1, LENA, yes=False)
    kept = may_record(plan, standing, later, LENA, NOW + timedelta(minutes=1)).record
    assert kept is not None
    assert kept.knew == first.id
    # One that comes in late says itself what its phone knew.
    late = may_record(plan, standing, later, LENA, NOW + timedelta(hours=1)).record
    assert late is not None
    assert late.knew is None
    blind = may_record(plan, standing, answer(1, LENA, yes=False, knew=""), LENA, NOW + timedelta(hours=1)).record
    assert blind is not None
    assert blind.knew == ""


def aside(act: str = "torque:gone", who: Person = IVO, reason: str = "the end was taken out", **more: Any) -> SetAside:
    return SetAside(**{**said(act, NOW, who), **more}, said="97 lbf in, held the pull", refused="no act of this plan", reason=reason)


def test_what_was_refused_is_set_aside_by_who_did_it_whether_there_is_such_an_act_or_not() -> None:
    plan = plan_of()
    standing = stand(plan, [], NOW, 1)
    for act in ("torque:gone", ACT):
        verdict = may_record(plan, standing, aside(act), IVO, NOW)
        assert verdict.is_kept
    assert may_record(plan, standing, aside(), LENA, NOW).outcome == "forbidden"
    assert may_record(plan, standing, aside(reason="too short"), IVO, NOW).field == "reason"
    assert may_record(plan, standing, aside(reason="ten letter"), IVO, NOW).is_kept
    assert may_record(plan, standing, aside(), IVO, NOW - timedelta(minutes=3)).field == "done_at"
    assert may_record(plan, standing, aside(), IVO, NOW + timedelta(days=91)).field == "done_at"


def test_a_signature_ends_by_what_a_doer_of_acts_sets_aside_and_by_no_other() -> None:
    sign = parse_record({**said("sign-off:job", NOW, LENA), "kind": "sign-off", "licence": "L-7"})
    assert signature([sign, aside()], 1).ended == "1 record came in since"
    assert signature([sign, aside().model_copy(update={"role": "apprentice"})], 1).stands


def test_what_was_set_aside_stands_for_nothing_and_stays_in_sight() -> None:
    plan, row = plan_of(), aside(ACT)
    standing = stand(plan, [row], NOW, 1)
    assert standing.stands[ACT].state == "open"
    assert wrong_with(plan, row) == "not filed: no act of this plan"
    (found,) = failures(plan, standing.acts, [row])
    assert (found.then, found.is_open) == ("set aside by Ivo Installer: the end was taken out", False)
