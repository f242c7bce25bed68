"""The rules of boards, grid, generator, bonds and shock at their limits."""

from __future__ import annotations

import pytest

from gumboot.core.figure import Figure
from gumboot.core.rules import bonds, shock
from gumboot.core.rules import connection as rules
from tests.rules.cases import Case, f, prove

BAR = rules.Bar(where="main board", total=f("sum", 240), limit=f("lim", 240), act="Move it.", field="site.busbar_a")
AHEAD = rules.Ahead(where="transfer", rated=f("rated", 100), device=f("dev", 100), field="things.transfer.card")
GENERATED = rules.Generated(title="G", where="gen", inverter="I", volts=f("v", 216, "V"), wanted=f("w", 240, "V"), lines=2, wants=2)
AGAINST = rules.Against(found=f("found", 50), most=f("most", 50))
FAULT = rules.Fault(fault=f("fault", 10000), breaks=f("breaks", 10000), series="not used")
BREAKS = rules.Breaks(where="sub-board", fault=f("fault", 6000), breaks=f("breaks", 6000), field="things.sub-board.card")
PORT = rules.Port(where="inverter GRID", title="GRID of I", amps=f("a", 50), most=f("m", 50), field="x")
SILENT = rules.Silent(
    stated=f("says", 50), where="inverter", title="Plover", path="source.island_fault_a", what="what it pushes into a fault",
    waits="whether a fault is broken", field="things.inverter.card",
)  # fmt: skip
SURVEYED = rules.Surveyed(
    what="busbar", board="main-board", title="Board", said=f("said", 100), card=f("card", 100), field="site.busbar_a"
)  # fmt: skip
WARM = rules.Warm(circuit="grid", amps=f("amps", 32), device=f("dev", 40), cool=f("cool", 32), field="runs.grid.device_a")
BONDS = bonds.Bonds(inverter="Plover", boards="main board", by_inverter="none", off_grid=False, opens_neutral=False)
GATEWAY = bonds.Bonds(inverter="Plover", boards="none", by_inverter="fixed in gateway", off_grid=False, opens_neutral=True)
GENERATOR = bonds.Bonds(inverter="P", boards="none", by_inverter="relay", off_grid=True, opens_neutral=None, generator_bonded=True)
LOOP = shock.Loop(circuit="grid", loop=f("loop", 1, "ohm"), most=f("most", 1, "ohm"), guarded=False, field="runs.grid.residual_ma")
ISLAND = shock.Island(
    device=f("dev", 32), trip=f("trip", 160), fault=f("fault", 160), shutdown=f("off", 0.5, "s"), longest=f("long", 0.4, "s"), guarded=False
)
RESIDUAL = shock.Residual(circuit="grid", required_because="why", rating=f("idn", 30, "mA"), type_fitted="A", type_wanted="A", run="grid")
STAYS = shock.Stays(
    circuit="grid", rating=f("idn", 300, "mA"), run="grid", least=f("least", 300, "mA"), electrode=f("ra", 166, "ohm"),
    electrode_most=f("most", 166, "ohm"),
)  # fmt: skip


def area(name: str, value: float, label: str) -> Figure:
    return Figure(name, name, name, value, "mm2", source="arith", label=label)


LOADED = rules.Loaded(asks=f("a", 50), charging=f("c", 8), together=f("t", 60), main=f("m", 60))
CONDUCTED = rules.Conducted(size="2 AWG", metal="copper", main=f("i", 125), most=f("m", 125), dwelling=False)

HERTZ = rules.Hertz(title="Donkey", where="g", gives=f("g", 63, "Hz"), wanted=f("w", 60, "Hz"))

