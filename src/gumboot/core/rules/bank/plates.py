"""Is a lead-acid bank charged by its temperature?"""

from __future__ import annotations

from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Probe(Facts):
    """An inverter that charges lead-acid: whether it feels the temperature; ``fitted`` is None where its card does not say."""

    where: str
    title: str
    fitted: bool | None
    field: str


@rule("BANK-PROBE")
def charge_follows(p: Probe) -> Breach | None:
    """Lead-acid is charged by an inverter that feels its temperature: unshifted voltage gasses hot cells dry and starves cold ones."""
    if p.fitted:
        return None
    says = "has no probe for the battery's temperature" if p.fitted is False else "does not say that it feels the battery's temperature"
    text = f"{p.title} {says}: lead-acid charged at one voltage overheats in summer and starves in winter."
    act = "Choose an inverter whose charge follows the temperature, or take a newer revision of its card."
    return Breach(p.where, text, act, field=p.field)
