"""The rules of loads, links, sensing, settings, first power and readings at their limits."""

from __future__ import annotations

import pytest

from gumboot.core.card.parts import Protocol
from gumboot.core.rules import fitting_up, landings, leads, lines, links, loops, modbus, power_up, sensing, tariffs
from gumboot.core.rules import loads as load_rules
from gumboot.core.rules import settings as rules
from gumboot.core.rules.readings import READ, Reading, faults_of
from tests.rules.cases import Case, f, prove

CARRIED = load_rules.Carried(where="L1", power=f("p", 3000, "W"), most=f("m", 3000, "W"), seconds=10)
OVER = {"power": f("p", 3001, "W")}
MINE = Protocol(number=3, name="Murre", bus="CAN", kbit_s=500, firmware_min="2.4")
OTHER = Protocol(number=9, name="Gannet", bus="CAN", kbit_s=250)
SPOKEN = links.Spoken(where="bat-1", wanted=MINE, spoken=MINE, common=MINE, field="x")
CHOSEN = links.Spoken(where="inverter", wanted=MINE, common=MINE, shared=["3 Murre"], field="x")
ADDRESS = links.Address(unit="bat-2", address=2, wanted=2, switches=4, lowest=0, most=15)
CHAIN = links.Address(unit="chain", address=0, wanted=15, switches=4, lowest=0, most=15)
LEAD = leads.Lead(where="battery lead", made=frozenset({(4, 4)}), needed=frozenset({(4, 4)}))
SITS = sensing.Sits(
    channel="CT1",
    field=".cts.CT1",
    leg="L1",
    wanted_leg="L1",
    arrow="toward house",
    wanted_arrow="toward house",
    side="grid side of every load",
)
WANTED = rules.Wanted(what="charge limit", asked=f("a", 100), most=f("m", 100), field="settings.charge_a")
NEIGHBOURS = rules.Neighbours(titles=("Cut off", "Low alarm"), below=f("b", 48, "V"), above=f("a", 48.1, "V"), may_equal=False, field="x")
GAP = rules.Gap(titles=("Cut off", "Recover"), apart=f("d", 0.2, "V"), least=f("least", 0.2, "V"), field="x")
THRESHOLD = rules.Threshold(title="Float", volts=f("v", 54, "V"), low=f("lo", 44, "V"), high=f("hi", 54, "V"), field="x")
WHOLE = load_rules.Schooled(school="whole house", passes=f("p", 100), main=f("m", 100))
ANSWERS = modbus.Answers(device="m", title="Meter", address=247)
SHAPED = lines.Shaped(where="inverter", shape="line", count=2, things="devices", field="modbus.shape")
STUB = lines.Stub(
    where="m", title="Meter", length=f("l", 1, "m"), short=f("s", 1, "m"), most=f("x", 20, "m"), field="modbus.devices.m.stub_m"
)
LOADED = lines.Loaded(where="inverter", loads=f("n", 32, ""), most=f("m", 32, ""), field="x")
PACED = modbus.Paced(where="inverter", speeds=[("Meter", "9600 bit/s"), ("Charger", "9600 bit/s")], field="x")
SETTABLE = modbus.Settable(
    device="m", title="Meter", address=32, first=1, last=32, speed="9600 bit/s", speeds=("19200 bit/s", "9600 bit/s")
)
BY_AIR = rules.ByAir(title="Absorb", volts=f("v", 60, "V"), bound=f("m", 60, "V"), field="x")
CONTROL = tariffs.Control(comms="closed loop", bank="bank", linked=True, has_volts=True)
SEEN = Reading(check="c", title="T", life=True, seen=True)
BUS = Reading(check="c", title="T", life=False, unit="ohm", low=54.0, high=66.0, value=66.0)
PROVED = Reading(check="c", title="T", life=False, unit="Mohm", low=1.0, value=1.0, over=True)
DEAD = Reading(check="c", title="T", life=False, unit="V", measures="magnitude", high=5.0, value=-5.0)
DISPLAYS = Reading(check="c", title="T", life=False, unit="%", high=1.0, value=1.0, displays=2, shown=(41.0, 40.0))
LANDED = landings.Landed(
    where="inverter BATTERY +", size="2/0 AWG", landed_size="2/0 AWG", tightened_by="maker", low=f("lo", 10.45, "N m"),
    high=f("hi", 11.55, "N m"), reached_nm=10.45, tool_holds=True, tug=True, pressed=False,
)  # fmt: skip
SPRUNG = LANDED.but(tightened_by="spring", low=None, high=None, reached_nm=None, tool_holds=False, pressed=True)

