"""Laws that hold for every value: monotone, conservative, round trip."""

from __future__ import annotations

import math

from hypothesis import given, settings
from hypothesis import strategies as st

from gumboot.core import units
from gumboot.core.plan.links import dip_positions
from gumboot.core.rulebook.books.wiring_nec import smallest_size, usable_ampacity_a
from gumboot.core.rulebook.common.conductors import drop_v
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rulebook.north_american.overcurrent import largest_device_a, next_standard_a
from gumboot.core.rulebook.north_american.photovoltaic import string_voltage_v
from gumboot.core.sim.autonomy import Day
from gumboot.core.sim.ct_readings import Channel, MeterTest, solve
from gumboot.core.sim.switch_line import live_nodes, rehearse
from gumboot.web.quantities import parse
from tests.helpers import codes, plan_of

sizes = st.sampled_from(nec.SIZES)
amps = st.floats(0.1, 300)
factor = st.floats(0.35, 1.0)


def lost_v(current: float, size: str, length: float) -> float:
    return drop_v(current, length, nec.resistance_ohm_per_km(size), "DC")


@given(amps, sizes, st.floats(0.1, 100), st.floats(0, 50))
def test_more_length_never_lowers_drop(current: float, size: str, length: float, more: float) -> None:
    assert lost_v(current, size, length + more) >= lost_v(current, size, length)


@given(amps, st.floats(0.1, 100), st.integers(0, len(nec.SIZES) - 2))
def test_a_larger_conductor_never_raises_drop(current: float, length: float, at: int) -> None:
    assert lost_v(current, nec.SIZES[at + 1], length) < lost_v(current, nec.SIZES[at], length)


@given(st.integers(1, 30), st.floats(20, 60), st.floats(-0.005, -0.001), st.floats(-50, 80), st.floats(0, 40))
def test_colder_never_lowers_string_voltage(count: int, voc: float, beta: float, cell: float, colder: float) -> None:
    assert string_voltage_v(count, voc, beta, cell - colder) >= string_voltage_v(count, voc, beta, cell)


@given(st.floats(1, 70), st.floats(0, 50), factor, factor)
def test_a_bigger_load_never_shrinks_a_conductor(design: float, more: float, f_a: float, f_g: float) -> None:
    def size(current: float) -> int:
        return nec.conductor(
            smallest_size((current, 1.25 * current, next_standard_a(1.25 * current)), (90, 75), (max(f_a, 0.6), max(f_g, 0.7)))
        ).ordinal

    assert size(design + more) >= size(design)


@given(st.floats(1, 150), factor, factor)
def test_the_chosen_size_carries_its_current_and_is_protected(design: float, f_a: float, f_g: float) -> None:
    f_a, f_g, device = max(f_a, 0.7), max(f_g, 0.7), next_standard_a(1.25 * design)
    size = smallest_size((design, 1.25 * design, device), (90, 75), (f_a, f_g))
    assert usable_ampacity_a(size, (90, 75), f_a, f_g) >= design - 1e-6
    assert nec.ampacity_a(size, 75) >= 1.25 * design - 1e-6
    assert device <= largest_device_a(size, usable_ampacity_a(size, (90, 75), f_a, f_g))


@given(st.floats(-40, 85), st.floats(0, 40))
def test_hotter_never_raises_the_ambient_factor(ambient: float, hotter: float) -> None:
    if ambient + hotter <= 85:
        assert nec.ambient_factor(ambient + hotter, 90) <= nec.ambient_factor(ambient, 90)


@given(st.integers(1, 399))
def test_more_conductors_never_raise_the_grouping_factor(count: int) -> None:
    assert nec.grouping_factor(count + 1) <= nec.grouping_factor(count)


profiles = st.lists(st.floats(10, 5000), min_size=24, max_size=24)


