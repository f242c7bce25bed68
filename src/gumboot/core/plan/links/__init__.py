"""Do inverter and batteries speak to each other: protocol, addresses, terminators, lead?

``switches`` reads a block of DIP switches, ``chain`` the units along the bus, ``station`` judges the link, ``group`` is the link between
several inverters, ``modbus`` the line to meters and others.
"""

from gumboot.core.plan.links.chain import T568B, ChainUnit, LeadCore, lead_cores
from gumboot.core.plan.links.group import GroupLink, GroupUnit
from gumboot.core.plan.links.modbus import ModbusLine
from gumboot.core.plan.links.station import BatteryBus, LinksPlan, plan_links
from gumboot.core.plan.links.switches import DipBlock, dip_block, dip_positions, places_told

__all__ = [
    "T568B",
    "BatteryBus",
    "ChainUnit",
    "DipBlock",
    "GroupLink",
    "GroupUnit",
    "LeadCore",
    "LinksPlan",
    "ModbusLine",
    "dip_block",
    "dip_positions",
    "lead_cores",
    "places_told",
    "plan_links",
]