CASES = [
    Case(load_rules.no_multiwire, load_rules.SingleLine(multiwire=False), {"multiwire": True}, "backed-up board", "a single 120 V line feeds",
         "a neutral each", field="backup.multiwire"),
    Case(modbus.answers_alone, ANSWERS, {"address": 248}, "m", "Meter is to have address 248; a device answers at 1 to 247.", "free address",
         field="modbus.devices.m.address"),
    Case(modbus.answers_alone, ANSWERS.but(address=1), {"address": 0}, "m", "address 0", "free address", field="modbus.devices.m.address"),
    Case(modbus.answers_alone, ANSWERS, {"taken_by": "Charger"}, "m", "Meter and Charger both have address 247", "power-cycle it",
         field="modbus.devices.m.address"),
    Case(modbus.one_speed, PACED, {"speeds": [("Meter", "9600 bit/s"), ("Charger", "19200 bit/s")]}, "inverter", "Meter 9600 bit/s, Charger 19200 bit/s",
         "to one speed", field="x"),
    Case(modbus.can_be_set, SETTABLE, {"address": 33}, "m", "Meter is to have address 33; it can be set to 1 to 32.", "that it takes",
         field="modbus.devices.m.address"),
    Case(modbus.can_be_set, SETTABLE.but(address=1), {"address": 0}, "m", "address 0", "that it takes", field="modbus.devices.m.address"),
    Case(modbus.can_be_set, SETTABLE, {"speed": "38400 bit/s"}, "m", "Meter is to speak at 38400 bit/s; it offers 19200 bit/s, 9600 bit/s.",
         "every device of the line", field="modbus.devices.m.speed"),
    Case(modbus.device_to_device, SHAPED, {"shape": "star"}, "inverter", "as a star to 2 devices", "from one to the next", field="modbus.shape"),
    Case(modbus.device_to_device, SHAPED.but(shape="star", count=1), {"count": 2}, "inverter", "as a star", "from one", field="modbus.shape"),
    Case(links.battery_to_battery, SHAPED.but(things="batteries"), {"shape": "star"}, "inverter", "as a star to 2 batteries", "from one to the next",
         field="modbus.shape"),
    Case(links.short_battery_stub, STUB, {"length": f("l", 1.1, "m")}, "m", "hangs 1.1 m off the line; good practice is up to 1 m", "in and out", "l", "s",
         "modbus.devices.m.stub_m", "caution"),
    Case(links.short_battery_stub, STUB, {"length": f("l", 20.1, "m")}, "m", "never more than 20 m", "in and out", "l", "x", "modbus.devices.m.stub_m", "stop"),
    Case(links.batteries_borne, LOADED, {"loads": f("n", 33, "")}, "inverter", "33 unit loads hang on the line; a driver bears 32.", "repeater", "n", "m", "x"),
    Case(links.address_leaves_programming, ADDRESS, {"as_programming": True}, "bat-2", "bat-2 at address 2 has its switches as they stand for programming",
         "another address", field=".units.bat-2.dip_address"),
    Case(modbus.short_stub, STUB, {"length": f("l", 1.1, "m")}, "m", "hangs 1.1 m off the line; good practice is up to 1 m", "in and out", "l", "s",
         "modbus.devices.m.stub_m", "caution"),
    Case(modbus.short_stub, STUB, {"length": f("l", 20.1, "m")}, "m", "never more than 20 m", "in and out", "l", "x", "modbus.devices.m.stub_m", "stop"),
    Case(modbus.driver_bears, LOADED, {"loads": f("n", 32.25, "")}, "inverter",
         "32.25 unit loads hang on the line; a driver bears 32.", "repeater", "n", "m", "x"),
    Case(modbus.ended_at_its_ends, modbus.Ended(device="m", title="Meter", fitted=True, wanted=True), {"fitted": False}, "m", "the last of the line and has no terminator",
         "two ends only", field="modbus.devices.m.terminator"),
    Case(modbus.ended_at_its_ends, modbus.Ended(device="m", title="Meter", fitted=False, wanted=False), {"fitted": True}, "m", "sits in the middle of the line",
         "two ends only", field="modbus.devices.m.terminator"),
    Case(modbus.somebody_asks, modbus.Asked(device="m", title="Meter", inverter="inverter", there=True), {"there": False}, "m", "is to be asked by 'inverter'",
         "Choose the inverter", field="modbus.devices.m.inverter"),
    Case(rules.equalise_within, rules.Equalise(volts=f("v", 64, "V"), most=f("m", 64, "V")), {"volts": f("v", 64.1, "V")}, "equalise",
         "asks 64.1 V; battery and inverter stand 64 V.", "Switch equalising off", "v", "m", "settings.equalise"),
    Case(rules.reached_when_cold, BY_AIR, {"volts": f("v", 60.1, "V")}, "Absorb", "Absorb wants 60.1 V on the coldest day; the inverter reaches 60 V",
         "Warm the place", "v", "m", "x"),
    Case(rules.released_when_hot, BY_AIR.but(volts=f("v", 60.1, "V")), {"volts": f("v", 60, "V")}, "Absorb", "falls to 60.0 V on the hottest day",
         "lower voltage", "v", "m", "x"),
    Case(load_rules.leg_running, CARRIED, OVER, "L1", "L1 runs at 3001 W; one leg of the inverter carries 3000 W.", "Move a load from L1", "p", "m"),
    Case(load_rules.leg_starting, CARRIED, OVER, "L1", "L1 reaches 3001 W at the largest start; the leg holds 3000 W for 10 s.", "soft starter",
         "p", "m"),
    Case(load_rules.all_running, CARRIED, OVER, "L1", "The backed-up side runs at 3001 W; the inverter carries 3000 W.", "house side", "p", "m"),
    Case(load_rules.all_starting, CARRIED, OVER, "L1", "Starting reaches 3001 W; the inverter holds 3000 W for 10 s.", "soft starter", "p", "m"),
    Case(load_rules.bank_starts, CARRIED.but(seconds=5.0), OVER, "L1", "Starting reaches 3001 W; the bank gives 3000 W for 5 s at its lowest voltage.",
         "Add a battery in parallel", "p", "m"),
    Case(load_rules.bank_carries, CARRIED, OVER, "L1", "runs at 3001 W; the bank gives 3000 W at its lowest voltage", "Add a battery", "p", "m"),
    Case(load_rules.leg_exists, load_rules.OnLeg(title="Pump", leg="L1+L2", gives=("L1", "L2"), field="x"), {"leg": "L3"}, "Pump",
         "Pump is on L3; this inverter gives L1 and L2.", "a leg that the inverter has", field="x"),
    Case(load_rules.thrown_by_hand, load_rules.Schooled(school="manual transfer", switches=["t"]), {"switches": []}, "backed-up side",
         "neither a manual transfer switch nor an interlocked inlet", "Choose a transfer switch", field="backup.school"),
    Case(load_rules.whole_house, WHOLE, {"main": f("m", 101)}, "backed-up side", "101 A come through its main device, and 100 A pass to it",
         "Fit a gateway", "m", "p", "backup.school"),
    Case(load_rules.whole_house, WHOLE, {"left_out": list("abcde")}, "backed-up side", "a, b, c and 2 more stay on the house side", "Move them over",
         field="backup.school"),
    Case(links.one_protocol, CHOSEN, {"common": None}, "inverter", "not one that the battery speaks", "Choose one of: 3 Murre.", field="x"),
    Case(links.one_protocol, CHOSEN, {"wanted": None, "shared": ()}, "inverter", "not one that the battery speaks", "none in common", field="x"),
    Case(links.one_protocol, SPOKEN, {"spoken": OTHER}, "bat-1", "bat-1 is set to Gannet; the inverter speaks Murre.", "Set protocol 3", field="x"),
    Case(links.one_protocol, SPOKEN, {"spoken": None}, "bat-1", "an unknown protocol", "power-cycle it", field="x"),
    Case(links.one_protocol, SPOKEN, {"spoken": MINE.model_copy(update={"kbit_s": 250.0})}, "bat-1", "is set to Murre", "Set protocol 3",
         field="x"),
    Case(links.one_protocol, SPOKEN, {"lacking_bus": "RS-485", "titles": ("I", "B")}, "bat-1", "I and B have no RS-485 socket in common",
         "has a socket for", field="x"),
    Case(links.firmware_suffices, links.Firmware(title="I", version="2.4", protocol=MINE), {"version": "2.3"}, "I",
         "I comes with firmware 2.3; Murre needs 2.4.", "Bring it to that version", field=".inverter_protocol"),
    Case(links.firmware_suffices, links.Firmware(title="I", version="2.10", protocol=MINE), {"version": ""}, "I", "firmware unknown", "note it",
         field=".inverter_protocol"),
    Case(links.address_in_range, ADDRESS, {"address": 16}, "bat-2", "is to have address 16; its 4 address switches show 0 to 15",
         "Set its switches to 2", field=".units.bat-2.dip_address"),
    Case(links.address_in_range, CHAIN, {"wanted": 16}, "chain", "16 batteries need an address each from 1; the 4 address switches show up to 15",
         "Take batteries off this bus."),
    Case(links.address_once, ADDRESS, {"taken": True}, "bat-2", "address 2, which another battery already has", "Set its switches to 2",
         field=".units.bat-2.dip_address"),
    Case(links.address_in_order, ADDRESS, {"address": 3}, "bat-2", "is set to address 3; in this place of the chain it is 2",
         "Set its switches to 2", field=".units.bat-2.dip_address"),
    Case(links.ends_terminated, links.Terminated(unit="b", fitted=True, wanted=True), {"fitted": False}, "b", "has no terminator: the bus echoes",
         "the two ends only", field=".units.b.terminator"),
    Case(links.ends_terminated, links.Terminated(unit="b", fitted=False, wanted=False), {"fitted": True}, "b", "middle of the bus",
         "the two ends only", field=".units.b.terminator"),
    Case(leads.one_socket, leads.Sockets(where="lead", title="I", bus="CAN", sockets=["BMS"]), {"sockets": ["BMS", "AUX"]}, "lead",
         "I has 2 CAN sockets (BMS, AUX)", "Say on the card", field=".card"),
    Case(leads.one_socket, leads.Sockets(where="lead", title="I", bus="CAN", sockets=["BMS"]), {"sockets": []}, "lead",
         "I has no CAN socket for this link", "complete its card", field=".card"),
    Case(leads.every_signal_has_a_partner, leads.Signals(where="lead", missing=[]), {"missing": [("ENABLE", "B"), ("CAN L", "")]}, "lead",
         "ENABLE stands at B only; CAN L stands at neither socket.", "both manuals", field=".card"),
    Case(leads.within_reach, leads.Reach(where="lead", length=f("l", 100, "m"), most=f("m", 100, "m"), speed="500 kbit/s CAN"),
         {"length": f("l", 100.1, "m")}, "lead", "100.1 m of 500 kbit/s CAN bus; it reaches 100 m.", "Bring both ends nearer", "l", "m", ".lead_m"),
    Case(leads.in_one_pair, leads.Twisted(where="lead", title="I", pins=(3, 4), is_pair=True), {"is_pair": False}, "lead",
         "sits on pins 3 and 4", "one twisted pair", field=".lead_as_made"),
    Case(leads.lead_joins_like, LEAD, {"made": frozenset({(4, 5)})}, "battery lead", "joins other pins", "Re-make it", field=".lead_as_made"),
    Case(leads.lead_joins_like, LEAD, {"alone": ["GND"]}, "battery lead", "GND stands at one end only.", "Look the sockets up",
         field=".lead_as_made"),
    Case(leads.lead_joins_like, LEAD, {"joins_any": False}, "battery lead", "No signal stands", "Look the sockets up", field=".lead_as_made"),
    Case(fitting_up.entries_suffice, fitting_up.Entered(where="inverter", title="I", used=f("n", 6), count=6), {"used": f("n", 7)}, "inverter",
         "7 raceways and cables come into I, which has 6 entries.", "more entries", "n"),
    Case(loops.loop_comes_back, loops.Loop(where="inverter", ohm=f("r", 4, "ohm"), most=f("m", 4, "ohm")), {"ohm": f("r", 4.01, "ohm")}, "inverter",
         "has 4.01 ohm there and back; at most 4 ohm are allowed.", "thicker core", "r", "m", "site.shutdown_loop_m"),
    Case(loops.thick_enough, loops.Core(where="inverter", size="24 AWG", area=f("a", 0.2, "mm2"), least="24 AWG", least_mm2=0.2),
         {"area": f("a", 0.1, "mm2"), "size": "26 AWG"}, "inverter", "is laid in 26 AWG; its maker allows no less than 24 AWG.", "Lay 24 AWG or thicker.",
         "a", field="site.shutdown_core"),
    Case(loops.joins_the_network, loops.Reached(where="inverter", title="I", way="wired", told=True, fits=True), {"fits": False}, "inverter",
         "I has no wired way into a network.", "Bring a network", field="site.internet"),
    Case(loops.joins_the_network, loops.Reached(where="inverter", title="I", way="wired", told=True, fits=True), {"fits": False, "told": False}, "inverter",
         "does not say how it joins a network", "Complete its card.", field="site.internet"),
    Case(sensing.goes_round, sensing.Around(conductor=f("c", 16, "mm"), opening=f("o", 16, "mm"), size="4 AWG"), {"conductor": f("c", 16.1, "mm")}, "CTs",
         "4 AWG is 16.1 mm thick; the core opens 16 mm", "larger opening", "c", "o", ".card"),
    Case(sensing.on_its_leg, SITS, {"leg": "L2"}, "CT1", "CT1 sits on L2; its channel measures L1.", "Move it to L1.", field=".cts.CT1.leg"),
    Case(sensing.right_way_round, SITS, {"arrow": "toward grid"}, "CT1", "points toward grid; this maker wants it toward house", "Turn the core",
         field=".cts.CT1.arrow"),
    Case(sensing.before_everything, SITS, {"side": "inverter side"}, "CT1", "CT1 sits on the inverter side", "service conductors",
         field=".cts.CT1.side"),
    Case(sensing.large_enough, sensing.Rated(rated=f("r", 100), main=f("m", 100)), {"main": f("m", 101)}, "CTs", "rated 100 A; the supply is 101 A",
         "larger CTs", "r", "m", ".card"),
    Case(sensing.one_to_follow, sensing.Sets(one="A", other="B", both=[]), {"both": ["L1", "L2"]}, "B", "A and B both read L1 and L2, and neither",
         "Let one follow the grid", field="sensing.meters"),
    Case(sensing.knows_of_the_grid, sensing.Blind(inverter="A", told=True), {"told": False}, "A", "A takes the grid in and has inputs for CTs",
         "Fit a set for it", field="sensing.meters"),
    Case(rules.charge_within, WANTED, {"asked": f("a", 100.1)}, "charge limit", "100.1 A is asked; the weakest link allows 100.0 A.",
         "Set 100 A or less.", "a", "m", "settings.charge_a"),
    Case(rules.discharge_within, WANTED, {"asked": f("a", 101)}, "charge limit", "101 A is asked", "Set 100 A or less.", "a", "m",
         "settings.charge_a"),
    Case(rules.grid_charge_within, rules.GridCharge(amps=f("g", 30), limit=f("l", 30)), {"amps": f("g", 31)}, "grid charge",
         "31 A from the grid is above the charge limit of 30 A", "Lower it.", "g", "l", "settings.grid_charge_a"),
    Case(rules.no_equalising, rules.Equalised(on=True, chemistry="lead-acid flooded"), {"chemistry": "LFP"}, "equalise",
         "switched on for a LFP battery", "Switch equalising off.", field="settings.equalise"),
    Case(rules.thresholds_rise, NEIGHBOURS, {"above": f("a", 48, "V")}, "Cut off and Low alarm", "Cut off is 48 V and Low alarm 48 V",
         "Use the card's value", "b", "a", "x"),
    Case(rules.thresholds_rise, rules.Neighbours(titles=("Float", "Absorb"), below=f("b", 54, "V"), above=f("a", 54, "V"), may_equal=True,
         field="x"), {"above": f("a", 53.9, "V")}, "Float and Absorb", "must rise in this order", "Use the card's value", "b", "a", "x"),
    Case(rules.within_the_battery, THRESHOLD, {"volts": f("v", 54.1, "V")}, "Float", "Float is 54.1 V; the battery lives between 44 and 54 V",
         "Use the card's value.", "v", "hi", "x"),
    Case(rules.within_the_battery, THRESHOLD, {"volts": f("v", 43.9, "V")}, "Float", "43.9 V", "Use the card's value.", "v", "hi", "x"),
    Case(rules.thresholds_stand_apart, GAP, {"apart": f("d", 0.199, "V")}, "Cut off and Recover", "Cut off and Recover stand 0.2 V apart",
         "farther apart", "d", "least", "x"),
    Case(rules.does_not_hunt, GAP, {"apart": f("d", 0.19, "V")}, "Cut off and Recover", "springs back by 0.20 V when the load goes", "farther apart",
         "d", "least", "x"),
    Case(rules.above_the_floor, rules.Depth(title="Cut off", at=f("at", 10, "%"), floor=f("fl", 10, "%"), field="x"), {"at": f("at", 9.9, "%")},
         "Cut off", "Cut off stands at 9.9 %; the battery stops by itself at 10 %.", "Set 10 % or more.", "at", "fl", "x"),
    Case(tariffs.a_price_at_every_hour, tariffs.Unpriced(at=None), {"at": ("weekends", 7, 33)}, "tariff",
         "No price stands at 16:30 on weekends in month 7.", "Give these hours a window", field="settings.tariff"),
    Case(rules.inverter_accepts, rules.Accepted(title="Reserve", value=f("v", 100, "%"), low=10, high=100, unit="%"), {"value": f("v", 101, "%")},
         "Reserve", "Reserve is 101 %; the inverter accepts 10 to 100", "accepts", "v"),
    Case(rules.inverter_accepts, rules.Accepted(title="Reserve", value=f("v", 10, "%"), low=10, high=100, unit="%"), {"value": f("v", 9, "%")},
         "Reserve", "Reserve is 9 %", "accepts", "v"),
    Case(tariffs.controlled_by_what_is_there, CONTROL, {"linked": False}, "control", "Closed loop is chosen for bank, and no link leads", "open loop",
         field="settings.comms"),
    Case(tariffs.controlled_by_what_is_there, CONTROL.but(comms="open loop"), {"has_volts": False}, "control", "gives no voltages for it",
         "Choose closed loop.", field="settings.comms"),
    Case(tariffs.timed_by_windows, CONTROL.but(mode="timed", windows=1), {"windows": 0}, "work mode", "no window says when to charge",
         "tariff's windows", field="settings.work_mode"),
    Case(tariffs.one_price_an_hour, tariffs.Overlap(titles=("Day",), field="x"), {"titles": ("Day", "Night")}, "Day and Night", "one hour has two prices",
         "where the other begins", field="x"),
    Case(tariffs.not_at_the_peak, tariffs.Window(id="w", title="Day", kind="shoulder", grid_charge=True), {"kind": "peak"}, "Day",
         "Day charges from the grid at the dearest price", "Charge off-peak.", field="settings.tariff.w.grid_charge"),
    Case(rules.reserve_carries, rules.Reserve(hours=f("h", 8, "h"), wish=f("w", 8, "h")), {"hours": f("h", 7.9, "h")}, "reserve",
         "carries 7.9 h; 8 h are wished", "Raise the reserve", "h", "w", "settings.reserve_pct"),
    Case(power_up.order_is_planned, power_up.Order(school="island first"), {"school": "grid first"}, "order",
         "The inverter's card asks for 'grid first'", "licence holder present"),
    *(Case(asked, SEEN, {"seen": False}, "c", "T: answered no.", "measure again", level="stop") for asked in READ.values()),
    Case(READ["READ-BUS"], BUS, {"value": 66.01}, "c", "T: 66.01 ohm is above 66 ohm.", "mend it", level="caution"),
    Case(READ["READ-BUS"], BUS.but(value=54.0), {"value": 53.99}, "c", "T: 53.99 ohm is below 54 ohm.", "mend it", level="caution"),
    Case(READ["READ-BUS"], BUS, {"over": True}, "c", "T: above 66 ohm is above 66 ohm.", "mend it", level="caution"),
    Case(READ["READ-BUS"], BUS, {"value": None}, "c", "T: no value.", "mend it", level="caution"),
    Case(READ["READ-BUS"], BUS.but(is_cleared=True, value=99.0), {"is_cleared": False}, "c", "T: 99 ohm is above", "mend it", level="caution"),
    Case(READ["READ-BUS"], BUS.but(is_open=True, value=None), {"is_open": False}, "c", "T: no value.", "mend it", level="caution"),
    Case(READ["READ-INSULATION"], PROVED, {"value": 0.99}, "c", "T: above 0.99 Mohm does not prove at least 1 Mohm.", "mend it",
         level="caution"),
    Case(READ["READ-DEAD"], DEAD, {"value": -5.1}, "c", "T: -5.1 V, whatever its sign, is above 5 V.", "mend it", level="caution"),
    Case(READ["READ-POLARITY"], DEAD.but(measures="polarity", value=5.0), {"value": -5.0}, "c", "T: reversed: -5 V is the wrong way round.",
         "mend it", level="caution"),
    Case(READ["READ-POLARITY"], DEAD.but(measures="polarity", value=0.0), {"value": -5.1}, "c", "and its size is outside the band.",
         "mend it", level="caution"),
    Case(READ["READ-EXPORT"], DEAD.but(measures="signed"), {"value": 5.1}, "c", "T: 5.1 V is above 5 V.", "mend it", level="caution"),
    Case(READ["READ-SOC"], DISPLAYS, {"shown": (41.0,)}, "c", "T: both displays are read, not a difference.", "mend it", level="caution"),
    Case(READ["READ-SOC"], DISPLAYS, {"shown": (41.0, 0)}, "c", "T: a display that shows nothing or 0 has no link.", "mend it",
         level="caution"),
    Case(landings.landed_as_planned, LANDED, {"size": "4/0 AWG"}, "inverter BATTERY +", "recorded for 2/0 AWG; the plan is now 4/0 AWG",
         "Pull the size"),
    Case(landings.landed_in_band, LANDED, {"reached_nm": 10.44}, "inverter BATTERY +", "10.44 N m is outside 10.45 to 11.55 N m",
         "Loosen it", limit="lo"),
    Case(landings.landed_in_band, LANDED.but(reached_nm=11.55), {"reached_nm": 11.56}, "inverter BATTERY +",
         "11.56 N m is outside 10.45 to 11.55 N m", "Loosen it", limit="hi"),
    Case(landings.landed_in_band, LANDED, {"reached_nm": None}, "inverter BATTERY +", "snug is not a value", "torque tool", limit="lo"),
    Case(landings.landed_by_a_true_tool, LANDED, {"tool_holds": False}, "inverter BATTERY +", "the tool was out of calibration",
         "whose calibration holds"),
    Case(landings.landed_by_somebodys_value, SPRUNG, {"tightened_by": "unknown"}, "inverter BATTERY +", "ask the maker before landing it",
         "put it on the card"),
    Case(landings.landed_in_its_spring, SPRUNG, {"pressed": False}, "inverter BATTERY +", "not pressed home again after the tug", "tug it"),
    Case(landings.landed_and_tugged, LANDED, {"tug": False}, "inverter BATTERY +", "no tug test", "Tug the conductor"),
]  # fmt: skip


