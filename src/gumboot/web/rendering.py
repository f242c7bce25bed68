"""Templates and what they are given."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from sqlalchemy.orm import Session
from starlette.responses import HTMLResponse

from gumboot import __version__
from gumboot.catalogue import shelf
from gumboot.core import standing as standings
from gumboot.core.job import BadPath, Job, read_path
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.settings import supply_text
from gumboot.core.plan.survey import QUESTIONS, asked_of
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.iec_family.conductors import SIZES as SIZES_MM2
from gumboot.core.rulebook.loader import source
from gumboot.core.rulebook.north_american.conductors import SIZES
from gumboot.core.sim.switch_line import live_nodes, rehearse
from gumboot.core.standing import Record, Standing, stand
from gumboot.core.units import lbf_ft_from_nm
from gumboot.drawing import bank, links, loads, sensing, settings, show, single_line, strings, wall, wire
from gumboot.store import jobs, records
from gumboot.store.accounts import Who
from gumboot.web import urls

HERE = Path(__file__).parent
ENVIRONMENT = Environment(
    loader=FileSystemLoader(HERE / "templates"),
    autoescape=select_autoescape(("html",)),
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)
ENVIRONMENT.globals.update(
    urls=urls,
    show=show,
    version=__version__,
    LEGS=standings.LEGS,
    QUESTIONS=QUESTIONS,
    asked_of=asked_of,
    book=book,
    supply_text=supply_text,
    LINK_TASKS=standings.LINK_TASKS,
    draw={
        "loads": loads,
        "strings": strings,
        "bank": bank,
        "line": single_line.single_line,
        "wall": wall.elevation,
        "wire": wire.enclosure,
        "links": links,
        "sensing": sensing,
        "settings": settings,
    },
    source=source,
    rehearse=rehearse,
)

# The figure whose working is open when a station is entered: the first of these that the plan has.
FIRST_FIGURE = {
    "loads": ("loads.running.L2", "loads.running.total"),
    "strings": ("strings.PV1.cold_v", "strings.power"),
    "bank": ("bank.design_a",),
    "circuits": ("circuits.bat-main.code_size", "circuits.backup.code_size"),
    "wall": ("wall.inverter.ratio", "wall.inverter.screen", "wall.energy"),
    "links": ("links.pair_ohm", "bank.usable"),
    "sensing": ("sensing.CT1.expected", "in.site.service_main_a"),
    "survey": ("circuits.busbar_sum", "bank.delivered"),
    "hand-over": ("settings.reserve_hours",),
    "prove": ("strings.PV1.today_v", "bank.usable"),
    "power-up": ("bank.precharge_s",),
    "settings": ("settings.discharge_a",),
    "live-checks": ("in.site.export_limit_w", "const.cp.thermal.T_max"),
}


@dataclass
class Bench:
    """Everything one page of a job is drawn from."""

    who: Who
    revision: jobs.Revision
    plan: Plan
    standing: Standing
    records: list[Record]
    station: str
    figure: str = ""
    problems: dict[str, str] = field(default_factory=dict)
    typed: dict[str, str] = field(default_factory=dict)
    conflict: jobs.Conflict | None = None
    moves: list[str] = field(default_factory=list)
    said: str = ""

    def __post_init__(self) -> None:
        self._document = self.revision.job.model_dump(mode="json")

    @property
    def job(self) -> Job:
        """The job of the revision shown."""
        return self.revision.job

    @property
    def system(self) -> str:
        """Unit system shown first."""
        return self.job.preferences.units

    def value(self, path: str) -> Any:
        """The job's value at a path."""
        return read_path(self._document, path)

    def has(self, path: str) -> bool:
        """Whether the job has such a field: a run that is not entered yet has none."""
        try:
            read_path(self._document, path)
        except BadPath:
            return False
        return True

    def text(self, path: str, unit: str) -> str:
        """A field's value as it stands in its input, in the shown unit system."""
        if path in self.typed:
            return self.typed[path]
        value = self.value(path)
        if value is None:
            return ""
        if isinstance(value, (int, float)) and not isinstance(value, bool):
            shown = show.US[unit][1](float(value)) if self.system == "US" and unit in show.US else float(value)
            return f"{round(shown, 2):g}" if abs(shown) < 100000 else f"{shown:.0f}"
        return str(value)

    def shown_unit(self, unit: str) -> str:
        """Unit written beside a field."""
        return show.US[unit][0] if self.system == "US" and unit in show.US else unit

    def quantity(self, value: float, unit: str) -> str:
        """A quantity in the shown unit system."""
        return show.quantity(value, unit, self.system)


# Plans of the revisions seen last. A revision never changes and derive is pure, so a plan in memory cannot
# be stale; it saves the work on every page that changes no decision.
_PLANS: OrderedDict[tuple[str, int, datetime], Plan] = OrderedDict()
MOST_PLANS = 64