CASES = [
    Case(rules.generator_frequency, HERTZ, {"gives": f("g", 63.1, "Hz")}, "g", "Donkey gives 63.1 Hz; the house runs at 60 Hz.", "of this frequency",
         "g", "w", ".card"),
    Case(rules.generator_frequency, HERTZ.but(gives=f("g", 57, "Hz")), {"gives": None}, "g", "does not state its frequency", "from the plate", "", "w", ".card"),
    Case(rules.supply_carries, LOADED, {"together": f("t", 60.1)}, "supply", "The house asks 50 A and charging from the grid 8.0 A",
         "Lower the charge current from the grid", "t", "m", "settings.grid_charge_a"),
    Case(rules.service_carries_main, CONDUCTED, {"main": f("i", 126)}, "supply", "2 AWG copper bear a main device of 125 A; 126 A stands there.",
         "83 % of the rating suffices then", "i", "m", "site.service_size"),
    Case(rules.service_carries_main, CONDUCTED.but(dwelling=True), {"main": f("i", 126)}, "supply", "2 AWG copper bear", "fit a smaller main device.",
         "i", "m", "site.service_size"),
    Case(rules.pass_through, rules.Through(design=f("d", 50), most=f("m", 50)), {"design": f("d", 50.1)}, "grid",
         "would carry 50.1 A; the inverter passes 50 A.", "charge more slowly", "d", "m", "settings.grid_charge_a"),
    Case(rules.busbar, BAR, {"total": f("sum", 240.1)}, "main board", "Main device and inverter add to 240.1 A; the busbar allows 240.0 A.",
         "Move it.", "sum", "lim", "site.busbar_a"),
    Case(rules.main_switch, BAR, {"total": f("sum", 240.1)}, "main board", "add to 240.1 A; the busbar carries 240.0 A.", "Move it.", "sum", "lim",
         "site.busbar_a"),
    Case(rules.behind_its_device, AHEAD, {"device": f("dev", 101)}, "transfer", "Transfer: rated 100 A, behind a device of 101 A.",
         "smaller device ahead", "dev", "rated", "things.transfer.card"),
    Case(rules.feeder_takes_it_back, rules.Against(found=f("found", 50), most=f("most", 50), where="annex"), {"found": f("found", 50.1)}, "annex",
         "Sources send 50.1 A back along the feeder of annex; its main device is 50 A.", "Join them to the board ahead", "found", "most",
         "things.annex.card"),
    Case(rules.supply_side, AGAINST, {"found": f("found", 50.1)}, "main board", "may not exceed the service's 50 A", "larger service", "found",
         "most", "site.connection"),
    Case(rules.controlled, AGAINST, {"found": f("found", 51)}, "main board", "set to 51 A; the busbar is rated 50 A", "lock it", "found", "most",
         "site.control_setting_a"),
    Case(rules.maker_allows_device, AGAINST, {"found": f("found", 51)}, "grid", "breaker is 51 A; the inverter's grid port allows 50 A",
         "Fit 50 A or less.", "found", "most", "runs.grid.device_a"),
    Case(rules.generator_input, AGAINST, {"found": f("found", 51)}, "generator", "device is 51 A; the input bears 50 A", "smaller device",
         "found", "most", ".card"),
    Case(rules.generator_voltage, GENERATED, {"volts": f("v", 215.9, "V")}, "gen", "G gives 215.9 V; I takes 240 V.", "generator of this voltage", "v", "w",
         ".card"),
    Case(rules.generator_voltage, GENERATED.but(volts=f("v", 264, "V")), {"volts": f("v", 264.1, "V")}, "gen", "G gives 264.1 V", "transformer", "v", "w",
         ".card"),
    Case(rules.generator_lines, GENERATED, {"lines": 1}, "gen", "G has 1 live conductor; the generator input of I has 2.", "same kind of supply",
         field=".card"),
    Case(rules.generator_lines, GENERATED.but(lines=0), {"lines": 3}, "gen", "G has 3 live conductors", "same kind of supply", field=".card"),
    Case(rules.generator_power, AGAINST, {"found": f("found", 51)}, "generator", "ask 51 W; the generator gives 50 W", "larger generator",
         "found", "most", "settings.grid_charge_a"),
    Case(rules.board_is_fed, rules.Fed(board="barn", inverters=["i"]), {"inverters": []}, "barn", "No inverter feeds barn: it is dark in an outage",
         "which board, panel or transfer equipment feeds it", field="things.barn.fed_from"),
    Case(rules.is_fed_once, rules.FedBy(place="barn", by=["a"], field="things.barn.fed_from"), {"by": ["a", "b"]}, "barn", "barn is fed by a and by b",
         "Let one thing feed it", field="things.barn.fed_from"),
    Case(rules.transfer_capacity, AGAINST.but(where="transfer"), {"found": f("found", 50.1)}, "transfer", "50.1 A pass through the transfer equipment",
         "larger transfer equipment", "found", "most", ".card"),
    Case(rules.notification, AGAINST, {"found": f("found", 50.1)}, "grid", "50.1 A per phase, above the 50 A", "Ask the network operator", "found",
         "most"),
    Case(rules.imbalance, rules.Unbalanced(source=f("s", 20), most=f("m", 20), clause="c.l"), {"source": f("s", 20.1)}, "grid",
         "20.1 A unbalances the three phases by more than 20 A", "three-phase inverter", "s", "m", source="c.l"),
    Case(rules.board_breaks, FAULT, {"fault": f("fault", 10001)}, "main board", "push 10001 A; the breakers break 10000 A",
         "higher interrupting rating", "fault", "breaks", "site.main_board_interrupting_a"),
    Case(shock.metal_near_earth, shock.ElectrodeMetal(material="copper", electrode="ground ring", in_the_earth=True), {"material": "aluminium"},
         "electrode", "aluminium electrode conductor leads to a ground ring", "Pull copper", field="site.electrode_material"),
    Case(rules.devices_break, BREAKS, {"fault": f("fault", 6001)}, "sub-board", "push 6001 A into a fault at sub-board; its devices break 6000 A",
         "higher rating", "fault", "breaks", "things.sub-board.card"),
    Case(rules.devices_break, BREAKS.but(switch=True), {"fault": f("fault", 6001)}, "sub-board", "it withstands 6000 A", "higher rating", "fault",
         "breaks", "things.sub-board.card"),
    Case(rules.supply_side_conductor, rules.SupplySide(circuit="grid", installed=area("in", 13.3, "6 AWG"), least=area("least", 13.3, "6 AWG"), field="x"),
         {"installed": area("in", 8.37, "8 AWG")}, "grid", "grid joins ahead of the main with 8 AWG; no less than 6 AWG may.", "Pull 6 AWG.", "in",
         "least", "x"),
    Case(shock.bonding_large_enough, shock.Bonding(fitted=area("in", 10, "10 mm2"), required=area("req", 10, ""), supply="25 mm2"),
         {"fitted": area("in", 6, "6 mm2")}, "bonding", "is 6 mm2; 10 mm2 are required beside 25 mm2", "Pull 10 mm2.", "in", "req",
         "site.bonding_size"),
    Case(rules.room_in_the_board, rules.Ways(board="sub-board", poles=f("p", 8, ""), ways=f("w", 8, ""), field="x"), {"poles": f("p", 9, "")},
         "sub-board", "9 poles hang on sub-board; it has 8 ways.", "larger board", "p", "w", "x"),
    Case(rules.port_stands, rules.PortVolts(where="roof PV1", title="PV1 of Eaves", highest=f("v", 600, "V"), most=f("m", 600, "V"), field="x"),
         {"highest": f("v", 600.1, "V")}, "roof PV1", "600 V may stand at PV1 of Eaves; its contacts allow 600 V.", "lower the voltage", "v", "m", "x"),
    Case(rules.port_carries, PORT, {"amps": f("a", 50.1)}, "inverter GRID", "50.1 A flow at GRID of I; it allows 50 A.", "larger port", "a", "m", "x"),
    Case(rules.port_carries, PORT.but(device=True), {"amps": f("a", 60)}, "inverter GRID", "A device of 60 A sits at GRID of I; it allows 50 A.",
         "larger port", "a", "m", "x"),
    Case(rules.card_states, SILENT, {"stated": None}, "inverter", "Plover does not state what it pushes into a fault (source.island_fault_a)",
         "newer revision of the card", field="things.inverter.card"),
    Case(rules.survey_matches_card, SURVEYED, {"said": f("said", 101)}, "main-board",
         "says 101 A for the busbar of main-board; the card of Board says 100 A", "correct the survey", "said", "card", "site.busbar_a"),
    Case(rules.series_marked, FAULT, {"series": "unmarked"}, "main board", "no marking names this pair", "tested and marked together", "fault",
         "breaks", "site.series_rating"),
    Case(rules.backfed, rules.Fastened(fastened=None), {"fastened": False}, "main board", "pulled off, its stab is live", "hold-down",
         field="site.backfed_fastened"),
    Case(rules.runs_cool, WARM, {"amps": f("amps", 32.1)}, "grid", "32.1 A for hours through a 40 A device in a closed box: it runs hot above 32.0",
         "derating table", "amps", "cool", "runs.grid.device_a"),
    Case(rules.pv_within_the_permit, rules.Unthrottled(output=f("o", 3600, "W"), permit=f("p", 3600, "W"), names=["A", "B"]),
         {"output": f("o", 3601, "W")}, "grid", "A and B give 3601 W by the sun alone; 3600 W are permitted", "smaller PV inverter", "o", "p",
         "site.export_limit_w"),
    Case(rules.export_held, rules.Export(output=f("o", 5000, "W"), permit=f("p", 5000, "W"), settable=False), {"output": f("o", 5001, "W")},
         "grid", "can export 5001 W; 5000 W are permitted", "larger permit", "o", "p", "site.export_limit_w"),
    Case(rules.export_held, rules.Export(output=f("o", 5000, "W"), permit=f("p", 5000, "W"), settable=True, blind="i-2"), {"output": f("o", 5001, "W")},
         "grid", "i-2 has no CTs to hold a limit by", "larger permit", "o", "p", "site.export_limit_w"),
    Case(rules.interlocked, rules.Bypass(kind="interlocked"), {"kind": "breaker without interlock"}, "backed-up board", "out of step",
         "interlock or transfer switch", field="backup.bypass"),
    Case(rules.supply_fits, rules.Supply(title="P", output="split phase", brings="split phase"), {"brings": "single phase"}, "inverter",
         "P is made for split phase; the network brings single phase.", "for this supply", field="site.supply"),
    Case(rules.supply_fits, rules.Supply(title="P", output="single phase", brings="three phase"), {"output": "split phase"}, "inverter",
         "made for split phase", "Correct the survey", field="site.supply"),
    Case(rules.supply_fits, rules.Supply(title="P", output="single phase", brings="three phase", where="i-2"), {"output": "split phase"}, "i-2",
         "made for split phase", "Correct the survey", field="site.supply"),
    Case(bonds.bond_ahead_alone, bonds.Behind(board="annex", bonded=False), {"bonded": True}, "neutral",
         "The neutral is bonded to earth in annex as well", "Take the bond in that board out", field="things.annex.bonded"),
    Case(bonds.bond_ahead_alone, bonds.Behind(board="annex", bonded=None), {"bonded": True}, "neutral", "behind the bond of its supply",
         "neutral bar apart", field="things.annex.bonded"),
    Case(bonds.bond_with_grid, BONDS, {"boards": "both boards"}, "neutral", "2 neutral-earth bonds while the grid is present.", "exactly one",
         field="site.neutral_bond"),
    Case(bonds.bond_with_grid, GATEWAY, {"by_inverter": "relay"}, "neutral", "0 neutral-earth bonds while", "fixed in the gateway",
         field="site.neutral_bond"),
    Case(bonds.bond_in_island, BONDS, {"opens_neutral": True}, "neutral", "0 neutral-earth bonds on the backed-up side in an outage: "
         "the neutral is opened to the grid's, and the inverter makes none.", "never both", field="site.neutral_bond"),
    Case(bonds.bond_in_island, BONDS, {"by_inverter": "relay"}, "neutral", "2 neutral-earth bonds on the backed-up side in an outage: "
         "the neutral stays joined to the grid's, and the inverter bonds by a relay.", "Exactly one", field="site.neutral_bond"),
    Case(bonds.bond_in_island, BONDS, {"opens_neutral": None}, "neutral", "The card of Plover does not say whether it opens the neutral",
         "Exactly one", field="site.neutral_bond"),
    Case(bonds.bond_in_island, GATEWAY, {"boards": "main board", "opens_neutral": False}, "neutral",
         "2 neutral-earth bonds on the backed-up side in an outage: the neutral stays joined to the grid's, and the gateway holds a fixed bond.",
         "Exactly one", field="site.neutral_bond"),
    Case(bonds.bond_with_generator, GENERATOR, {"boards": "main board"}, "generator", "2 neutral-earth bonds while the generator feeds: its own",
         "own bond out", field="site.neutral_bond"),
    Case(bonds.bond_with_generator, GENERATOR, {"generator_bonded": False}, "generator", "0 neutral-earth bonds while the generator feeds: none",
         "keep the only one", field="site.neutral_bond"),
    Case(shock.trips_in_time, LOOP, {"loop": f("loop", 1.01, "ohm")}, "grid", "has 1.01 ohm; its device trips in time up to 1.00 ohm",
         "a lower curve", "loop", "most", "runs.grid.residual_ma"),
    Case(shock.trips_in_time, LOOP, {"most": None}, "grid", "guarded by a fuse", "Read the curve", "loop", "", "runs.grid.residual_ma"),
    Case(shock.bears_the_heat, shock.Heat(circuit="c", earth=area("e", 4, "4 mm2"), heat=area("h", 4, ""), fault_a=1600, field="x"),
         {"heat": area("h", 4.1, "")}, "c", "1600 A heats the 4 mm2 earth conductor beyond its limit: 4.1 mm2 are needed", "larger earth",
         "e", "h", "x"),
    Case(shock.not_it, shock.Earthing(system="TT"), {"system": "IT"}, "supply", "The supply is IT", "licensed person", field="site.earthing"),
    Case(shock.island_trips, ISLAND, {"fault": f("fault", 159)}, "backup", "gives 159 A into a fault; the 32 A device needs 160 A to trip",
         "shutdown time", "off", "long", "runs.backup.residual_ma"),
    Case(shock.island_trips, ISLAND.but(circuit="backup-x"), {"fault": f("fault", 159)}, "backup-x", "needs 160 A to trip", "shutdown time",
         "off", "long", "runs.backup-x.residual_ma"),
    Case(shock.island_trips, ISLAND, {"fault": None, "shutdown": None}, "backup", "the card does not say what the inverter gives into a fault",
         "residual device", "", "trip", "runs.backup.residual_ma"),
    Case(shock.island_trips, ISLAND, {"trip": None, "shutdown": None}, "backup", "a fuse trips only by its maker's curve", "residual device",
         "fault", "", "runs.backup.residual_ma"),
    Case(shock.island_trips, shock.Island(device=f("d", 32), trip=None, fault=None, shutdown=f("off", 0.4, "s"), longest=f("long", 0.4, "s"),
         guarded=False), {"shutdown": f("off", 0.41, "s")}, "backup", "the card does not say", "shutdown time", "off", "long",
         "runs.backup.residual_ma"),
    Case(shock.residual_fitted, RESIDUAL, {"rating": None}, "grid", "grid has no residual device; why.", "type and rating shown",
         field="runs.grid.residual_ma"),
    Case(shock.residual_type_sees, RESIDUAL, {"type_wanted": "B"}, "grid", "is type A; this inverter asks type B", "Fit type B",
         field="runs.grid.residual_type"),
    Case(shock.guards_against_fire, shock.Rated(circuit="c", rating=f("r", 300, "mA"), limit=f("l", 300, "mA"), run="r"),
         {"rating": f("r", 301, "mA")}, "c", "301 mA guards neither people nor against fire", "the place asks for", "r", "l", "runs.r.residual_ma"),
    Case(shock.rating_fits, STAYS, {"rating": f("idn", 299, "mA")}, "grid", "299 mA device trips on this inverter's own leakage",
         "Fit 300 mA or more.", "idn", "least", "runs.grid.residual_ma"),
    Case(shock.rating_fits, STAYS, {"electrode": f("ra", 167, "ohm")}, "grid", "has 167 ohm; behind 300 mA at most 166 ohm", "more sensitive",
         "ra", "most", "runs.grid.residual_ma"),
    Case(shock.island_earth, shock.IslandEarth(stands=None, needed_because="why"), {"stands": False}, "island",
         "no earth electrode of its own, and why.", "Drive an electrode", field="site.island_electrode"),
    Case(shock.electrode_large_enough, shock.Electrode(fitted=area("a", 13.3, "6 AWG"), required=area("b", 13.3, "6 AWG"), service="2/0 AWG"),
         {"fitted": area("a", 8.4, "8 AWG")}, "electrode", "is 8 AWG; 6 AWG is required beside 2/0 AWG", "Pull 6 AWG.", "a", "b",
         "site.electrode_size"),
]  # fmt: skip


