"""The typed view of each station."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from gumboot.web.stations.bank import view as bank
from gumboot.web.stations.circuits import view as circuits
from gumboot.web.stations.hand_over import view as hand_over
from gumboot.web.stations.links import view as links
from gumboot.web.stations.live_checks import view as live_checks
from gumboot.web.stations.loads import view as loads
from gumboot.web.stations.power_up import view as power_up
from gumboot.web.stations.prove import view as prove
from gumboot.web.stations.sensing import view as sensing
from gumboot.web.stations.settings import view as settings
from gumboot.web.stations.strings import view as strings
from gumboot.web.stations.survey import view as survey
from gumboot.web.stations.wall import view as wall
from gumboot.web.stations.wire import view as wire
from gumboot.web.view import Bench

VIEWS: Mapping[str, Callable[[Bench], object]] = {
    "bank": bank.view_of,
    "circuits": circuits.view_of,
    "hand-over": hand_over.view_of,
    "links": links.view_of,
    "live-checks": live_checks.view_of,
    "loads": loads.view_of,
    "power-up": power_up.view_of,
    "prove": prove.view_of,
    "sensing": sensing.view_of,
    "settings": settings.view_of,
    "strings": strings.view_of,
    "survey": survey.view_of,
    "wall": wall.view_of,
    "wire": wire.view_of,
}


def page_of(station: str) -> str:
    """The template of a station: in the folder of its name."""
    return f"stations/{station.replace('-', '_')}/page.html"
