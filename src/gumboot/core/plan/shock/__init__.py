"""Does a fault to earth trip in time, with the grid and in island mode, and is there an earth to trip to?

``loops`` follows the earth-fault loop from the origin, ``residual`` judges residual devices, ``earths`` electrodes and the island's earth.
"""

from gumboot.core.plan.shock.station import plan_shock

__all__ = ["plan_shock"]
