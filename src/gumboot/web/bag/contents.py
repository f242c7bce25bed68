"""The bag of a house: everything that a phone shows of it without signal, beside how its acts stand."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any

from gumboot.core.acts import Act, Kind
from gumboot.core.plan.settings import supply_of
from gumboot.core.rulebook.books import book
from gumboot.core.standing import LEGS
from gumboot.drawing.svg import Canvas
from gumboot.store.recent import Recent
from gumboot.web.bag.cards import aim_of, card_of, looks, place_of, spoken_against, title_of
from gumboot.web.bag.pictures import pictures_of
from gumboot.web.bag.sheets import sheets_of
from gumboot.web.rendering import ENVIRONMENT
from gumboot.web.scripts import MARK
from gumboot.web.view import Bench

# A phone that finds another number fetches the bag anew before it shows anything of it.
FORMAT = 2
# Not acts of their own in the hand: one clears a reading where it was read.
BESIDE = frozenset((Kind.PLAN, Kind.CLEARANCE))
_BAGS: Recent[str, dict[str, Any]] = Recent(24)


def tag_of(b: Bench) -> str:
    """Of all that a bag is made from: another plan, another version or other units are another tag."""
    whole = f"{FORMAT} {MARK} {b.job.id} {b.revision.number} {b.revision.at.isoformat()} {b.system}"
    return hashlib.sha256(whole.encode()).hexdigest()[:20]


def _card(b: Bench, act: Act) -> dict[str, Any]:
    card = card_of(b, act)
    html = ENVIRONMENT.get_template("bag/card.html").render(b=b, c=card)
    found = {"html": html, "title": title_of(card), "place": place_of(b, act), "look": looks(b, act), "aim": aim_of(b, card)}
    if card.ending is not None:
        size = {"width": round(card.ending.width_mm, 2), "height": round(card.ending.height_mm, 2)}
        found["strip"] = list(card.strip or ())
        found["ending"] = {"svg": card.ending.canvas.picture(), **size}
    if speaks := spoken_against(b, act):
        found["against"] = speaks
    return found


def _pictures(drawn: Mapping[str, Canvas]) -> dict[str, Any]:
    """Every picture once: boards that look alike before two steps are one under both names."""
    found, known = dict[str, Any](), dict[str, str]()
    for name, canvas in drawn.items():
        svg = canvas.picture()
        if svg in known:
            found[name] = {"as": known[svg]}
            continue
        known[svg] = name
        found[name] = {"svg": svg, "width": canvas.width, "height": canvas.height, "at": canvas.anchors}
    return found


def _stations(b: Bench) -> list[dict[str, Any]]:
    """The stations with their acts in the order in which they are done."""
    found = []
    for leg, stations in LEGS:
        for station, title in stations:
            acts = [act.id for act in b.standing.acts.of(station) if not act.is_derived and act.kind not in BESIDE]
            found.append({"id": station, "title": title, "leg": leg, "acts": acts})
    return found


def _holds(b: Bench) -> dict[str, int]:
    """How much of what is in it, by what people count."""
    count = Counter(act.kind for act in b.standing.acts.values() if not act.is_derived)
    named = {
        "terminations": Kind.TORQUE,
        "leads": Kind.LEAD,
        "programming tasks": Kind.RITUAL,
        "measurements": Kind.MEASUREMENT,
        "steps": Kind.STEP,
        "settings": Kind.SETTING,
    }
    return {words: count[kind] for words, kind in named.items() if count[kind]}


def _made(b: Bench, tag: str) -> dict[str, Any]:
    acts = [act for act in b.standing.acts.values() if not act.is_derived and act.kind not in BESIDE]
    drawn = pictures_of(b.plan, b.system)
    tools = [{"id": t.id, "title": t.title, "kind": t.kind, "until": t.calibrated_to} for t in b.job.tools]
    return {
        "format": FORMAT,
        "tag": tag,
        "revision": b.revision.number,
        "made": datetime.now(UTC).isoformat(),
        "job": {
            "id": b.job.id,
            "title": b.job.title,
            "units": b.system,
            "book": book(b.job.rule_book).title,
            "supply": supply_of(b.plan.house),
        },
        "stations": _stations(b),
        "cards": {act.id: _card(b, act) for act in acts},
        "pictures": _pictures(drawn),
        "plan": sheets_of(b, drawn),
        "tools": tools,
        "holds": _holds(b),
    }


def bag_of(b: Bench) -> dict[str, Any]:
    """The bag under the plan of a bench; made once for all who take it along."""
    tag = tag_of(b)
    known = _BAGS.get(tag)
    return known if known is not None else _BAGS.keep(tag, _made(b, tag))
