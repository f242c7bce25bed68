"""The meter test, by phasors: each case worked by hand from P = Re(V conj(s I)), not by the function itself."""

from __future__ import annotations

import cmath
import itertools
import math
from collections.abc import Mapping, Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.core.sim.ct_readings import (
    ANGLES,
    Channel,
    Core,
    Leg,
    MeterTest,
    MeterVerdict,
    Tests,
    expected,
    expected_w,
    solve,
    tolerance_w,
    wirings,
)

SPLIT = (Channel("CT1", "L1"), Channel("CT2", "L2"))
THREE = (Channel("CT1", "L1"), Channel("CT2", "L2"), Channel("CT3", "L3"))
ONE = (Channel("CT1", "L1"),)
LOADS = {"L1": 1500.0, "L2": 600.0}
THREE_LOADS = {"L1": 1500.0, "L2": 600.0, "L3": 1000.0}


def judged(
    channels: tuple[Channel, ...], output: str, loads: dict[str, float], *after: float, before: float = 0.0, pf: float = 1.0
) -> MeterVerdict:
    names = [c.id for c in channels]
    shown = dict(zip(names, (before + a for a in after), strict=True))
    return solve(channels, of_all(channels, MeterTest(loads, dict.fromkeys(names, before), shown, pf)), output)


def of_all(channels: Sequence[Channel], *tests: MeterTest) -> Tests:
    """Tests that speak of every channel."""
    return {channel.id: tests for channel in channels}


def words(verdict: MeterVerdict) -> list[str]:
    return [v.verdict for v in verdict.channels]


# A CT on the other leg of a split phase sees a voltage 180 degrees away: minus that leg's load.
@pytest.mark.parametrize(
    ("ct1", "ct2", "verdicts", "instruction"),
    [
        (1500, 600, ["right", "right"], "Nothing to do."),
        (-1500, 600, ["reversed", "right"], "Turn CT1 round; leave it on L1."),
        (1500, -600, ["right", "reversed"], "Turn CT2 round; leave it on L2."),
        (-600, -1500, ["other leg", "other leg"], "Exchange CT1 and CT2; leave both arrows as they point."),
        (600, 1500, ["other leg and reversed", "other leg and reversed"], "Exchange CT1 and CT2; leave both arrows as they point."),
        (-600, 1500, ["other leg", "other leg and reversed"], "Exchange CT1 and CT2; leave both arrows as they point."),
        (1480, 640, ["right", "right"], "Nothing to do."),
        (0, 600, ["silent", "right"], "Look at CT1: plug home"),
        # Both conductors through one core show 1500 less 600; a core that is not closed shows part of 1500: these cannot be told apart.
        (900, 600, ["cannot tell", "right"], "Touch nothing yet: test again with about 1500 W on L1 alone"),
    ],
)
def test_split_phase(ct1: float, ct2: float, verdicts: list[str], instruction: str) -> None:
    found = judged(SPLIT, "split phase", LOADS, ct1, ct2)
    assert words(found) == verdicts
    assert found.instruction.startswith(instruction)
    assert found.shown_total_w == ct1 + ct2
    assert found.true_total_w == 2100


def test_a_core_that_is_not_closed_and_one_round_two_conductors() -> None:
    loads = {"L1": 1500.0, "L2": 2500.0}
    low = judged(SPLIT, "split phase", loads, 500, 2500)
    assert words(low) == ["reads low", "right"]
    assert low.instruction.startswith("Close CT1 until it clicks")
    both = judged(SPLIT, "split phase", {"L1": 1500.0, "L2": 3300.0}, -1800, 3300)
    assert words(both) == ["two conductors", "right"]
    assert both.instruction.startswith("Put CT1 round L1 alone")


def test_a_ratio_set_wrong_reads_high_on_both() -> None:
    found = judged(SPLIT, "split phase", {"L1": 1500.0, "L2": 700.0}, 7500, 3500)
    assert words(found) == ["reads high", "reads high"]
    assert found.instruction.startswith("Set the ratio of CT1")


def test_what_cannot_be_told_names_every_place() -> None:
    # Equal loads on a split phase: a core on the other leg, turned round, shows the same.
    one, other = judged(SPLIT, "split phase", {"L1": 1000.0, "L2": 1000.0}, 1000, -1000).channels
    assert one.text == "CT1 could be right or on L2 and reversed."
    assert other.text == "CT2 could be reversed or on L1."


