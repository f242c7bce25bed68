"""The company's own cards: made from another card by form, or read from JSON; every change is a new revision."""

from __future__ import annotations

import itertools
import json
from decimal import Decimal
from typing import Any, get_args

from fastapi import APIRouter, UploadFile
from pydantic import ValidationError
from sqlalchemy.orm import Session
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, RedirectResponse, Response

from gumboot.catalogue import shelf
from gumboot.core.card import parse_card
from gumboot.core.card.model import AnyCard
from gumboot.core.errors import BadUnit, GumbootError
from gumboot.core.limits import read_json
from gumboot.core.study.compare import changed_fields, flat
from gumboot.core.study.fit import ratings
from gumboot.store import card_notes, cards
from gumboot.web import urls
from gumboot.web.deciding import EDITORS
from gumboot.web.quantities import parse
from gumboot.web.rendering import render
from gumboot.web.security import Author, Db, Person, Texts, may

ROUTER = APIRouter()
MOST_CARD_BYTES = 1_000_000
FIXED = ("format", "kind", "revision")


@ROUTER.get(urls.CARDS)
def cards_page(db: Db, person: Person, kind: str = "") -> HTMLResponse:
    """All cards by kind, the company's own first."""
    return _list(db, person, kind)


def _list(db: Session, who: Any, kind: str = "", status: int = 200, problem: str = "") -> HTMLResponse:
    own = set(cards.newest_company(db))
    everything = sorted(cards.whole_shelf(db).values(), key=lambda c: (c.kind, c.id not in own, c.title))
    kinds = list(dict.fromkeys(c.kind for c in everything))
    shown = [c for c in everything if not kind or c.kind == kind]
    titles = {c.id: c.title for c in everything}
    return render(
        "cards.html",
        status,
        who=who,
        kinds=kinds,
        kind=kind,
        rows=shown,
        own=own,
        ratings=ratings,
        problem=problem,
        notes=[(note, titles.get(note.card, note.card)) for note in card_notes.waiting(db)],
        may_decide=who.role in EDITORS,
    )


def _document(db: Session, card_id: str) -> dict[str, Any]:
    card = cards.whole_shelf(db).get(card_id)
    if card is None:
        raise HTTPException(404, f"There is no card '{card_id}'.")
    return card.model_dump(mode="json")


def _text_and_kind(value: object) -> tuple[str, str]:
    """What stands in the field of a value, and what kind of field it is."""
    if isinstance(value, bool):
        return str(value), "flag"
    if isinstance(value, int | float):
        # Every digit of it, and no power of ten, which the reader of quantities would take for a unit.
        return f"{Decimal(str(value)):f}".removesuffix(".0"), "number"
    if isinstance(value, list):
        return json.dumps(value, ensure_ascii=False), "list"
    return ("", "none") if value is None else (str(value), "text")


def _rows(document: dict[str, Any]) -> list[tuple[str, str, str]]:
    """Fields of a card as path, text and kind of value."""
    return [(path, *_text_and_kind(value)) for path, value in flat(document).items() if path not in FIXED]


@ROUTER.get(urls.CARDS + "/{card_id}")
def card_page(card_id: str, db: Db, person: Person) -> HTMLResponse:
    """One card with its fields, its revisions and what each changed."""
    document = _document(db, card_id)
    kept = cards.revisions(db, card_id)
    changes = [(new.revision, changed_fields(old.document, new.document)) for new, old in itertools.pairwise(kept)]
    return _form(person, document, card_id not in shelf(), kept=kept, changes=changes, notes=card_notes.taken(db).get(card_id, ()))


def _form(
    who: Any,
    document: dict[str, Any],
    own: bool,
    status: int = 200,
    problems: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    kept: Any = (),
    changes: Any = (),
    notes: Any = (),
) -> HTMLResponse:
    sections: dict[str, list[tuple[str, str, str]]] = {}
    for path, text, kind in _rows(document):
        head = path.split(".")[0]
        nested = "." in path
        name = ".".join(path.split(".")[:2]) if head == "ports" else head if nested else "this card"
        sections.setdefault(name, []).append((path, (typed or {}).get(path, text), kind))
    return render(
        "card_form.html",
        status,
        who=who,
        card=document,
        own=own,
        sections=sections,
        words_of=words_of,
        choices={path: choices_of(parse_card(document), path) for path, _, _ in sections.get("this card", [])},
        problems=problems or {},
        kept=kept,
        changes=changes,
        notes=notes,
    )


# Units that end a field's name, as people write them.
UNITS = {
    "v": "V", "a": "A", "w": "W", "wh": "Wh", "mm": "mm", "kg": "kg", "c": "°C", "s": "s", "pct": "%", "nm": "N m", "mohm": "mΩ", "ohm": "Ω", "uf": "µF",
    "hz": "Hz", "ma": "mA", "m": "m", "h": "h", "minutes": "min", "watts": "W",
}  # fmt: skip


def _named_unit(name: str) -> tuple[list[str], str]:
    """A field's name without its unit, and the unit that it ends in."""
    parts = name.split("_")
    if name.endswith("_per_k"):
        return parts[:-2], "1/K"
    if len(parts) > 1 and parts[-1] in UNITS:
        return parts[:-1], UNITS[parts[-1]]
    if len(parts) > 1 and parts[0] == "v":
        return ["voltage", *parts[1:]], "V"
    if len(parts) > 1 and parts[0] in ("i", "isc"):
        return ["current" if parts[0] == "i" else "short-circuit current", *parts[1:]], "A"
    return parts, ""


