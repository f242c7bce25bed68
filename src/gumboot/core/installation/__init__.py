"""One model of the installation: what stands where, and which conductors join which terminals.

``house`` is the graph, ``circuits_dc`` and ``circuits_ac`` draw its circuits from the ports of the cards, ``joined`` their ways from
street to loads, ``paths`` every way from a source; ``laying`` tells the raceways that contain them, ``parts`` is what it is made of. Everything else reads it.
"""

from gumboot.core.installation.circuits_dc import main_name, pv_name, unit_name
from gumboot.core.installation.house import House
from gumboot.core.installation.laying import Raceway
from gumboot.core.installation.parts import Circuit, Core, End, Input, Kind

__all__ = ["Circuit", "Core", "End", "House", "Input", "Kind", "Raceway", "main_name", "pv_name", "unit_name"]