@pytest.mark.parametrize("base", [-800.0, 0.0, 2500.0])
def test_the_house_s_own_load_drops_out(base: float) -> None:
    assert words(judged(SPLIT, "split phase", LOADS, -600, -1500, before=base)) == ["other leg", "other leg"]


# cos 120 degrees is -0.5: a core one place on shows about minus half of what flows there.
@pytest.mark.parametrize(
    ("readings", "verdicts", "instruction"),
    [
        ((1500, 600, 1000), ["right"] * 3, "Nothing to do."),
        ((-1500, 600, 1000), ["reversed", "right", "right"], "Turn CT1 round"),
        ((-300, -750, 1000), ["other leg", "other leg", "right"], "Exchange CT1 and CT2"),
        ((-300, -500, -750), ["other leg"] * 3, "Move CT1 to L1"),
        ((-500, -750, -300), ["other leg"] * 3, "Move CT1 to L1"),
        ((300, 750, 1000), ["other leg and reversed", "other leg and reversed", "right"], "Exchange CT1 and CT2; leave both arrows"),
    ],
)
def test_three_phase(readings: tuple[float, ...], verdicts: list[str], instruction: str) -> None:
    found = judged(THREE, "three phase", THREE_LOADS, *readings)
    assert words(found) == verdicts
    assert found.instruction.startswith(instruction)


def test_the_leg_that_a_core_sits_on_is_named() -> None:
    found = judged(THREE, "three phase", THREE_LOADS, -300, -500, -750)
    assert ["sits on L2" in found.channels[0].text, "sits on L3" in found.channels[1].text, "sits on L1" in found.channels[2].text] == [
        True
    ] * 3


def test_power_factor_tells_the_two_rotations_apart() -> None:
    # 0.6 lagging is 53.13 degrees. A core on L2 of L1's channel: cos(120 + 53.13) = -0.9928; on L3: cos(-120 + 53.13) = 0.3928.
    apparent = 1000 / 0.6
    one = expected_w(THREE[0], Core(("L2",)), {"L2": 1000.0}, 0.6, "three phase")
    other = expected_w(THREE[0], Core(("L3",)), {"L3": 1000.0}, 0.6, "three phase")
    assert one == pytest.approx(-0.99282 * apparent, rel=1e-4)
    assert other == pytest.approx(0.39282 * apparent, rel=1e-4)
    even = dict.fromkeys(("L1", "L2", "L3"), 1000.0)
    assert words(judged(THREE, "three phase", even, -500, -500, -500)) == ["cannot tell"] * 3
    assert words(judged(THREE, "three phase", even, one, one, one, pf=0.6)) == ["other leg"] * 3


@pytest.mark.parametrize(
    ("reading", "verdict"), [(1500, "right"), (-1500, "reversed"), (0, "silent"), (700, "reads low"), (3000, "reads high"), (40000, "none")]
)
def test_one_channel(reading: float, verdict: str) -> None:
    assert words(judged(ONE, "single phase", {"L1": 1500.0}, reading)) == [verdict]


def test_a_channel_with_one_fixed_reference() -> None:
    fixed = (Channel("CT1", "L1", "L1"), Channel("CT2", "L2", "L1"))
    # Both multiply with L1's voltage: a core rightly on L2 shows minus its load there.
    assert expected(fixed, {"CT1": Core(("L1",)), "CT2": Core(("L2",))}, LOADS, 1.0, "split phase") == {
        "CT1": pytest.approx(1500),
        "CT2": pytest.approx(-600),
    }
    assert words(judged(fixed, "split phase", LOADS, 1500, -600)) == ["right", "right"]


def test_a_channel_without_a_reference_shows_current_with_a_sign() -> None:
    blind = (Channel("CT1", "L1", "none"), Channel("CT2", "L2", "none"))
    assert words(judged(blind, "split phase", LOADS, 600, 1500)) == ["other leg", "other leg"]
    assert expected_w(blind[0], Core(("L2",), True), LOADS, 0.5, "split phase") == pytest.approx(-1200)


