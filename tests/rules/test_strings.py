"""The rules of strings, each at its limit and just beyond, with every word that its breach must say."""

from __future__ import annotations

import pytest

from gumboot.core.rules import strings as rules
from tests.rules.cases import Case, f, prove

VOLTS = rules.Volts(
    place="PV1", cold=f("cold", 500, "V"), limit=f("limit", 500, "V"), hot=f("hot", 200, "V"), low=f("low", 200, "V"),
    start=f("start", 200, "V"), most=f("most", 11, ""), fewest=f("fewest", 5, ""), field="strings.S1.modules",
)  # fmt: skip
HELD = rules.Volts(
    place="PV1", cold=f("held", 380, "V"), limit=f("limit", 380, "V"), hot=f("held", 380, "V"), low=f("low", 900, "V"),
    start=f("start", 900, "V"), held=True,
)  # fmt: skip
AMPS = rules.Amps(
    place="PV1", operating=f("op", 13), maximum=f("max", 17), operating_most=f("op_most", 13), maximum_most=f("max_most", 17),
    terminal=f("term", 17), bridge=f("bridge", 34), bridged=False, bridge_with="PV2", field="strings.S1.bridge",
)  # fmt: skip
BRIDGED = rules.Amps(
    place="PV1", operating=f("op", 13), maximum=f("max", 34), operating_most=f("op_most", 13), maximum_most=f("max_most", 99),
    terminal=f("term", 17), bridge=f("bridge", 34), bridged=True, bridge_with="PV2", field="strings.S1.bridge",
)  # fmt: skip
FUSE = rules.Fuse(
    place="PV1", parallel=3, needed=True, chosen=f("fuse", 20), least=f("least", 20), most=f("most", 25), bears=f("bears", 25)
)
BOX = rules.Isolator(place="PV1", title="Eaves", cold=f("cold", 600, "V"), maximum=f("max", 20), volts=f("u", 600, "V"), amps=f("i", 20))
LAID = rules.Laid(place="PV1", lays=[(8, "south", "m"), (8, "south", "m")], field="strings.S1.modules")
OPTIMISED = rules.Optimised(
    place="S1", modules=f("n", 20, ""), fewest=f("lo", 8, ""), most=f("hi", 20, ""), power=f("p", 5000, "W"), power_most=f("pm", 5000, "W"),
    field="strings.S1.modules",
)  # fmt: skip

WATCHED = rules.Monitored(where="inverter", title="Heron", monitors=True, field="things.inverter.card")
WORKING = rules.Working(place="PV1", cold=f("cold", 430, "V"), usual=f("usual", 400, "V"), top=f("top", 430, "V"), field="x")

