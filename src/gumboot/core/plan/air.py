"""Does everything work in the air of its place, and at its altitude?"""

from __future__ import annotations

from gumboot.core.card import BatteryCard
from gumboot.core.card.boxes import BoardCard, TransferCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.solar import PvInverterCard
from gumboot.core.card.storage import SwitchFuseCard
from gumboot.core.figure import constant
from gumboot.core.job.air import coldest_air, hottest_air
from gumboot.core.ledger import Ledger
from gumboot.core.rules import site as rules

USUAL_HEIGHT = constant("h_max", "Highest place that equipment is made for where its card does not say", 2000, "m", "cp.altitude")


Standing = BatteryCard | BoardCard | PvInverterCard | SwitchFuseCard | TransferCard


def _standing(ledger: Ledger) -> list[tuple[str, Standing]]:
    """Everything with an enclosure but the inverters, whose air has a rule of its own: its place and its card."""
    seats = ledger.seats
    found: list[tuple[str, Standing]] = [(s.id, s.card) for s in seats.switch_fuses]
    found += [(s.id, s.card) for s in seats.busbars]
    found += [(s.id, s.card) for s in seats.boards]
    found += [(s.id, s.card) for s in seats.transfers]
    found += [(s.id, s.card) for s in seats.pv_inverters]
    return found + [(unit.id, bank.card) for bank in seats.banks for unit in bank.thing.units]


def check_places(ledger: Ledger) -> None:
    """The air of each place against the cards there that state theirs; the altitude against every inverter."""
    job, asked = ledger.job, set[tuple[object, ...]]()
    for place, card in _standing(ledger):
        for hot, field, told in ((True, "air_max_c", hottest_air(job, (place,))), (False, "air_min_c", coldest_air(job, (place,)))):
            limit = ledger.stated(card, field)
            # Alike units in one air are asked about once.
            if limit is None or told.value is None or (card.id, hot, told) in asked:
                continue
            asked.add((card.id, hot, told))
            facts = rules.Works(where=place, title=card.title, air=ledger.decided(told.path), limit=limit, hot=hot, field=told.path)
            ledger.ask(rules.works_there, facts)
    making: dict[str, InverterCard | PvInverterCard] = {i.card.id: i.card for i in ledger.seats.inverters}
    making |= {i.card.id: i.card for i in ledger.seats.pv_inverters}
    for maker in making.values():
        stated = ledger.stated(maker, "altitude_max_m")
        most = stated or ledger.keep(USUAL_HEIGHT)
        altitude = ledger.decided("site.altitude_m")
        facts_ = rules.Height(where="inverter", title=maker.title, altitude=altitude, most=most, silent=stated is None)
        ledger.ask(rules.low_enough, facts_)