def test_equal_loads_cannot_tell_and_the_next_load_is_named() -> None:
    even = {"L1": 1000.0, "L2": 1000.0}
    found = judged(SPLIT, "split phase", even, 1000, 1000)
    assert words(found) == ["cannot tell", "cannot tell"]
    assert found.next_leg in ("L1", "L2")
    assert "Touch nothing yet" in found.instruction
    first = MeterTest(even, {"CT1": 0, "CT2": 0}, {"CT1": 1000, "CT2": 1000})
    alone = MeterTest({"L1": 1500.0}, {"CT1": 0, "CT2": 0}, {"CT1": 1500, "CT2": 0})
    assert words(solve(SPLIT, of_all(SPLIT, first, alone), "split phase")) == ["right", "right"]
    crossed = MeterTest({"L1": 1500.0}, {"CT1": 0, "CT2": 0}, {"CT1": 0, "CT2": 1500})
    assert words(solve(SPLIT, of_all(SPLIT, first, crossed), "split phase")) == ["other leg and reversed"] * 2


def test_a_small_load_cannot_tell_the_direction() -> None:
    assert words(judged(SPLIT, "split phase", {"L1": 20.0, "L2": 1500.0}, 20, 1500))[0] == "cannot tell"


def test_both_on_one_leg_is_never_called_right() -> None:
    assert words(judged(SPLIT, "split phase", LOADS, 1500, -1500))[1] != "right"
    assert words(judged(SPLIT, "split phase", LOADS, 1500, 1500))[1] != "right"


def test_tolerance_edge() -> None:
    edge = 1500 + tolerance_w(1500)
    assert words(judged(SPLIT, "split phase", LOADS, edge, 600))[0] == "right"
    assert words(judged(SPLIT, "split phase", LOADS, edge + 1, 600))[0] != "right"


def test_a_load_of_low_power_factor_may_stray_by_a_share_of_its_apparent_power() -> None:
    """1500 W at 0.5 draw 3000 VA: a tenth of that and 60 W may come and go, not a tenth of the watts."""
    assert words(judged(SPLIT, "split phase", LOADS, 1500 + 359, 600, pf=0.5))[0] == "right"
    assert words(judged(SPLIT, "split phase", LOADS, 1500 + 361, 600, pf=0.5))[0] != "right"


@pytest.mark.parametrize("power_factor", [1.0, 0.8])
def test_the_true_wiring_of_three_is_always_among_those_that_fit(power_factor: float) -> None:
    """All 48 ways that three cores may sit: the search always keeps the true one, and never calls a wrong one right."""
    legs = tuple(ANGLES["three phase"])
    for order in itertools.permutations(legs):
        for signs in itertools.product((False, True), repeat=3):
            wiring = {c.id: Core((leg,), back) for c, leg, back in zip(THREE, order, signs, strict=True)}
            shown = expected(THREE, wiring, THREE_LOADS, power_factor, "three phase")
            test = MeterTest(THREE_LOADS, dict.fromkeys(shown, 0.0), shown, power_factor)
            assert wiring in wirings(THREE, of_all(THREE, test), "three phase")
            found = solve(THREE, of_all(THREE, test), "three phase")
            for channel, verdict in zip(THREE, found.channels, strict=True):
                truly = wiring[channel.id] == Core((channel.leg,))
                assert verdict.verdict in (("right", "cannot tell") if truly else set(words(found)) - {"right"}) or not truly
                assert truly or verdict.verdict != "right"


def test_following_one_instruction_at_a_time_ends_right() -> None:
    """Whatever two cores are like at first, doing what is said and testing again ends with both right."""
    for order in itertools.permutations(tuple(ANGLES["split phase"])):
        for signs in itertools.product((False, True), repeat=2):
            wiring: dict[str, Core] = {c.id: Core((leg,), back) for c, leg, back in zip(SPLIT, order, signs, strict=True)}
            for _ in range(4):
                shown = expected(SPLIT, wiring, LOADS, 1.0, "split phase")
                found = solve(SPLIT, of_all(SPLIT, MeterTest(LOADS, {"CT1": 0, "CT2": 0}, shown)), "split phase")
                if found.right:
                    break
                if found.instruction.startswith("Exchange"):
                    one, two = wiring["CT1"], wiring["CT2"]
                    wiring = {"CT1": Core(two.legs, one.reversed), "CT2": Core(one.legs, two.reversed)}
                else:
                    name = found.instruction.split()[1]
                    wiring[name] = Core(wiring[name].legs, not wiring[name].reversed)
            assert found.right, (order, signs)