CASES = [
    Case(rules.watched_inside, WATCHED, {"monitors": False}, "inverter", "Heron does not say that it watches residual current", "IEC 62109-2",
         field="things.inverter.card"),
    Case(rules.works_at_full_power, WORKING, {"cold": f("cold", 431, "V")}, "PV1", "works at 431 V on the coldest morning; the inverter gives full power up to 430 V",
         "Accept it", "cold", "top", "x", "note"),
    Case(rules.works_at_full_power, WORKING, {"usual": f("usual", 431, "V")}, "PV1", "works at 431 V with cells at 25 °C", "most of the year", "usual", "top", "x",
         "caution"),
    Case(rules.usual_ratio, rules.Ratio(ratio=f("r", 1.35, ""), most=f("m", 1.35, "")), {"ratio": f("r", 1.36, "")}, "array",
         "Module power is 1.36 times the inverters' output; usual is up to 1.35.", "what a year loses", "r", "m"),
    Case(rules.cold_voltage, VOLTS, {"cold": f("cold", 500.1, "V")}, "PV1", "PV1 reaches 500.1 V on the coldest morning; the limit is 500 V.",
         "Take it to 11 modules or fewer, or split the string.", "cold", "limit", "strings.S1.modules"),
    Case(rules.cold_voltage, VOLTS, {"cold": f("cold", 501, "V"), "most": None}, "PV1", "reaches 501.0 V", "Take modules off", "cold", "limit",
         "strings.S1.modules"),
    Case(rules.cold_voltage, HELD, {"cold": f("held", 381, "V")}, "PV1", "PV1 is held at 381 V; the limit is 380 V.", "Choose other optimisers.",
         "held", "limit"),
    Case(rules.hot_voltage, VOLTS, {"hot": f("hot", 199.9, "V")}, "PV1", "falls to 199.9 V on a hot day; its window begins at 200 V.",
         "at least 5 modules", "hot", "low", "strings.S1.modules"),
    Case(rules.hot_voltage, VOLTS, {"hot": f("hot", 199, "V"), "fewest": None}, "PV1", "falls to 199.0 V", "Lengthen the string.", "hot", "low",
         "strings.S1.modules"),
    Case(rules.start_voltage, VOLTS, {"hot": f("hot", 199.9, "V")}, "PV1", "the tracker starts at 200 V", "at least 5 modules", "hot", "start",
         "strings.S1.modules"),
    Case(rules.some_string, rules.Counts(fewest=f("lo", 11, ""), most=f("hi", 11, "")), {"fewest": f("lo", 12, "")}, "string",
         "at least 12 modules to reach the window, and 11 are the most", "wider window", "hi", "lo"),
    Case(rules.tracker_current, AMPS, {"operating": f("op", 13.1)}, "PV1", "work at 13.1 A; above 13 A", "fewer strings", "op", "op_most"),
    Case(rules.tracker_short_circuit, AMPS, {"maximum": f("max", 17.1)}, "PV1", "may see 17.1 A; the input is built for 17 A",
         "fewer strings in parallel on this tracker or choose another module", "max", "max_most"),
    Case(rules.terminal_current, AMPS, {"maximum": f("max", 17.1)}, "PV1", "one terminal carries 17 A", "maker's bridge", "max", "term",
         "strings.S1.bridge"),
    Case(rules.terminal_current, AMPS, {"maximum": f("max", 17.1), "bridge": None}, "PV1", "one terminal carries 17 A", "separate terminals",
         "max", "term", "strings.S1.bridge"),
    Case(rules.terminal_current, BRIDGED, {"maximum": f("max", 34.1)}, "PV1", "two bridged terminals carry 34 A", "separate terminals", "max",
         "bridge", "strings.S1.bridge"),
    Case(rules.bridge, BRIDGED, {"bridge": None}, "PV1", "its maker has none", "Take the bridge out.", "max", "term", "strings.S1.bridge"),
    Case(rules.bridge, BRIDGED, {"maximum": f("max", 17)}, "PV1", "one terminal carries its 17.0 A already", "Take the bridge out.", "max", "term",
         "strings.S1.bridge"),
    Case(rules.bridge, BRIDGED, {"others": ("W1",)}, "PV1", "takes the terminal of PV2, on which W1 lands", "Leave PV2 free", "max", "term",
         "strings.S1.bridge"),
    Case(rules.string_fuse, FUSE, {"chosen": f("fuse", 19.9)}, "PV1", "a 19.9 A string fuse lies outside 20.0 to 25.0 A", "20.0 to 25.0 A",
         "fuse", "bears", "string_fuse_a"),
    Case(rules.string_fuse, FUSE, {"chosen": f("fuse", 25.1)}, "PV1", "3 strings meet on PV1: a 25.1 A", "in each string", "fuse", "bears",
         "string_fuse_a"),
    Case(rules.string_fuse, FUSE, {"chosen": None}, "PV1", "above the 25 A that a module bears, and no fuse is chosen", "20.0 to 25.0 A", "least",
         "bears", "string_fuse_a"),
    Case(rules.fuse_breaks, rules.FuseBreaks(place="PV1", title="Eaves", fault=f("k", 35), breaks=f("b", 35)), {"fault": f("k", 35.1)}, "PV1",
         "push 35.1 A through a fuse of Eaves; it breaks 35 A DC.", "break more on DC", "k", "b", ".card"),
    Case(rules.isolator, BOX, {"volts": None}, "PV1", "Eaves at the roof gives no DC rating; PV1 reaches 600 V DC.", "An AC rating says nothing",
         "cold", "", ".card"),
    Case(rules.isolator, BOX, {"cold": f("cold", 600.1, "V")}, "PV1", "rated 600 V and 20 A DC", "with the DC rating", "cold", "u",
         ".card"),
    Case(rules.isolator, BOX, {"maximum": f("max", 20.1)}, "PV1", "20.1 A", "with the DC rating", "max", "i", ".card"),
    Case(rules.alike, LAID, {"lays": [(8, "south", "m"), (7, "south", "m")]}, "PV1", "unlike length or module", "its own tracker",
         field="strings.S1.modules"),
    Case(rules.alike, LAID, {"lays": [(8, "south", "m"), (8, "south", "n")]}, "PV1", "unlike length or module", "alike",
         field="strings.S1.modules"),
    Case(rules.one_face, LAID, {"lays": [(8, "south", "m"), (8, "west", "m")], "lost": f("lost", 1.25, "%")}, "PV1",
         "equal strings on south and west: up to 1.2 % is lost", "Accept it", "lost", field="strings.S1.modules"),
    Case(rules.string_fuse, FUSE, {"chosen": None, "back": f("back", 26)}, "PV1", "a fault with 26.0 A, above the 25 A", "20.0 to 25.0 A", "back",
         "bears", "string_fuse_a"),
    Case(rules.input_mode, rules.Mode(mode="parallel", modes=["independent", "parallel"], laid=LAID), {"modes": ["independent"]}, "PV1",
         "cannot be set to parallel", "to independent", field="pv_mode"),
    Case(rules.input_mode, rules.Mode(mode="parallel", modes=["parallel"], laid=LAID),
         {"laid": rules.Laid(place="inputs", lays=[(8, "a", "m"), (7, "a", "m")])}, "inputs", "join strings of unlike length", "identical", field="pv_mode"),
    Case(rules.face_holds, rules.OnFace(title="South", wanted=12, places=f("n", 12, ""), field="faces.south.columns"), {"wanted": 13}, "South",
         "South has 12 places; 13 modules are planned", "another face", limit="n", field="faces.south.columns"),
    Case(rules.optimiser_count, OPTIMISED, {"modules": f("n", 21, "")}, "S1", "21 optimised modules; 8 to 20", "Lengthen or split", "n", "hi",
         "strings.S1.modules"),
    Case(rules.optimiser_count, OPTIMISED, {"modules": f("n", 7, "")}, "S1", "7 optimised modules; 8 to 20", "Lengthen or split", "n", "lo",
         "strings.S1.modules"),
    Case(rules.optimiser_power, OPTIMISED, {"power": f("p", 5001, "W")}, "S1", "5001 W; an optimised string may have 5000 W", "Take modules off",
         "p", "pm", "strings.S1.modules"),
    Case(rules.array_power, rules.Array(power=f("p", 6000, "W"), most=f("pm", 6000, "W")), {"power": f("p", 6001, "W")}, "array",
         "6001 W of modules; the inverter accepts 6000 W.", "larger inverter", "p", "pm"),
    Case(rules.tracker_exists, rules.Lands(string="S1", tracker="PV1", known=frozenset({"PV1"})), {"tracker": "PV9"}, "S1", "is on PV9",
         "of this inverter", field="strings.S1.tracker"),
    Case(rules.labelled_alike, rules.Labels(place="PV1", pairs=[("a", "a")], field="strings.S1.label_bottom"), {"pairs": [("a", "b")]}, "PV1",
         "not labelled alike", "same label", field="strings.S1.label_bottom"),
    Case(rules.labelled_once, rules.OneLabel(label="A", strings=["S1"]), {"strings": ["S1", "W1"]}, "W1", "S1 and W1 are both labelled A", "of its own",
         field="strings.W1.label_top"),
    Case(rules.labelled_alike, rules.Labels(place="PV1", pairs=[("a", "a")], field="x"), {"pairs": [("", "")]}, "PV1", "not labelled",
         "same label", field="x"),
    Case(rules.rapid_shutdown, rules.Shutdown(fitted=None), {"fitted": False}, "array", "no rapid shutdown", "initiator outside",
         field="site.rapid_shutdown"),
]  # fmt: skip


