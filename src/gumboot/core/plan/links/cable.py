"""How the cable of a battery bus runs: from battery to battery, with short stubs, and no more of them than a driver bears."""

from __future__ import annotations

from fractions import Fraction

from gumboot.core.card.parts import Protocol
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank
from gumboot.core.plan.links.chain import ChainUnit
from gumboot.core.rules import lines
from gumboot.core.rules import links as rules

SHORT_STUB = constant("l_short", "Stub off a line, good practice", 1, "m", "cp.busreach")
MOST_STUB = constant("l_most", "Stub off a line at most", 20, "m", "modbus.serial")
MOST_CAN_STUB = constant("l_most_can", "Stub off a CAN bus at most", 6, "m", "can.drop")
SHORT_FAST_STUB = constant("l_short_fast", "Stub off a fast CAN bus, good practice", 0.3, "m", "cp.busreach")
MOST_LOADS = constant("n_u", "Unit loads that a driver bears", 32, "", "tia.485")
# Above this a stub as long as good practice has it at slow speeds echoes within a bit.
FAST_KBIT_S = 500


def stubs(ledger: Ledger, bus: str, kbit_s: float = 0) -> tuple[Figure, Figure]:
    """How long a stub is by good practice, and at most, on a kind of bus."""
    good = SHORT_FAST_STUB if bus == "CAN" and kbit_s > FAST_KBIT_S else SHORT_STUB
    return ledger.keep(good), ledger.keep(MOST_CAN_STUB if bus == "CAN" else MOST_STUB)


def check_cable(bank: OneBank, chain: tuple[ChainUnit, ...], spoken: Protocol) -> None:
    """Shape, stubs and loads of a bus with several batteries; a single one stands at the end of its lead."""
    if len(chain) < 2:
        return
    thing, where, at = bank.seat.thing, bank.of("battery bus"), f"banks.{bank.id}"
    shaped = lines.Shaped(where=where, shape=thing.bus_shape, count=len(chain), things="batteries", field=f"{at}.bus_shape")
    bank.ask(rules.battery_to_battery, shaped)
    good, most = stubs(bank.ledger, spoken.bus, spoken.kbit_s)
    length = bank.ledger.decided(f"{at}.stub_m")
    stub = lines.Stub(where=where, title="A battery", length=length, short=good, most=most, field=f"{at}.stub_m")
    bank.ask(rules.short_battery_stub, stub)
    if spoken.bus == "RS-485":
        units = 1 + len(chain) * float(Fraction(bank.card.bus_load))
        loads = bank.work("links.loads", "n_b", "Unit loads on the battery bus", units, "", source="tia.485",
                          limits="The inverter counted as one.")  # fmt: skip
        facts = lines.Loaded(
            where=where, loads=loads, most=bank.ledger.keep(MOST_LOADS), field=f"{at}.units", act="Take batteries off this bus."
        )
        bank.ask(rules.batteries_borne, facts)