def phasor_w(reference_deg: float | None, current: complex) -> float:
    """What a channel shows of a current, the voltages being of one volt: worked with complex numbers, as a meter does."""
    if reference_deg is None:
        return math.copysign(abs(current), current.real)
    return (cmath.exp(1j * math.radians(reference_deg)) * current.conjugate()).real


def current_of(legs: Sequence[Leg], loads: Mapping[str, float], power_factor: float, output: str) -> complex:
    """Current through a core round some conductors, for a volt on each: it lags its own leg's voltage."""
    lag = math.acos(power_factor)
    return sum(
        (loads[leg] / power_factor * cmath.exp(1j * (math.radians(ANGLES[output][leg]) - lag)) for leg in legs),
        0j,
    )


EVERY = [(ONE, "single phase", {"L1": 1500.0}), (SPLIT, "split phase", LOADS), (THREE, "three phase", THREE_LOADS)]


@pytest.mark.parametrize("power_factor", [1.0, 0.9])
@pytest.mark.parametrize("case", EVERY, ids=[output for _, output, _ in EVERY])
def test_every_wiring_shows_what_the_phasors_say_and_no_wrong_core_is_called_right(
    case: tuple[tuple[Channel, ...], str, dict[str, float]], power_factor: float
) -> None:
    """Each core on any conductor or round two, either way round, half closed, unplugged or of another ratio; all channels at once."""
    channels, output, loads = case
    legs = tuple(ANGLES[output])
    seats = [(leg,) for leg in legs] + list(itertools.combinations(legs, 2))
    singles = [Core(seat, back, share) for seat in seats for back in (False, True) for share in (1.0, 0.5, 0.0, 2.0)]
    plain = [Core((leg,), back) for leg in legs for back in (False, True)]
    # One core may be anything while the others are plain: two rare faults at once are not what anybody meets.
    wirings_ = {
        tuple(odd if n == at else core for n, core in enumerate(rest))
        for at in range(len(channels))
        for odd in singles
        for rest in itertools.product(plain, repeat=len(channels))
    }
    for cores in wirings_:
        wiring = {c.id: core for c, core in zip(channels, cores, strict=True)}
        shown = {}
        for channel, core in zip(channels, cores, strict=True):
            through = current_of(core.legs, loads, power_factor, output) * (-1 if core.reversed else 1) * core.share
            shown[channel.id] = phasor_w(ANGLES[output][channel.leg], through)
            assert expected_w(channel, core, loads, power_factor, output) == pytest.approx(shown[channel.id], abs=1e-6)
        found = solve(channels, of_all(channels, MeterTest(loads, dict.fromkeys(shown, 0.0), shown, power_factor)), output)
        for channel, verdict in zip(channels, found.channels, strict=True):
            core = wiring[channel.id]
            # What cannot be seen is not a fault: nothing but its own load at its own size is right.
            seems = abs(shown[channel.id] - loads[channel.leg]) <= tolerance_w(loads[channel.leg] / power_factor)
            assert verdict.verdict != "right" or seems, (wiring, verdict)
            true = [cause for cause in verdict.causes if (cause.core.legs, cause.core.reversed) == (core.legs, core.reversed)]
            if core.share == 1.0:
                assert [cause.fits for cause in true if cause.core.share == 1.0] == [True], (wiring, verdict.causes)


def one_by_one(
    channels: Sequence[Channel], wiring: Mapping[str, Core], loads: Mapping[str, float], output: str, pf: float = 1.0
) -> list[MeterTest]:
    """A known load on each leg, one after another, as the cores of a wiring show it beside 310 W that are always there."""
    tests = []
    for leg in ANGLES[output]:
        shown = expected(channels, wiring, {leg: loads[leg]}, pf, output)
        tests.append(MeterTest({leg: loads[leg]}, dict.fromkeys(shown, 310.0), {name: 310 + watts for name, watts in shown.items()}, pf))
    return tests


