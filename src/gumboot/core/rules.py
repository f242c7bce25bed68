"""The register of rules: every finding code with its level, station, source and what it guards against."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.finding import Level


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule as the reference lists it."""

    code: str
    level: Level
    station: str
    source: str
    holds_when: str
    left_out: str = ""


_ROWS: tuple[tuple[str, Level, str, str, str, str], ...] = (
    ("SITE-HOT", "stop", "survey", "nec.110.14d", "hottest room <= hottest air of the inverter's card", "Derating below that temperature."),
    (
        "LOAD-LEG-OVER",
        "stop",
        "loads",
        "nec.702.5",
        "running power on each leg <= continuous leg rating",
        "Diversity: every backed-up load is taken to run at once.",
    ),
    (
        "LOAD-LEG-SURGE",
        "stop",
        "loads",
        "cp.surge",
        "running + largest start on each leg <= shortest timed leg rating",
        "Starting time of each motor.",
    ),
    ("LOAD-TOTAL-OVER", "stop", "loads", "nec.702.5", "running power <= continuous rating", ""),
    ("LOAD-SURGE", "stop", "loads", "cp.surge", "running + largest start <= shortest timed rating", "Starting time of each motor."),
    ("LOAD-BANK-OVER", "stop", "loads", "physics", "running power <= min(BMS sum, port) x lowest voltage x efficiency", ""),
    (
        "PV-COLD-VOC",
        "stop",
        "strings",
        "nec.690.7",
        "n Voc (1 + beta (T - 25)) <= min(inverter, module, dwelling limit)",
        "Tabulated method 690.7(A)(2) and engineered method (3).",
    ),
    ("PV-HOT-LOW", "stop", "strings", "physics", "hot operating voltage >= bottom of the tracker window", "Ageing of modules."),
    ("PV-START", "caution", "strings", "physics", "hot operating voltage >= start-up voltage", ""),
    ("PV-TRACKER-CURRENT", "caution", "strings", "physics", "N Imp <= tracker operating limit", "Clipping loss over the year."),
    ("PV-TRACKER-ISC", "stop", "strings", "nec.690.8a", "1.25 N Isc <= tracker short-circuit limit", "Bifacial gain."),
    ("PV-TERMINAL-CURRENT", "stop", "strings", "nec.690.8a", "1.25 N Isc <= current of one terminal", "Bridges over two terminals."),
    ("PV-UNLIKE", "stop", "strings", "physics", "strings on one tracker have one length and one face", ""),
    ("PV-FACE-FULL", "stop", "strings", "arith", "modules on a face <= its places", "Setbacks and obstacles."),
    ("PV-NO-TRACKER", "stop", "strings", "arith", "the string's tracker exists", ""),
    ("PV-POWER", "caution", "strings", "arith", "module power <= PV power accepted", ""),
    ("PV-LABEL", "caution", "strings", "cp.polarity", "label at the roof = label at the inverter, not empty", ""),
    ("BANK-COUNT", "stop", "bank", "arith", "batteries <= most in parallel", ""),
    ("BANK-WINDOW", "stop", "bank", "physics", "battery window lies within the inverter's", ""),
    (
        "BANK-DAISY",
        "caution",
        "bank",
        "cp.busbarcable",
        "busbars above two batteries (stop above three)",
        "Diagonal take-off is not told apart.",
    ),
    (
        "BANK-LEADS",
        "caution",
        "bank",
        "cp.busbarcable",
        "longest lead - shortest <= a tenth of the longest",
        "The current each battery really carries.",
    ),
    ("BANK-PRECHARGE", "stop", "bank", "cp.precharge", "a pre-charge path is fitted", ""),
    ("BANK-COLD", "caution", "bank", "cp.lfp", "coldest room >= coldest charging temperature", "Self-heating."),
    ("BANK-WEAK", "stop", "bank", "physics", "every link carries the design current", ""),
    (
        "FUSE-INTERRUPT",
        "stop",
        "bank",
        "nec.110.9",
        "bank fault current <= fuse's DC interrupting rating",
        "Lead impedance, which lowers the fault current.",
    ),
    ("BANK-BREAKER-INTERRUPT", "stop", "bank", "nec.110.9", "(n - 1) unit fault currents <= unit breaker's rating", "Lead impedance."),
    ("DC-VOLTAGE", "stop", "bank", "nec.110.9", "battery's highest voltage <= device's DC rating", ""),
    (
        "COND-SMALL",
        "stop",
        "circuits",
        "nec.310.16",
        "conductor pulled >= smallest by 210.19, 310.15, 110.14(C), 240.4",
        "Parallel sets, aluminium.",
    ),
    ("COND-MAKER", "stop", "circuits", "nec.110.14d", "conductor pulled >= maker's minimum", ""),
    ("COND-MAKER-BELOW", "note", "circuits", "nec.310.16", "maker's minimum >= code's answer", ""),
    ("COND-UNPROTECTED", "stop", "circuits", "nec.240.4b", "device <= largest for the conductor as laid", "Tap rules."),
    ("COND-TOO-HOT", "stop", "circuits", "nec.310.15b", "ambient lies within the insulation's column", ""),
    ("COND-NONE", "stop", "circuits", "nec.310.16", "one conductor up to 500 kcmil suffices", ""),
    ("DEVICE-SMALL", "stop", "circuits", "nec.210.19", "device >= 125 % of the design current", "100 %-rated devices."),
    ("DEVICE-OVER-MAKER", "stop", "circuits", "nec.110.14d", "grid device <= maker's maximum", ""),
    ("GRID-PASS-THROUGH", "stop", "circuits", "physics", "backed-up leg + charging <= pass-through rating", ""),
    (
        "EARTH-SMALL",
        "stop",
        "circuits",
        "nec.250.122b",
        "earth conductor >= Table 250.122 grown by 250.122(B)",
        "Electrode conductor (250.66).",
    ),
    ("DROP-OVER", "caution", "circuits", "nec.210.19in", "drop <= the crew's wish", "Reactance."),
    (
        "BUS-120",
        "stop",
        "circuits",
        "nec.705.12",
        "main + 125 % inverter <= 120 % busbar (100 % when not at opposite ends)",
        "Supply-side and sum-of-breakers cases.",
    ),
    ("GRID-INTERRUPT", "stop", "circuits", "nec.110.9", "grid fault current <= breakers' interrupting rating", "Series ratings."),
    ("GRID-NO-INTERLOCK", "stop", "power-up", "nec.702.5", "no bypass, or an interlocked one", ""),
    ("BOND-GRID", "stop", "circuits", "nec.250.24", "exactly one neutral-earth bond with the grid present", ""),
    ("BOND-ISLAND", "stop", "circuits", "nec.250.24", "exactly one neutral-earth bond in island mode", ""),
    ("WALL-COMBUSTIBLE", "stop", "wall", "cp.stud", "cement board behind the whole box on a timber surface", ""),
    ("WALL-STUD-MISS", "stop", "wall", "nds.12.4", "hole within the stud less 1.5 D of edge distance", "Nogging."),
    ("WALL-ANCHOR-OVER", "stop", "wall", "nds.12.2", "V/Z + T/W <= 1 at the top screws", "Seismic loads, wet timber."),
    ("WALL-CLEARANCE", "stop", "wall", "cp.clearance", "no box, opening or edge within the card's clearances", ""),
    ("WALL-EYE", "caution", "wall", "cp.eye", "screen between 1300 and 1750 mm", ""),
    ("WALL-WORKING-SPACE", "stop", "wall", "nec.110.26", "free depth >= 914 mm", "Width and height of the space; doors that open into it."),
    ("PLACE-ROOM", "stop", "wall", "nfpa.855", "no battery in a habitable room", ""),
    ("PLACE-ENERGY", "stop", "wall", "nfpa.855", "energy <= limit of the place", "Fire-tested arrangements."),
    ("PLACE-OPENING", "stop", "wall", "nfpa.855", "battery at least 914 mm from doors and windows", ""),
    ("LIFT-TWO", "caution", "wall", "cp.lift", "weight <= 27 kg for one person", ""),
    ("TERM-RANGE", "stop", "wire", "nec.110.14d", "size within the terminal's range", "Listed pin adapters."),
    ("TERM-CLASS", "stop", "wire", "nec.110.14d", "wire class accepted by the terminal", ""),
    ("TERM-DOUBLE", "stop", "wire", "nec.110.14d", "conductors under a clamp <= those allowed", ""),
    ("LINK-PROTOCOL", "stop", "links", "cp.soc", "inverter and every battery speak one protocol", "Firmware."),
    ("LINK-ADDRESS-DUP", "stop", "links", "cp.dip", "every address once", ""),
    ("LINK-ADDRESS-ORDER", "caution", "links", "cp.dip", "addresses 1, 2, 3 along the chain", ""),
    ("LINK-TERMINATOR", "stop", "links", "cp.terminator", "terminators at the two ends only", ""),
    ("LINK-LEAD", "stop", "links", "tia.568", "lead as made joins pins of like signal", ""),
    ("CT-LEG", "stop", "sensing", "cp.ctproof", "each CT on its channel's leg", ""),
    ("CT-ARROW", "stop", "sensing", "cp.ctproof", "arrow as the card says", ""),
    ("CT-SIDE", "stop", "sensing", "cp.ctproof", "CTs on the grid side of every load and source", ""),
    ("CT-RATED", "stop", "sensing", "cp.ctproof", "CT rating >= main device", ""),
    ("POWER-ORDER", "caution", "power-up", "cp.islandfirst", "the card asks for island first", "Other schools of order."),
    ("SET-CHARGE-OVER", "stop", "settings", "arith", "charge limit wanted <= weakest link", ""),
    ("SET-DISCHARGE-OVER", "stop", "settings", "arith", "discharge limit wanted <= weakest link", ""),
    ("SET-GRID-CHARGE", "stop", "settings", "arith", "grid charge <= charge limit", ""),
    (
        "SET-ORDER",
        "stop",
        "settings",
        "cp.thresholds",
        "cut at once < cut off < alarm < takeover < recover < release < float <= absorb",
        "Smallest gap against hunting.",
    ),
    ("SET-VOLTAGE-RANGE", "stop", "settings", "cp.lfp", "thresholds within the battery's window", ""),
    ("SET-RANGE", "stop", "settings", "arith", "value within what the inverter accepts", ""),
    ("SET-TARIFF-OVERLAP", "stop", "settings", "house.tariff", "no hour in two tariff windows", ""),
    ("SET-TARIFF-PEAK", "caution", "settings", "house.tariff", "no grid charging in a peak window", ""),
    ("SET-RESERVE-SHORT", "caution", "settings", "house.reserve", "reserve / mean demand >= wished hours", "PV during the outage."),
)
RULES: dict[str, Rule] = {row[0]: Rule(*row) for row in _ROWS}