@pytest.mark.parametrize("case", CASES, ids=[f"{c.rule.code}-{i}" for i, c in enumerate(CASES)])
def test_at_the_limit_and_just_beyond(case: Case) -> None:
    prove(case)


@pytest.mark.parametrize("rule", [rules.hot_voltage, rules.start_voltage])
def test_what_optimisers_hold_needs_no_window(rule: rules.Volts) -> None:
    assert rule(HELD) is None  # type: ignore[operator]


def test_a_fuse_that_nobody_needs_and_nobody_chose_is_no_question() -> None:
    assert (
        rules.string_fuse(rules.Fuse(place="p", parallel=1, needed=False, chosen=None, least=f("a", 1), most=f("b", 1), bears=f("c", 1)))
        is None
    )


def test_unbridged_inputs_are_not_asked_about_bridges() -> None:
    assert rules.bridge(AMPS) is None
    held = rules.Amps(
        place="p", operating=f("o", 99), maximum=f("m", 99), operating_most=f("a", 1), maximum_most=f("b", 1), terminal=f("t", 1),
        bridge=None, bridged=False, held=True,
    )  # fmt: skip
    # What optimisers give is judged at the terminal alone.
    assert rules.tracker_current(held) is None
    assert rules.tracker_short_circuit(held) is None
    assert rules.terminal_current(held) is not None
