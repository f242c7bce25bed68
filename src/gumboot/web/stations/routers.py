"""The handlers of each station."""

from __future__ import annotations

from gumboot.web.stations.bank import handler as bank
from gumboot.web.stations.circuits import handler as circuits
from gumboot.web.stations.hand_over import handler as hand_over
from gumboot.web.stations.links import handler as links
from gumboot.web.stations.live_checks import handler as live_checks
from gumboot.web.stations.loads import handler as loads
from gumboot.web.stations.power_up import handler as power_up
from gumboot.web.stations.prove import handler as prove
from gumboot.web.stations.sensing import handler as sensing
from gumboot.web.stations.settings import handler as settings
from gumboot.web.stations.strings import handler as strings
from gumboot.web.stations.survey import handler as survey
from gumboot.web.stations.wall import handler as wall
from gumboot.web.stations.wire import handler as wire

ROUTERS = (
    bank.ROUTER,
    circuits.ROUTER,
    hand_over.ROUTER,
    links.ROUTER,
    live_checks.ROUTER,
    loads.ROUTER,
    power_up.ROUTER,
    prove.ROUTER,
    sensing.ROUTER,
    settings.ROUTER,
    strings.ROUTER,
    survey.ROUTER,
    wall.ROUTER,
    wire.ROUTER,
)
