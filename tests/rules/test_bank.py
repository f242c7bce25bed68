"""The rules of the bank and of joining it, each at its limit and just beyond, with every word that its breach must say."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import shelf
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.storage import BatteryCard
from gumboot.core.rules import bank as rules
from gumboot.core.rules import joining
from tests.rules.cases import Case, f, prove


def battery(**changes: Any) -> BatteryCard:
    card = shelf()["cobble-5"]
    assert isinstance(card, BatteryCard)
    return card.model_copy(update=changes)


def inverter(**changes: Any) -> InverterCard:
    card = shelf()["plover-6s"]
    assert isinstance(card, InverterCard)
    return card.model_copy(update={**changes, "battery": card.battery.model_copy(update=changes.get("battery", {}))})


FUSE = rules.Broken(where="battery fuse", device="fuse", fault=f("fault", 8700), breaks=f("breaks", 8700), field="things.switch-fuse.card")
OWN = rules.Broken(where="battery breakers", device="Cobble", fault=f("fault", 5800), breaks=f("breaks", 5800), field=".card")
BARS = rules.Stands(
    where="battery bars", thing="bars are", title="Trough", top=f("top", 58, "V"), rated=f("u", 58, "V"), field="things.busbar.card"
)
WINDOW = rules.Window(bottom=f("bottom", 40, "V"), top=f("top", 60, "V"), low=f("low", 40, "V"), high=f("high", 60, "V"))
PAIR = rules.Pair(battery=battery(), inverter=inverter())
LISTED = rules.Pair(battery=battery(), inverter=inverter(battery={"accepts": ["cobble-5"]}))
CABLING = rules.Cabling(batteries=2, style="daisy", lengths_m=[1.0, 0.9], first="bat-1")
TYPES = joining.Types(own=battery(), other=battery())
AGE = f("age", 12, "month")

STACKS = rules.Stacks(wanted=2, sizes=[6, 6], most=f("most", 2, ""), stacked=True, at_bars=True)

VOLTS = rules.HighVolts(
    where="bank", title="B", top=f("u", 100, "V"), open_most=f("lo", 100, "V"), most=f("hi", 600, "V"), covered=None
)  # fmt: skip

CASES = [
    Case(rules.charge_follows, rules.Probe(where="inverter", title="Lantern", fitted=True, field="things.inverter.card"), {"fitted": None},
         "inverter", "Lantern does not say that it feels the battery's temperature", "charge follows the temperature", field="things.inverter.card"),
    Case(rules.charge_follows, rules.Probe(where="inverter", title="Lantern", fitted=True, field="things.inverter.card"), {"fitted": False},
         "inverter", "Lantern has no probe", "newer revision", field="things.inverter.card"),
    Case(rules.fuse_breaks, FUSE, {"fault": f("fault", 8701)}, "battery fuse", "push 8701 A into a fault; the fuse breaks 8700 A.",
         "higher DC interrupting rating", "fault", "breaks", "things.switch-fuse.card"),
    Case(rules.fuse_breaks, FUSE, {"breaks": None}, "battery fuse", "gives no interrupting rating", "higher DC", "fault", "",
         "things.switch-fuse.card"),
    Case(rules.breaker_breaks, OWN, {"fault": f("fault", 5801)}, "battery breakers", "5801 A may flow at a battery's own breaker; it breaks 5800 A.",
         "Fit a fuse for each battery", "fault", "breaks", ".card"),
    Case(rules.breaker_breaks, OWN, {"breaks": None}, "battery breakers", "Cobble does not say what its breaker breaks; 5800 A",
         "ask the maker", "fault", "", ".card"),
    Case(rules.dc_voltage, BARS, {"top": f("top", 58.1, "V")}, "battery bars", "reaches 58.1 V; the bars are rated 58 V DC.", "Choose bars",
         "top", "u", "things.busbar.card"),
    Case(rules.dc_voltage, BARS, {"rated": None, "thing": "device is"}, "battery bars", "Trough gives no DC rating; the battery reaches 58 V.",
         "Choose a device with a DC rating", "top", "", "things.busbar.card"),
    Case(rules.count, rules.Count(number=f("n", 3, ""), least=None, most=f("most", 3, "")), {"number": f("n", 4, "")}, "bank",
         "4 batteries; the maker allows 3.", "Take batteries off.", "n", "most"),
    Case(rules.stacks, STACKS, {"wanted": 3, "sizes": [6, 6, 6]}, "bank", "3 strings in parallel; the maker allows 2", "Take strings off", limit="most",
         field=".strings"),
    Case(rules.stacks, STACKS, {"stacked": False}, "bank", "the maker allows 2", "more stand in parallel", limit="most", field=".strings"),
    Case(rules.stacks, STACKS, {"sizes": [6, 5]}, "bank", "11 units do not make 2 of one length", "as many units as the other", field=".units"),
    Case(rules.stacks, STACKS, {"sizes": [12]}, "bank", "12 units do not make 2 of one length", "as many units", field=".units"),
    Case(rules.stacks, STACKS, {"at_bars": False}, "bank", "2 side by side have no bars to meet at", "Put in a busbar box", field="things.busbar.card"),
    Case(rules.series, rules.Count(number=f("n", 1, ""), least=None, most=f("most", 8, "")), {"number": f("n", 0, "")}, "bank",
         "0 units stand in series; the maker allows 1 to 8.", "Change the number of units.", "n"),
    Case(rules.series, rules.Count(number=f("n", 4, ""), least=f("least", 4, ""), most=f("most", 8, "")), {"number": f("n", 3, "")}, "bank",
         "3 units stand in series; the maker allows 4 to 8.", "number of units", "n", "least"),
    Case(rules.series, rules.Count(number=f("n", 8, ""), least=f("least", 4, ""), most=f("most", 8, "")), {"number": f("n", 9, "")}, "bank",
         "9 units", "number of units", "n", "most"),
    Case(rules.window, WINDOW, {"bottom": f("bottom", 39.9, "V")}, "bank", "works from 39.9 to 60 V; the inverter takes 40 to 60 V.",
         "inside the inverter's window", "bottom", "low", ".card"),
    Case(rules.window, WINDOW, {"top": f("top", 60.1, "V")}, "bank", "40 to 60.1 V", "inside the inverter's window", "top", "high",
         ".card"),
    Case(rules.chemistry, PAIR, {"battery": battery(chemistry="NMC")}, "bank", "The battery is NMC; the inverter has settings for LFP",
         "chemistry the inverter can be set for", field=".card"),
    Case(rules.listed, LISTED, {"battery": battery(id="other", title="Other")}, "bank", "Other is not on the battery list of",
         "Choose one of: cobble-5.", field=".card"),
    Case(rules.listed, PAIR, {"inverter": inverter(bank_internal=True, battery={"accepts": []})}, "bank", "is not on the battery list",
         "none is listed; ask the maker", field=".card"),
    Case(rules.docks, PAIR, {"battery": battery(arrangement="docked")}, "bank", "docks inside a unit of its maker", "belong together",
         field=".card"),
    Case(rules.docks, PAIR, {"inverter": inverter(bank_internal=True)}, "bank", "takes only its own modules inside", "belong together",
         field=".card"),
    Case(rules.daisy, CABLING, {"batteries": 3}, "bank", "3 batteries are daisy-chained", "equal leads", field=".cabling", level="caution"),
    Case(rules.daisy, CABLING, {"batteries": 4}, "bank", "4 batteries are daisy-chained", "equal leads", field=".cabling", level="stop"),
    Case(rules.daisy, rules.Cabling(batteries=3, style="diagonal", lengths_m=[], first="a"), {"batteries": 4}, "bank", "4 batteries", "diagonally",
         field=".cabling", level="stop"),
    Case(rules.equal_leads, CABLING, {"lengths_m": [1.0, 0.899]}, "bank", "differ by more than a tenth", "one length",
         field="runs.bat-1.length_m"),
    Case(rules.dwelling_voltage, VOLTS, {"top": f("u", 100.1, "V")}, "bank", "does not say that no live part can be reached", "newer revision", "u", "lo",
         ".card"),
    Case(rules.dwelling_voltage, VOLTS, {"top": f("u", 100.1, "V"), "covered": False}, "bank", "its card says that live parts can be reached",
         "below 100 V", "u", "lo", ".card"),
    Case(rules.dwelling_voltage, VOLTS.but(top=f("u", 600, "V"), covered=True), {"top": f("u", 600.1, "V")}, "bank",
         "reaches 600 V; in a dwelling 600 V is the most", "fewer units", "u", "hi", ".units"),
    Case(rules.alike_in_resistance, rules.Unlike(apart=f("a", 10, "%"), most=f("m", 10, "%"), lowest="bat-2", field="x"), {"apart": f("a", 10.1, "%")}, "bank",
         "differ by 10 % in resistance: bat-2 has the least", "one size", "a", "m", "x"),
    Case(rules.precharge, rules.Precharge(fitted=True), {"fitted": False}, "bank", "No pre-charge", "Fit the pre-charge path",
         field=".precharge"),
    Case(rules.hot_charging, rules.Hot(hottest=f("t", 50, "°C"), most=f("m", 50, "°C"), field="site.room_high_c"), {"hottest": f("t", 50.1, "°C")}, "bank",
         "The place reaches 50.1 °C; the cells may be charged up to 50 °C", "Choose a cooler place", "t", "m", "site.room_high_c"),
    Case(rules.cold_charging, rules.Cold(coldest=f("t", 0, "°C"), least=f("least", 0, "°C"), field="site.room_low_c"), {"coldest": f("t", -0.1, "°C")}, "bank",
         "falls to -0.1 °C; the cells may be charged from 0 °C.", "warmer place", "t", "least", "site.room_low_c"),
    Case(rules.share, rules.Share(name="bat-1", share=f("share", 75), whole=f("whole", 140), one=f("one", 75)), {"share": f("share", 75.1)}, "bank",
         "bat-1 would carry 75.1 A of 140.0 A; one battery gives 75 A.", "Make the leads alike", "share", "one", ".cabling"),
    Case(rules.share, rules.Share(name="Battery 1", share=f("share", 75), whole=None, one=f("one", 75)), {"share": f("share", 76)}, "bank",
         "Battery 1 would carry 76.0 A; one", "use busbars", "share", "one", ".cabling"),
    Case(rules.weakest_link, rules.Weakest(title="busbars", amps=f("amps", 137), design=f("design", 137)), {"amps": f("amps", 136.9)}, "busbars",
         "Full output draws 137.0 A at the lowest voltage; busbars carries 136.9 A.", "Strengthen", "design", "amps"),
    Case(rules.cable_length, rules.Cable(length=f("l", 3, "m"), most=f("most", 3, "m")), {"length": f("l", 3.1, "m")}, "bat-main",
         "3.1 m long; the inverter's maker allows 3 m.", "nearer", "l", "most", "runs.bat-main.length_m"),
    Case(rules.device_between, rules.Guarded(where="bat-main", device=f("d", 175)), {"device": None}, "bat-main", "No overcurrent device",
         "Fit a DC fuse or breaker", field="things.switch-fuse.card"),
    Case(joining.voltages_agree, joining.Meeting(apart=f("apart", 0.5, "V"), most=f("most", 0.5, "V")), {"apart": f("apart", 0.6, "V")}, "join",
         "They stand 0.60 V apart; 0.5 V is the most", "alone until they agree", "apart", "most"),
    Case(joining.voltages_agree, joining.Meeting(apart=f("apart", 0.5, "V"), most=f("most", 0.5, "V")), {"apart": None}, "join",
         "The voltages are not measured.", "Measure both before they meet.", level="note"),
    Case(joining.one_chemistry, TYPES, {"other": battery(chemistry="NMC")}, "join", "It is NMC; the bank is LFP.", "Never join two chemistries."),
    Case(joining.one_voltage, TYPES, {"other": battery(nominal_v=48.0)}, "join", "It is 48 V; the bank's units are 51.2 V.", "same voltage"),
    Case(joining.alike_inside, TYPES, {"other": battery(energy_wh=5000.0)}, "join", "share current unequally", "same type"),
    Case(joining.alike_inside, TYPES, {"other": battery(cell_mohm=99.0)}, "join", "at 99 mΩ", "same type"),
    Case(joining.heard, TYPES, {"other": battery(protocols=[])}, "join", "speaks no protocol of this bank", "same make"),
    Case(joining.one_type, TYPES, {"other": battery(id="x", title="Xylo")}, "join", "Xylo is another type than Cobble 5", "One bank is of one type"),
    Case(joining.ages_agree, joining.Ages(own=0, other=12, most_apart=AGE), {"other": 12.1}, "join", "It is 12.1 months old, the bank 0",
         "within a year", limit="age"),
    Case(joining.ages_agree, joining.Ages(own=12, other=0, most_apart=AGE), {"own": 12.1}, "join", "works harder", "ask the maker", limit="age"),
    Case(joining.ages_agree, joining.Ages(own=1, other=1, most_apart=AGE), {"own": None}, "join", "ages are not given", "date codes", level="note"),
    Case(joining.ages_agree, joining.Ages(own=1, other=1, most_apart=AGE), {"other": None}, "join", "ages are not given", "date codes",
         level="note"),
    Case(joining.versions_agree, joining.Versions(own="1.2", other="1.2"), {"other": "1.3"}, "join", "Its firmware is 1.3; the bank's is 1.2.",
         "one version"),
    Case(joining.versions_agree, joining.Versions(own="1.2", other="1.2"), {"other": None}, "join", "firmware is not given", "maker's tool",
         level="note"),
    Case(joining.room, joining.Room(more=1, why="w"), {"more": 0, "why": "The maker allows 3."}, "join", "There is no room: The maker allows 3.",
         "second bank"),
]  # fmt: skip


@pytest.mark.parametrize("case", CASES, ids=[f"{c.rule.code}-{i}" for i, c in enumerate(CASES)])
def test_at_the_limit_and_just_beyond(case: Case) -> None:
    prove(case)


def test_what_is_not_asked_of_this_bank_holds() -> None:
    assert rules.daisy(rules.Cabling(batteries=9, style="busbar", lengths_m=[], first="a")) is None
    assert rules.equal_leads(rules.Cabling(batteries=2, style="busbar", lengths_m=[], first="a")) is None
    assert joining.versions_agree(joining.Versions(own="", other=None)) is None
    assert joining.heard(joining.Types(own=battery(protocols=[]), other=battery(protocols=[]))) is None
