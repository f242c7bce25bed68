"""What the station Wire is drawn from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from markupsafe import Markup

from gumboot.core.acts import Act, State, ident
from gumboot.core.finding import Finding
from gumboot.core.job.model import ToolItem
from gumboot.core.plan.prove import Check
from gumboot.core.plan.terminations import Termination
from gumboot.core.record import AnyRecord, Landing
from gumboot.core.recording import Input, inputs_of
from gumboot.core.standing import Judged
from gumboot.core.study.van import Van
from gumboot.drawing import wire
from gumboot.store.holdings import Holding
from gumboot.web import studies, urls
from gumboot.web.act_words import act_mark, acts_at, count_of, held_by, may_do
from gumboot.web.torques import Torque, caution_of, torque_of
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class Box:
    """An enclosure with its landing map: how much of it is done, and who has it in hand."""

    place: str
    title: str
    done: str
    drawing: Markup
    held: Holding | None
    is_mine: bool


@dataclass(frozen=True, slots=True)
class Hung:
    """What is done at the wall before anything lands: holes, lifts, what goes in first."""

    acts: list[Act]
    done: str
    opened: bool


@dataclass(frozen=True, slots=True)
class Recheck:
    """A lug whose 24 h check has come or is coming due."""

    act: Act
    due: datetime
    is_due: bool


@dataclass(frozen=True, slots=True)
class Row:
    """A termination in the list: where, what lands, how it is prepared and tightened, and what is on record."""

    term: Termination
    judged: Judged
    href: str
    reached: str


@dataclass(frozen=True, slots=True)
class Next:
    """What is done next, and where on the page or on which card."""

    words: str
    href: str


@dataclass(frozen=True, slots=True)
class WireView:
    """The station Wire."""

    next: Next | None
    all_held: bool
    hung: Hung | None
    isolated: list[Check]
    isolated_done: str
    isolated_open: bool
    beside: Hung | None
    van: Van
    boxes: list[Box]
    rechecks: list[Recheck]
    rechecks_in_all: int
    rows: list[Row]
    tools: list[ToolItem]
    loads: list[Act]
    packed: str


def reached_text(b: Bench, record: AnyRecord | None) -> str:
    """The torque of a landing as it was recorded; a spring terminal held."""
    if record is None:
        return ""
    return b.quantity(record.reached_nm, "N m") if isinstance(record, Landing) and record.reached_nm else "held"


def _box(b: Bench, place: str) -> Box:
    here = [t for t in b.plan.terminations if t.place == place]
    own = next((str(thing.title) for thing in b.job.things if thing.id == place), "")
    title = f"{own}, {here[0].place_title}" if own else here[0].place_title
    done = f"{sum(b.standing.torques[t.id].good for t in here)} of {len(here)}"
    drawing = wire.enclosure(b.plan, b.standing, place, lambda tid: urls.termination(b.job.id, tid))
    held = b.holdings.get(place)
    return Box(place, title, done, drawing, held, held is not None and b.others(place) is None)


def _rechecks(b: Bench) -> Iterator[Recheck]:
    for t in b.plan.terminations:
        due, _ = b.standing.rechecks.get(t.id, (None, False))
        if due is not None:
            yield Recheck(b.standing.acts[f"recheck:{t.id}"], due, due <= datetime.now(UTC))


def _hung(b: Bench, nothing_landed: bool) -> Hung | None:
    acts = acts_at(b, ("unpack", "serial", "find", "board", "inside", "marked", "hole", "lift", "fixed"))
    done = count_of(b, acts)
    return Hung(acts, done, nothing_landed and done != f"{len(acts)} of {len(acts)}") if acts else None


def _beside(b: Bench) -> Hung | None:
    """Strings marked, joints, ferrites, bridges, entries: what is done beside the landings."""
    acts = acts_at(b, ("label", "bridged", "joint", "ferrite", "entries"))
    return Hung(acts, count_of(b, acts), False) if acts else None


def _next(b: Bench, free: Sequence[Termination], before: Sequence[Act], beside: Sequence[Act]) -> Next | None:
    """What nothing holds: at the wall and at the sources first, then landings, then what is done beside them. ``free`` are landings that are
    open and in nobody else's hands; where all of them are held, the first of those stands there with what holds it.
    """

    def first(acts: Sequence[Act]) -> Next | None:
        mine = (a for a in acts if b.standing.stands[a.id].state is State.OPEN and not held_by(b, a) and b.others(a.thing) is None)
        return next((Next(a.title, f"#{act_mark(a)}") for a in mine), None)

    cards = [Next(f"{t.place} {t.title}", urls.termination(b.job.id, t.id)) for t in free]
    is_held = [bool(b.standing.gates.held_by(ident("torque", t.id))) for t in free]
    landing = next((card for card, held in zip(cards, is_held, strict=True) if not held), None)
    return first(before) or landing or first(beside) or next(iter(cards), None)


def view_of(b: Bench) -> WireView:
    """The station as its page needs it."""
    terms, judged = b.plan.terminations, b.standing.torques
    still_open = [t for t in terms if not judged[t.id].good]
    isolated = list(b.plan.isolated)
    dead = [b.standing.acts[ident("check", check.id)] for check in isolated]
    free = [t for t in still_open if b.others(t.place) is None]
    loads = acts_at(b, ("pack",))
    hung, beside = _hung(b, len(still_open) == len(terms)), _beside(b)
    following = _next(b, free, [*(hung.acts if hung else ()), *dead], beside.acts if beside else ())
    return WireView(
        next=following,
        all_held=bool(still_open) and following is None,
        hung=hung,
        isolated=isolated,
        isolated_done=count_of(b, dead),
        isolated_open=any(not b.standing.stands[act.id].holds for act in dead),
        beside=beside,
        van=studies.what_comes_along(b.plan, datetime.now(UTC).date().isoformat()),
        boxes=[_box(b, place) for place in dict.fromkeys(t.place for t in terms)],
        rechecks=list(_rechecks(b)),
        rechecks_in_all=len(b.standing.rechecks),
        rows=[Row(t, judged[t.id], urls.termination(b.job.id, t.id), reached_text(b, judged[t.id].record)) for t in terms],
        tools=list(b.job.tools),
        loads=loads,
        packed=f"{sum(b.standing.stands[act.id].holds for act in loads)} of {len(loads)}",
    )


@dataclass(frozen=True, slots=True)
class CardView:
    """The card of one termination, made for the hand."""

    term: Termination
    act: Act
    # Nothing while something holds it, and for who does not land; ``closed`` says which in a word.
    asks: dict[str, Input]
    held: str
    closed: str
    judged: Judged
    number: int
    in_all: int
    before: str
    after: str
    drawing: Markup
    torque: Torque
    units: tuple[str, ...]
    reached: str
    caution: str
    findings: list[Finding]


def card_of(b: Bench, termination_id: str) -> CardView:
    """The card of a termination. Raises KeyError for one that is not part of the plan."""
    order = [t.id for t in b.plan.terminations]
    term = b.plan.termination(termination_id)
    if term is None:
        raise KeyError(termination_id)
    at, act, is_us = order.index(term.id), b.standing.acts[f"torque:{term.id}"], b.system == "US"
    held = held_by(b, act)
    all_asked = {asked.name: asked for asked in inputs_of(b.plan, b.standing, act)}
    asks = all_asked if may_do(b, act) and not held else {}
    units = asks["reached"].units if "reached" in asks else ()
    judged = b.standing.torques[term.id]
    return CardView(
        term=term,
        act=act,
        asks=asks,
        held=held[0] if held else "",
        closed="" if asks else "Recorded by an installer" if all_asked and not held else "Not to be landed yet",
        judged=judged,
        number=at + 1,
        in_all=len(order),
        before=urls.termination(b.job.id, order[at - 1]) if at else "",
        after=urls.termination(b.job.id, order[at + 1]) if at + 1 < len(order) else "",
        drawing=wire.enclosure(b.plan, b.standing, term.place, lambda tid: urls.termination(b.job.id, tid), term.id),
        torque=torque_of(b, term),
        units=tuple(sorted(units, key=lambda u: u != "lbf in")) if is_us else units,
        reached=reached_text(b, judged.record),
        caution=caution_of(term),
        findings=[f for f in b.plan.findings if f.where == term.where],
    )