@given(profiles, st.integers(0, 23), st.floats(1, 60000))
def test_autonomy_conserves_energy(profile: list[float], start: int, energy: float) -> None:
    hours = Day(profile).hours_carried(start, energy)
    used = sum(profile[(start + k) % 24] * min(1.0, hours - k) for k in range(math.ceil(hours)))
    assert math.isclose(used, energy, rel_tol=1e-6)


@given(profiles, st.integers(0, 23), st.floats(1, 30000), st.floats(0, 30000))
def test_more_energy_never_carries_fewer_hours(profile: list[float], start: int, energy: float, more: float) -> None:
    assert Day(profile).hours_carried(start, energy + more) >= Day(profile).hours_carried(start, energy) - 1e-9


@given(st.floats(0.1, 200))
def test_torque_units_round_trip(torque: float) -> None:
    assert math.isclose(units.lbf_in_from_nm(torque) * units.NM_PER_LBF_IN, torque)
    assert math.isclose(units.lbf_ft_from_nm(torque) * units.NM_PER_LBF_FT, torque)
    assert math.isclose(units.lbf_in_from_nm(torque), 12 * units.lbf_ft_from_nm(torque))


@given(st.integers(0, 63))
def test_dip_round_trip(address: int) -> None:
    assert sum(on << bit for bit, on in enumerate(dip_positions(address, 6))) == address


@given(st.floats(0.1, 1000))
def test_typed_units_agree(metres: float) -> None:
    metres = round(metres, 3)
    assert math.isclose(parse(f"{metres / 0.3048:.9f} ft", "m"), metres, rel_tol=1e-5)


@given(st.floats(-9000, 9000), st.floats(-9000, 9000), st.floats(0, 4000), st.floats(0, 4000))
def test_ct_solver_symmetry(r1: float, r2: float, p1: float, p2: float) -> None:
    one, two = Channel("CT1", "L1"), Channel("CT2", "L2")
    loads = {"L1": p1, "L2": p2}
    test = MeterTest(loads, {}, {"CT1": r1, "CT2": r2})
    ours = solve((one, two), dict.fromkeys(("CT1", "CT2"), (test,)), "split phase").channels
    mirrored = solve((two, one), dict.fromkeys(("CT1", "CT2"), (test,)), "split phase").channels
    assert [v.verdict for v in ours] == [v.verdict for v in reversed(mirrored)]


LINES = {how: plan_of({"backup.bypass": how}).power_up.line for how in ("none", "interlocked", "breaker without interlock")}


@settings(max_examples=300)
@given(st.sampled_from(sorted(LINES)), st.data())
def test_no_sequence_of_moves_makes_two_sources_meet(how: str, data: st.DataObject) -> None:
    line = LINES[how]
    moves = data.draw(st.lists(st.sampled_from([s.id for s in line.switches]), max_size=30))
    played = rehearse(line, moves)
    inverter_feeds = "inverter" in played.closed and "inverter-dc" in played.live
    if "bypass" in played.closed:
        assert not (inverter_feeds and "sub-main" in played.closed)
    if "battery-switch" in played.closed:
        assert "precharge" in moves
    assert played.live == live_nodes(line, played.closed)


@settings(max_examples=25)
@given(st.floats(-40, 10), st.integers(1, 30))
def test_plan_never_hides_a_voltage_over_the_limit(cold: float, modules: int) -> None:
    plan = plan_of({"site.record_low_c": cold, "strings.S1.modules": modules})
    over = plan.figures["strings.PV1.cold_v"].value > plan.figures["strings.PV1.limit_v"].value
    assert over == any(f.code == "PV-COLD-VOC" for f in plan.findings)
    allowed = plan.figures["strings.PV1.count_least"].value <= modules <= plan.figures["strings.PV1.count_most"].value
    assert allowed == (not {"PV-COLD-VOC", "PV-HOT-LOW", "PV-START"} & {f.code for f in plan.findings if f.where == "PV1"})


@settings(max_examples=20)
@given(st.floats(0.2, 200))
def test_any_length_derives(length: float) -> None:
    assert "COND-SMALL" not in codes({"runs.bat-main.length_m": length})