@pytest.mark.parametrize("case", EVERY, ids=[output for _, output, _ in EVERY])
def test_loads_one_after_another_tell_every_odd_core_by_its_name(case: tuple[tuple[Channel, ...], str, dict[str, float]]) -> None:
    """Whatever one core is like, equal loads too: what is wrong with it is said, nothing is left open, and the others are right."""
    channels, output, _ = case
    legs, loads = tuple(ANGLES[output]), dict[str, float](dict.fromkeys(ANGLES[output], 1500.0))
    free = [(leg,) for leg in legs] if len(legs) == 1 else [(leg,) for leg in legs] + list(itertools.combinations(legs, 2))
    for at, channel in enumerate(channels):
        for seat, back, share in itertools.product(free, (False, True), (1.0, 0.5, 0.0, 2.0)):
            if len(seat) > 1 and share not in (0.0, 1.0):
                continue  # two rare faults at once
            wiring = {c.id: Core((c.leg,)) for c in channels} | {channel.id: Core(seat, back, share)}
            found = solve(channels, of_all(channels, *one_by_one(channels, wiring, loads, output)), output)
            others = [v.verdict for n, v in enumerate(found.channels) if n != at]
            own = found.channels[at]
            if wiring[channel.id] == Core((channel.leg,)):
                assert found.right
                assert not found.concerns
                continue
            if share == 0:
                assert own.verdict == "silent"
            elif len(seat) > 1 or seat == (channel.leg,) or share == 1:
                assert own.verdict not in ("right", "cannot tell", "none"), (wiring, own)
                assert {(c.legs, c.reversed) for c in own.possible} == {(seat, back)}, (wiring, own)
            assert own.verdict != "right"
            assert own.verdict == "none" or found.concerns == (channel.id,)
            if seat == (channel.leg,) or len(seat) > 1:
                assert set(others) <= {"right"}, (wiring, found)


def test_one_core_is_tested_again_and_the_others_stay_as_they_were_found() -> None:
    loads = {"L1": 1500.0, "L2": 1500.0}
    odd = {"CT1": Core(("L1",)), "CT2": Core(("L2",), True)}
    first = one_by_one(SPLIT, odd, loads, "split phase")
    found = solve(SPLIT, of_all(SPLIT, *first), "split phase")
    assert (words(found), found.concerns) == (["right", "reversed"], ("CT2",))
    assert found.instruction == "Turn CT2 round; leave it on L2. Then test CT2 again."
    assert (round(found.shown_total_w), found.true_total_w) == (0, 3000)
    again = one_by_one(SPLIT[1:], {"CT2": Core(("L2",))}, loads, "split phase")
    mended = solve(SPLIT, {"CT1": first, "CT2": again}, "split phase")
    assert mended.right
    assert (round(mended.shown_total_w), mended.true_total_w) == (3000, 3000)
    # Moved to where the other sits it is not right, and the other is still known to sit there.
    wrong = one_by_one(SPLIT[1:], {"CT2": Core(("L1",))}, loads, "split phase")
    assert words(solve(SPLIT, {"CT1": first, "CT2": wrong}, "split phase")) == ["right", "other leg"]


def test_a_channel_that_nobody_tested_is_not_right() -> None:
    loads = {"L1": 1500.0, "L2": 1500.0}
    tests = one_by_one(SPLIT[1:], {"CT2": Core(("L2",))}, loads, "split phase")
    found = solve(SPLIT, {"CT1": (), "CT2": tests}, "split phase")
    assert words(found) == ["none", "right"]
    assert found.channels[0].text == "CT1 has not been tested."
    assert (found.right, found.concerns) == (False, ())


def test_causes_are_ranked_and_told_with_what_they_would_show() -> None:
    found = judged(SPLIT, "split phase", LOADS, -1500, 600).channels[0]
    first, *rest = found.causes
    assert first.words == "on L1, arrow the other way"
    assert first.fits
    assert [(one.on, round(one.predicted_w), one.seen_w) for one in first.shown] == [("L1 and L2", -1500, -1500)]
    assert not any(cause.fits for cause in rest)
    assert [cause.off for cause in rest] == sorted(cause.off for cause in rest)


def test_where_nothing_fits_the_nearest_are_told() -> None:
    found = judged(SPLIT, "split phase", LOADS, 1100, 600).channels[0]
    assert found.causes
    assert not found.causes[-1].fits


@given(shown=st.floats(-3000, 3000))
def test_whatever_is_shown_some_cause_is_told_and_what_fits_comes_first(shown: float) -> None:
    causes = judged(SPLIT, "split phase", LOADS, shown, 600).channels[0].causes
    assert causes
    fits = [cause.fits for cause in causes]
    assert fits == sorted(fits, reverse=True)
