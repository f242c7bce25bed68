"""What the answers of an act must be, as data for a phone; that both judge alike is played in tests/web/test_phone_gates.py."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest

from gumboot.core.acts import Act, Kind, acts
from gumboot.core.job.model import ToolItem
from gumboot.core.recording import Term, against, terms_of
from tests.helpers import plan_of

PLAN = plan_of()
ACTS = acts(PLAN)


def of(act: str) -> dict[str, Term]:
    terms = terms_of(PLAN, ACTS[act])
    assert terms is not None
    return {" ".join(term.inputs): term for term in terms}


def test_a_landing_is_tugged_and_reached_within_its_band_by_a_tool_of_the_job() -> None:
    terms = of("torque:inverter.battery.pos.bat-main")
    assert set(terms) == {"tug", "reached", "tool"}
    low, high = terms["reached"].low, terms["reached"].high
    band = ACTS["torque:inverter.battery.pos.bat-main"].band
    assert band.low is not None
    assert band.high is not None
    assert low == pytest.approx(band.low.value, abs=2e-6)
    assert high == pytest.approx(band.high.value, abs=2e-6)
    assert terms["tool"].tools == {"TD-1": "2027-05-31", "TW-2": "2027-03-31", "TD-0": "2026-02-28"}
    assert not terms["tool"].is_optional


def test_a_reading_stands_for_the_cells_as_the_page_says_they_are() -> None:
    terms = of("check:voc-PV1")
    assert terms["cell_c"].is_doubtful
    assert terms["value"].measures == "polarity"
    assert terms["tool"].tools == {"MM-1": "2027-04-30", "IT-1": "2027-02-28"}
    assert terms["tool"].is_optional
    assert "cell_c" not in of("check:dead-dc")


def test_both_displays_show_something_and_not_far_apart() -> None:
    shows = next(act for act in ACTS.values() if act.band.shows)
    terms = terms_of(PLAN, shows)
    assert terms is not None
    assert [(term.inputs, term.low is not None, term.high is not None) for term in terms] == [
        (("value",), True, False),
        (("second",), True, False),
        (("value", "second"), False, True),
        (("value_ms", "second_ms"), False, True),
    ]
    # Two minutes, where it is told when each was read.
    assert (terms[3].high, terms[3].is_optional) == (120000, True)


def test_only_the_very_setting_is_right_beyond_doubt() -> None:
    term = of("setting:charge_a")["value"]
    assert term.is_doubtful
    assert term.low is not None
    assert term.high is not None
    assert 0 < term.high - term.low < 1e-3
    assert of("setting:comms")["value"].equals == (next(r.text for r in PLAN.settings.sheet if r.key == "comms"),)


@pytest.mark.parametrize("act", ["meter:ct-test", "sign-off:job", "firmware:inverter"])
def test_what_only_the_server_tells_has_no_terms(act: str) -> None:
    assert terms_of(PLAN, ACTS[act]) is None


def test_degrees_are_read_by_the_units_of_the_page() -> None:
    warm = [a for a in ACTS.values() if a.band.unit == "°C"]
    assert all(terms_of(PLAN, act) is None for act in warm)
    assert terms_of(PLAN, next(a for a in ACTS.values() if a.kind == "step")) == ()


def test_every_act_of_every_kind_has_terms_or_none() -> None:
    def named(act: Act) -> set[str]:
        return {name for term in terms_of(PLAN, act) or () for name in term.inputs}

    assert all(
        named(act)
        <= {
            "tug",
            "pressed",
            "reached",
            "tool",
            "value",
            "second",
            "cell_c",
            "answer",
            "protocol",
            "address",
            "right",
            "up",
            "value_ms",
            "second_ms",
        }
        or act.kind in (Kind.RING, Kind.PACK)
        for act in ACTS.values()
    )
    rung = {act.name: {term.inputs[0]: term.equals for term in terms_of(PLAN, act) or ()} for act in ACTS.values() if act.kind is Kind.RING}
    assert rung["battery.bank"] == {"pin-1": ("2",), "pin-4": ("7",), "pin-5": ("8",)}
    told = terms_of(PLAN, ACTS["told:bat-2.back"]) or ()
    assert {term.inputs[0]: (term.low, term.high) for term in told} == {"protocol": (3, 3), "address": (2, 2)}


@pytest.mark.parametrize(
    ("act", "tool", "says"),
    [
        ("check:voc-PV1", {"rated_v": 1000.0}, ()),
        ("check:voc-PV1", {"rated_v": 442.0}, ("only to 442 V",)),
        ("check:voc-PV1", {"rated_v": 443.0, "calibrated_to": "2026-11-27"}, ()),
        ("check:voc-PV1", {"calibrated_to": "2026-11-26"}, ("calibration over since 2026-11-26",)),
        ("check:earth-grid", {"rated_v": 1.0}, ()),
        ("torque:inverter.battery.pos.bat-main", {"low_nm": 11.0, "high_nm": 11.0}, ()),
        ("torque:inverter.battery.pos.bat-main", {"low_nm": 11.1}, ("not in its range",)),
        ("torque:inverter.battery.pos.bat-main", {"high_nm": 10.9}, ("not in its range",)),
    ],
)
def test_what_speaks_against_a_tool_at_its_limit_and_beyond(act: str, tool: dict[str, Any], says: tuple[str, ...]) -> None:
    item = ToolItem.model_validate({"id": "t", "title": "T", "calibrated_to": "2027-01-31", **tool})
    assert against(ACTS[act], item, date(2026, 11, 27)) == says