def words_of(path: str) -> str:
    """A field's name as a person reads it: ``trackers.PV1.v_max`` is 'PV1, v max, V'."""
    *before, last = path.split(".")
    parts, unit = _named_unit(last)
    return ", ".join([*before, " ".join(parts) + (f", {unit}" if unit else "")])


def choices_of(card: AnyCard, path: str) -> tuple[str, ...]:
    """What a field of the card itself may hold, where that is a short list."""
    info = type(card).model_fields.get(path)
    options = get_args(info.annotation) if info else ()
    return tuple(str(o) for o in options) if options and all(isinstance(o, str) for o in options) else ()


# As the form shows a unit, and as the reader of quantities names it.
SPOKEN = {"mΩ": "mohm", "Ω": "ohm", "µF": "uF"}


def _read(text: str, kind: str, present: Any, path: str, document: dict[str, Any]) -> Any:
    text = text.strip()
    if kind == "flag":
        return text == "yes"
    if kind == "list":
        return read_json(text or "[]")
    if kind not in ("number", "none"):
        return text
    if text == "":
        return None
    name = path.rsplit(".", maxsplit=1)[-1]
    unit = _named_unit(name)[1]
    try:
        # A coefficient in mV/K is a share of the voltage that stands beside it.
        value = parse(text, SPOKEN.get(unit, unit), per_volt=document.get(f"{name.removesuffix('_per_k')}_v"))
    except BadUnit:
        if kind == "none" and not unit:
            return text  # an empty field may be one for words
        raise
    return int(value) if value.is_integer() and isinstance(present, int) else value


def _set(document: Any, path: str, value: Any) -> None:
    node, parts = document, path.split(".")
    for part in parts[:-1]:
        node = node[part] if isinstance(node, dict) else _item(node, part)
    node[parts[-1]] = value


def _item(items: list[Any], part: str) -> Any:
    found = next((x for x in items if part in (x.get("id"), x.get("channel"))), None)
    return found if found is not None else items[int(part) - 1]


@ROUTER.post(urls.CARDS + "/{card_id}")
def save_card(card_id: str, db: Db, person: Author, form: Texts) -> Response:
    """Save the form: a next revision of an own card, or a new card of the company's own made from another."""
    may(person, *EDITORS)
    document = _document(db, card_id)
    present, problems, typed = flat(document), {}, {}
    for path, _, kind in _rows(document):
        name = f"v.{path}"
        if name not in form:
            continue
        typed[path] = form[name]
        try:
            _set(document, path, _read(form[name], kind, present[path], path, document))
        except BadUnit as refused:
            problems[path] = str(refused)
        except ValueError:
            problems[path] = 'This needs a list such as ["LFP"].'
    own = card_id not in shelf()
    if problems:
        return _form(person, _document(db, card_id), own, 422, problems, typed)
    try:
        saved = cards.save_company_card(db, document, person.display)
    except cards.CardTaken:
        return _form(person, _document(db, card_id), own, 422, {"id": "The catalogue has a card of this id: give yours another."}, typed)
    except ValidationError as refused:
        for row in refused.errors():
            problems[_named([str(p) for p in row["loc"]], document)] = row["msg"].removeprefix("Value error, ") + "."
        return _form(person, _document(db, card_id), own, 422, problems, typed)
    except (GumbootError, ValueError) as refused:
        return _form(person, _document(db, card_id), own, 422, {"id": str(refused)}, typed)
    return RedirectResponse(f"{urls.CARDS}/{saved.id}", 303)


def _named(loc: list[str], document: Any) -> str:
    """A validation error's place as the form names it: list items by their id."""
    parts, node = [], document
    for part in loc[1:] if loc and loc[0] == document.get("kind") else loc:
        if isinstance(node, list) and part.isdigit() and int(part) < len(node):
            node = node[int(part)]
            parts.append(str(node.get("id") or node.get("channel") or int(part) + 1) if isinstance(node, dict) else part)
        else:
            node = node.get(part) if isinstance(node, dict) else None
            parts.append(part)
    return ".".join(parts)


@ROUTER.post(urls.CARDS)
def import_card(db: Db, person: Author, file: UploadFile) -> Response:
    """A card from a JSON file; an id that the company has gets its next revision."""
    may(person, *EDITORS)
    raw = file.file.read(MOST_CARD_BYTES + 1)
    try:
        if len(raw) > MOST_CARD_BYTES:
            raise ValueError("the file is larger than 1 MB")
        document = read_json(raw)
        if not isinstance(document, dict):
            raise ValueError("it holds no card")
        saved = cards.save_company_card(db, document, person.display)
    except ValidationError as refused:
        rows = [f"{'.'.join(str(p) for p in r['loc'])}: {r['msg'].removeprefix('Value error, ')}" for r in refused.errors()[:12]]
        return _list(db, person, "", 422, "\n".join(rows))
    except (UnicodeDecodeError, ValueError) as refused:
        return _list(db, person, "", 422, f"The file cannot be read: {refused}. Choose a card as JSON; ./gumboot schema card describes it.")
    except cards.CardTaken as taken:
        return _list(db, person, "", 422, f"The catalogue has a card '{taken}'. Give yours another id.")
    return RedirectResponse(f"{urls.CARDS}/{saved.id}", 303)


@ROUTER.get(urls.CARDS + "/{card_id}/card.json")
def card_file(card_id: str, db: Db, person: Person) -> Response:
    """A card as the file it can be imported from."""
    text = json.dumps(_document(db, card_id), indent=1, ensure_ascii=False) + "\n"
    return Response(text, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{card_id}.card.json"'})
