"""May these sources be joined to this supply, and what passes the boards, the transfer equipment and the generator input?

``boards`` judges every busbar, ``grid`` what the network asks, ``bonds`` the neutral, ``generator`` and ``transfer`` what their names
say, ``losses`` the drop and the rise of all segments together.
"""

from gumboot.core.plan.connection.station import plan_connection

__all__ = ["plan_connection"]