@pytest.mark.parametrize("case", CASES, ids=[f"{c.rule.code}-{i}" for i, c in enumerate(CASES)])
def test_at_the_limit_and_just_beyond(case: Case) -> None:
    prove(case)


def test_what_holds_without_a_limit() -> None:
    # A marked series rating stands for breakers that break less; a residual device for a slow loop; nothing is asked where nothing is due.
    assert rules.board_breaks(rules.Fault(fault=f("a", 2), breaks=f("b", 1), series="marked")) is None
    assert rules.export_held(rules.Export(output=f("a", 2), permit=f("b", 1), settable=True)) is None
    assert shock.trips_in_time(shock.Loop(circuit="c", loop=f("a", 9), most=None, guarded=True, field="")) is None
    slow = shock.Island(device=f("d", 1), trip=None, fault=None, shutdown=None, longest=f("l", 1), guarded=True)
    assert shock.island_trips(slow) is None
    none_due = shock.Residual(circuit="c", required_because="", rating=None, type_fitted="AC", type_wanted="B", run="r")
    assert shock.residual_fitted(none_due) is None
    assert shock.residual_type_sees(none_due) is None
    assert shock.rating_fits(shock.Stays(circuit="c", rating=f("a", 1), run="r")) is None
    assert shock.island_earth(shock.IslandEarth(stands=False, needed_because="")) is None
    off_grid = bonds.Bonds(inverter="P", boards="both boards", by_inverter="none", off_grid=True, opens_neutral=None)
    assert bonds.bond_with_grid(off_grid) is None


@pytest.mark.parametrize(("fitted", "sees"), [("AC", 1), ("A", 2), ("F", 3), ("B", 4)])
def test_a_later_type_sees_what_an_earlier_one_sees(fitted: str, sees: int) -> None:
    def holds(wanted: str) -> bool:
        asked = shock.Residual(circuit="c", required_because="", rating=f("a", 1), type_fitted=fitted, type_wanted=wanted, run="r")
        return shock.residual_type_sees(asked) is None

    assert sum(holds(wanted) for wanted in ("AC", "A", "F", "B")) == sees
