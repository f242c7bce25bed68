"""What a material list is made of."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure


@dataclass(frozen=True)
class Cut:
    """One core to cut: where it goes, what it is, how often and how long each, m."""

    circuit: str
    title: str
    role: str
    colour: str
    size: str
    wire_class: str
    material: str
    insulation: str
    count: int
    length: Figure


@dataclass(frozen=True)
class Item:
    """One line of the material list."""

    group: str
    item: str
    quantity: float
    unit: str
    where: str


@dataclass(frozen=True)
class Materials:
    """Cut list and material list, with what keeps a line from being there."""

    cuts: tuple[Cut, ...]
    items: tuple[Item, ...]
    waits: tuple[str, ...]
    figures: dict[str, Figure]