@pytest.mark.parametrize("case", CASES, ids=[f"{c.rule.code}-{i}" for i, c in enumerate(CASES)])
def test_at_the_limit_and_just_beyond(case: Case) -> None:
    prove(case)


def test_a_landing_is_asked_only_what_its_clamp_has() -> None:
    """A spring takes no torque and no tool, a screw is not pressed home, a record of an old form names no size."""
    assert [asked.code.value for asked in landings.LANDED if asked(SPRUNG)] == []
    assert [asked.code.value for asked in landings.LANDED if asked(LANDED)] == []
    assert landings.landed_as_planned(LANDED.but(landed_size="")) is None
    # A conversion from lbf in may end a hair beyond the band.
    assert landings.landed_in_band(LANDED.but(reached_nm=10.45 - 5e-7)) is None


def test_a_cleared_reading_keeps_its_fault() -> None:
    assert faults_of(BUS.but(is_cleared=True, value=99.0)) == "99 ohm is above 66 ohm"
    assert faults_of(BUS.but(is_open=True)) == ""


def test_what_is_not_asked_holds() -> None:
    blind = links.Address(unit="b", address=99, wanted=1, switches=0, lowest=0, most=0, taken=True, placed=False)
    assert all(rule(blind) is None for rule in links.ADDRESSED)
    assert links.address_in_range(links.Address(unit="chain", address=0, wanted=99, switches=0, lowest=0, most=0)) is None
    assert leads.lead_joins_like(leads.Lead(where="l", needed=frozenset({(1, 1)}))) is None
    assert links.firmware_suffices(links.Firmware(title="t", version="", protocol=None)) is None
    # Without a protocol in common the choice itself is told of, and each battery says nothing more.
    assert links.one_protocol(links.Spoken(where="b", wanted=None)) is None
    assert links.address_in_order(links.Address(unit="b", address=9, wanted=1, switches=4, lowest=0, most=15, taken=True)) is None
    assert tariffs.not_at_the_peak(tariffs.Window(id="w", title="D", kind="peak", grid_charge=False)) is None
