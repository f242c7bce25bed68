"""What do the inverters give for ever where they hang: less in thin air and in hot air, where their card says so?"""

from __future__ import annotations

from gumboot.core.expression import Expression, largest
from gumboot.core.figure import Figure
from gumboot.core.job.air import hottest_air
from gumboot.core.ledger import Ledger

BY_THE_CARD = "By the card's derating; the timed ratings are the maker's."


def _share(ledger: Ledger) -> Figure | None:
    """Share of its rating that the leader's card leaves at this altitude and in the hottest air at the inverters; None for all of it."""
    card, read = ledger.seats.inverter, ledger.read
    if card.derating is None:
        return None
    share: Expression | float = 1.0
    if card.derating.above_m is not None:
        high = largest(0.0, ledger.decided("site.altitude_m") - read(card, "derating.above_m"))
        share = 1 - read(card, "derating.per_m") * high
    air = hottest_air(ledger.job, [i.id for i in ledger.seats.inverters])
    if card.derating.above_c is not None and air.value is not None:
        hot = largest(0.0, ledger.decided(air.path) - read(card, "derating.above_c"))
        share = (1 - read(card, "derating.per_k") * hot) * share
    name = ledger.titled("Share of its output that an inverter gives in this place")
    source = f"card:{card.id}:derating"
    return ledger.work(ledger.key("loads.derating"), "k_d", name, largest(0.0, share), "", source=source, limits=BY_THE_CARD)


def as_placed(ledger: Ledger, rated: Figure, key: str) -> Figure:
    """A continuous rating in W as it is where the inverters hang; the rating itself where no card says that it falls."""
    share = _share(ledger)
    if share is None:
        return rated
    return ledger.work(
        ledger.key(f"loads.here.{key}"), f"{rated.symbol}_h", f"{rated.name}, in this place", share * rated, "W", source="arith"
    )
