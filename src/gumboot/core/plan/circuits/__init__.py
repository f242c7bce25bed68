"""What does each circuit carry, and which conductor, device and earth does it need?

``demand_dc``, ``demand_ac`` and ``demand_boards`` say what a circuit carries; ``laid`` how its run is laid; ``sizing`` sizes it by the book; ``station``
goes through the circuits of an installation.
"""

from gumboot.core.plan.circuits.parts import Demand, Sized
from gumboot.core.plan.circuits.station import CircuitsPlan, plan_circuits

__all__ = ["CircuitsPlan", "Demand", "Sized", "plan_circuits"]
