"""Has the island an earth of its own where it needs one, and is the electrode conductor large enough?"""

from __future__ import annotations

from gumboot.core import sizes
from gumboot.core.expression import named
from gumboot.core.installation import House
from gumboot.core.ledger import Ledger
from gumboot.core.rulebook.iec_family.earthing import bonding_area_mm2
from gumboot.core.rulebook.north_american.earthing import IN_THE_EARTH, electrode_size
from gumboot.core.rules import shock as rules

HOLDS = "Where it leads to this electrode alone: to a rod, pipe or plate 6 AWG copper or 4 AWG aluminium suffices, to a concrete-encased one 4 AWG copper, to a ring the ring's own."


def _why(ledger: Ledger, island: House) -> str:
    switched = any(transfer.card.neutral_switched for transfer in island.seats.transfers)
    return ledger.book.shock.island_earth(earthing=ledger.job.site.earthing, off_grid=not island.joins_grid, neutral_switched=switched)


def check_island_earth(ledger: Ledger) -> None:
    """The island's earth, where the book says that it loses the supply's."""
    site = ledger.job.site
    why = next(filter(None, (_why(ledger, part) for part in ledger.house.islands)), "")
    if not why:
        return
    if site.island_electrode is None:
        question = "Does an earth electrode of the installation's own stand for the island?"
        ledger.gap("site.island_electrode", "survey", question, "Whether the island has an earth reference")
    ledger.ask(rules.island_earth, rules.IslandEarth(stands=site.island_electrode, needed_because=why))


def check_bonding(ledger: Ledger) -> None:
    """The main bonding conductor by the supply's, where the book asks so and somebody has read it."""
    site, book = ledger.job.site, ledger.book
    if book.shock.judges_electrode or site.bonding_size is None:
        return
    if site.service_size is None:
        ledger.gap("site.service_size", "survey", "Size of the supply's conductors?", "Size of the main bonding conductor")
        return
    pme = book.id == "bs-7671" and site.earthing == "TN-C-S"
    source = "bs.7671.54.8" if pme else "iec.54.544"
    supply = ledger.given("site.service_size", "A_s", "Supply conductor", sizes.area_mm2(site.service_size), "mm2", label=site.service_size)
    least = named("main bonding beside {0}", bonding_area_mm2(supply.value, earthed_neutral=pme), supply)
    required = ledger.work("circuits.bonding_required", "A_b", "Main bonding conductor required", least, "mm2", source=source)
    area = sizes.area_mm2(site.bonding_size)
    fitted = ledger.given("site.bonding_size", "A_bi", "Main bonding conductor fitted", area, "mm2", label=site.bonding_size)
    ledger.ask(rules.bonding_large_enough, rules.Bonding(fitted=fitted, required=required, supply=site.service_size))


def check_electrode(ledger: Ledger) -> None:
    """The electrode conductor by the largest service conductor, where the book has that table."""
    site = ledger.job.site
    if not ledger.book.shock.judges_electrode or site.electrode_size is None:
        return
    metal = site.electrode_material
    ledger.ask(
        rules.metal_near_earth,
        rules.ElectrodeMetal(material=metal, electrode=site.electrode, in_the_earth=site.electrode in IN_THE_EARTH),
    )
    if site.service_size is None:
        ledger.gap("site.service_size", "survey", "Largest service conductor?", "Size of the electrode conductor")
        return
    needed = electrode_size(site.service_size, site.service_material, metal, kind=site.electrode, ring=site.ring_size)
    area, name, label = sizes.area_mm2(needed), "Electrode conductor required", _named(needed, metal)
    required = ledger.work("circuits.electrode_required", "A_g", name, area, "mm2", source="nec.250.66", label=label, limits=HOLDS)
    pulled, name = sizes.area_mm2(site.electrode_size), "Electrode conductor fitted"
    fitted = ledger.given("site.electrode_size", "A_gi", name, pulled, "mm2", label=_named(site.electrode_size, metal))
    ledger.ask(rules.electrode_large_enough, rules.Electrode(fitted=fitted, required=required, service=site.service_size))


def _named(size: str, metal: str) -> str:
    """A size with its metal, where that is not copper."""
    return size if metal == "copper" else f"{size} {metal}"
