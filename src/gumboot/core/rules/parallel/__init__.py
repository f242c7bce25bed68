"""May these inverters work as one group: alike, as many as their maker allows, joined at a panel, led, and with one bond?"""

from gumboot.core.rules.parallel.group import (
    Emptied,
    Group,
    Shared,
    alike,
    as_many_as_allowed,
    bank_of_one_island,
    banks_as_allowed,
    empty_together,
    every_leg_is_made,
    makes_these_phases,
)
from gumboot.core.rules.parallel.joined import Joined, Leads, PanelBar, Studs, at_a_panel, bars_take_each_main, equal_mains, panel_bar
from gumboot.core.rules.parallel.told import Bonding, Led, Metered, ends_of_the_link, one_meter, one_of_them_bonds, own_address

__all__ = [
    "Bonding",
    "Emptied",
    "Group",
    "Joined",
    "Leads",
    "Led",
    "Metered",
    "PanelBar",
    "Shared",
    "Studs",
    "alike",
    "as_many_as_allowed",
    "at_a_panel",
    "bank_of_one_island",
    "banks_as_allowed",
    "bars_take_each_main",
    "empty_together",
    "ends_of_the_link",
    "equal_mains",
    "every_leg_is_made",
    "makes_these_phases",
    "one_meter",
    "one_of_them_bonds",
    "own_address",
    "panel_bar",
]
