"""The cottage worked by hand, on paper, by the clauses named."""

from __future__ import annotations

import pytest

from tests.helpers import plan_of

PLAN = plan_of()


# NEC 2023 690.7(A)(1): 37.6 V x (1 + (-0.0026)(-14 - 25)) = 41.41 V a module.
@pytest.mark.parametrize(("key", "value", "digits"), [
    ("strings.PV1.cold_v", 455.5, 0.05), ("strings.PV2.cold_v", 331.3, 0.05),
    # Cell at 33 + 32 = 65 °C: 31.4 x (1 - 0.0034 x 40) = 27.13 V a module.
    ("strings.PV1.hot_v", 298.4, 0.05), ("strings.PV2.hot_v", 217.0, 0.05),
    # 500 / 41.41 = 12.07; max(120, 140) / 27.13 = 5.16.
    ("strings.PV1.count_most", 12, 0), ("strings.PV1.count_least", 6, 0),
    # 690.8: 13.87 x 1.25 = 17.34 A, x 1.25 = 21.67 A.
    ("strings.PV1.maximum_a", 17.34, 0.005), ("circuits.pv-pv1.continuous_a", 21.67, 0.005),
    # 10 AWG, 90 °C 40 A, 58 °C air 0.71, four conductors 0.80: 22.72 A.
    ("circuits.pv-pv1.ampacity", 22.72, 0.005),
    # 706.30: 6000 / (46.4 x 0.94) = 137.56 A, x 1.25 = 171.96 A, next standard 175 A.
    ("bank.drawn_a", 137.56, 0.005), ("circuits.bat-main.continuous_a", 171.96, 0.006), ("circuits.bat-main.device_min", 175, 0),
    # Grid feed: (2220 / 120) + 30 x 57.6 / (0.94 x 240) = 18.5 + 7.66 = 26.16 A.
    ("circuits.grid.design_a", 26.16, 0.005),
    # 705.12(B)(2): 60 + 1.25 x 25 = 91.25 A against 1.2 x 100 = 120 A.
    ("circuits.busbar_sum", 91.25, 0), ("circuits.busbar_limit", 120, 1e-9),
    # 3 x 5120 Wh x 90 % = 13 824 Wh; x 0.94 = 12 994.6 Wh.
    ("bank.usable", 13824, 0.5), ("bank.delivered", 12994.6, 0.05),
    # 5 x 33 ohm x 22 mF = 3.63 s; 1/2 x 22 mF x 57.6^2 = 36.5 J.
    ("bank.precharge_s", 3.63, 0.005), ("bank.precharge_j", 36.5, 0.05),
    # L2: pump 900/2 + well 1000/2 + blower 1150 + lights 120 = 2220 W; blower starts on top: + 1450 = 3670 W.
    ("loads.running.L2", 2220, 0), ("loads.starting.L2", 3670, 0),
    # 1.6 m of 2/0 AWG at 0.31726 ohm/km, both ways, 137.56 A: 0.1397 V of 46.4 V.
    ("circuits.bat-main.drop_pct", 0.30, 0.005),
    # Two terminators of 120 ohm in parallel.
    ("links.pair_ohm", 60, 0),
    # Hole h1 of the inverter: 1364 + 57 from the datum, 1110 + 640 from the floor.
    ("wall.inverter.h1.x", 1421, 0), ("wall.inverter.h1.y", 1750, 0),
    # Inverter 41 kg on four screws: 41 x 9.80665 / 4 = 100.5 N; pull 41 g x 115 / 640 / 2 = 36.1 N.
    ("wall.inverter.shear", 100.5, 0.05), ("wall.inverter.pull", 36.1, 0.05),
])  # fmt: skip
def test_figure_by_hand(key: str, value: float, digits: float) -> None:
    assert PLAN.figures[key].value == pytest.approx(value, abs=digits)


# Sizes by the clauses: Table 310.16 with 240.4, Table 250.122; the larger of maker and code.
@pytest.mark.parametrize(("circuit", "code", "required", "earth"), [
    ("pv-pv1", "10 AWG", "10 AWG", "12 AWG"),
    # 75 A BMS, 93.75 A at 125 %, the battery's own 100 A breaker: 3 AWG is 100 A at 75 °C.
    ("bat-1", "3 AWG", "3 AWG", "8 AWG"),
    # 2/0 AWG is 175 A at 75 °C; the maker's 1/0 AWG is below the code.
    ("bat-main", "2/0 AWG", "2/0 AWG", "6 AWG"),
    # 50 A breaker: 8 AWG is 50 A at 75 °C; the maker asks 6 AWG; the earth grows from 10 AWG with it (250.122(B)).
    ("grid", "8 AWG", "6 AWG", "8 AWG"), ("backup", "8 AWG", "6 AWG", "8 AWG"),
])  # fmt: skip
def test_conductor_by_hand(circuit: str, code: str, required: str, earth: str) -> None:
    sized = PLAN.circuits.sized[circuit]
    assert (sized.code_size.label, sized.required.label, sized.earth_size) == (code, required, earth)


def test_weakest_link_is_the_fuse() -> None:
    assert PLAN.banks[0].weakest.title == "fuse, continuous"
    assert PLAN.banks[0].weakest.amps.value == 0.8 * 175


def test_settings_follow_the_weakest_link() -> None:
    by_key = {s.key: s for s in PLAN.settings.sheet}
    assert by_key["discharge_a"].amount.value == 140
    assert by_key["charge_a"].amount.value == 120
    assert by_key["capacity"].amount.value == 300


def test_island_first_order() -> None:
    assert [s.id for s in PLAN.power_up.steps] == [
        "start-dead",
        "on-bat-1",
        "on-bat-2",
        "on-bat-3",
        "precharge",
        "battery-switch",
        "inverter-on",
        "soc-agrees",
        "island-volts",
        "sub-main",
        "small-load",
        "grid-breaker",
        "pv-switch",
        "export",
    ]


def test_a_longer_battery_lead_moves_drop_and_nothing_else_electrical() -> None:
    longer = plan_of({"runs.bat-main.length_m": 6})
    moved = {k for k, f in longer.figures.items() if k in PLAN.figures and PLAN.figures[k].value != f.value}
    assert moved == {
        "in.runs.bat-main.length_m",
        "circuits.bat-main.drop",
        "circuits.bat-main.drop_pct",
        "bank.lead_ohm.bat-main",
        "bank.fault_far_a",
        "fault.inverter.battery",
    }


def test_a_blower_moved_to_leg_1() -> None:
    moved = plan_of({"loads.blower.leg": "L1"})
    assert moved.loads.running["L1"].value == 1465 + 1150
    assert moved.loads.running["L2"].value == 2220 - 1150


def test_the_backed_up_feed_bears_the_grid_breaker_in_pass_through() -> None:
    assert PLAN.circuits.sized["backup"].device == PLAN.figures["circuits.backup.device"]
    assert PLAN.figures["circuits.backup.device"].value == 50
    larger = plan_of({"runs.grid.device_a": 70})
    assert larger.figures["circuits.backup.device"].value == 70
    assert larger.circuits.sized["backup"].code_size.label == "6 AWG"  # 65 A, and 70 A is the next standard size (240.4(B))