def plan_of(revision: jobs.Revision) -> Plan:
    """The plan of a revision, derived once."""
    key = (revision.job_id, revision.number, revision.at)
    plan = _PLANS.get(key) or derive(revision.job, shelf())
    _PLANS[key] = plan
    _PLANS.move_to_end(key)
    while len(_PLANS) > MOST_PLANS:
        _PLANS.popitem(last=False)
    return plan


def bench(db: Session, who: Who, job_id: str, station: str, **extra: Any) -> Bench:
    """Load, derive, stand: the one route of data to a page. Raises NoSuchJob."""
    revision = jobs.load(db, job_id)
    rows = records.read_records(db, job_id)
    plan = plan_of(revision)
    return Bench(who, revision, plan, stand(plan, rows, datetime.now(UTC)), rows, station, **extra)


def render(template: str, status: int = 200, **context: Any) -> HTMLResponse:
    """A template as a response."""
    return HTMLResponse(ENVIRONMENT.get_template(template).render(**context), status_code=status)


def render_bench(view: Bench, fragment: bool, status: int = 200) -> HTMLResponse:
    """The station as a fragment for a script, or as a whole page."""
    return render("bench.html" if fragment else "station.html", status, b=view)


def default_figure(view: Bench) -> str:
    """The figure whose working is open when none was chosen: the one a finding speaks of, else the station's own."""
    spoken = next((f.found.key for f in view.plan.at(view.station) if f.found is not None and f.level != "note"), "")
    if view.station == "wire":
        spoken = next((t.torque.key for t in view.plan.terminations if t.torque and not view.standing.torques[t.id].good), "")
    return spoken or next((key for key in FIRST_FIGURE.get(view.station, ()) if key in view.plan.figures), "")


def legs(view: Bench) -> tuple[str, ...]:
    """Legs or phases that the inverter gives."""
    return tuple(view.plan.loads.running)


def leg_options(view: Bench) -> list[str]:
    """Where a load may sit: one leg, or across them."""
    have = legs(view)
    across = ["+".join(have)] if len(have) > 1 else []
    used = [x.leg for x in view.job.loads if x.leg not in (*have, *across)]
    return [*have, *across, *dict.fromkeys(used)]


def tracker_ids(view: Bench) -> list[str]:
    """Trackers of every inverter of the job."""
    cards = [view.plan.shelf[c] for c in (view.job.equipment.inverter, view.job.equipment.pv_inverter) if c]
    return [t.id for card in cards for t in getattr(card, "trackers", [])]


def sizes_of(view: Bench) -> tuple[str, ...]:
    """Conductor sizes of the job's rule book, as labels."""
    return SIZES if book(view.job.rule_book).family == "nec" else tuple(f"{size} mm2" for size in SIZES_MM2)


def places(view: Bench) -> list[str]:
    """Enclosures in which conductors land, in order."""
    return list(dict.fromkeys(t.place for t in view.plan.terminations))


def place_title(view: Bench, place: str) -> str:
    """The card title of an enclosure."""
    return next(t.place_title for t in view.plan.terminations if t.place == place)


def done_at(view: Bench, place: str) -> str:
    """How many terminations of an enclosure are recorded."""
    here = [t for t in view.plan.terminations if t.place == place]
    return f"{sum(view.standing.torques[t.id].good for t in here)} of {len(here)}"


def good_torques(view: Bench) -> list[str]:
    """Terminations with a good record."""
    return [tid for tid, judged in view.standing.torques.items() if judged.good]


def done_steps(view: Bench) -> list[str]:
    """Steps of first power that are recorded."""
    return [sid for sid, judged in view.standing.steps.items() if judged.good]


def good_checks(view: Bench) -> list[str]:
    """Checks whose reading stands in its band."""
    return [cid for cid, judged in view.standing.checks.items() if judged.good]


def term_href(view: Bench) -> Callable[[str], str]:
    """Address of a termination's card."""
    return lambda tid: urls.termination(view.job.id, tid)


def closed_now(view: Bench) -> frozenset[str]:
    """Switches that the recorded steps have closed."""
    return frozenset(s.move for s in view.plan.power_up.steps if s.move and s.move != "precharge" and view.standing.steps[s.id].good)


def live_now(view: Bench) -> dict[str, str]:
    """Nodes that the recorded steps have made live."""
    return live_nodes(view.plan.power_up.line, closed_now(view))


ENVIRONMENT.globals.update(
    default_figure=default_figure,
    places=places,
    place_title=place_title,
    done_at=done_at,
    good_torques=good_torques,
    done_steps=done_steps,
    good_checks=good_checks,
    term_href=term_href,
    closed_now=closed_now,
    live_now=live_now,
    legs=legs,
    leg_options=leg_options,
    tracker_ids=tracker_ids,
    sizes_of=sizes_of,
    lbf_ft=lbf_ft_from_nm,
    GROUPS=list(dict.fromkeys(q.group for q in QUESTIONS)),
)
