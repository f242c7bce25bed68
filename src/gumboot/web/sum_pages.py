"""Quick sums: a page for each question, and the API."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, get_args
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from gumboot.core.errors import GumbootError
from gumboot.core.limits import read_json
from gumboot.core.reading import example
from gumboot.core.rulebook.books import BOOKS, book
from gumboot.core.sums import SUMS, Sum, ask_sum
from gumboot.core.sums.ask import Answer, BadInput
from gumboot.web import urls
from gumboot.web.asking import answer_json, read_question
from gumboot.web.rendering import render

ROUTER = APIRouter()
MOST_BODY = 20_000


@dataclass(frozen=True, slots=True)
class Field:
    """One field of the form, as the page needs it."""

    name: str
    title: str
    kind: str
    unit: str
    options: tuple[tuple[str, str], ...]
    value: str
    needed: bool
    family: str
    example: str = ""


def _options(entry: Sum, name: str) -> tuple[tuple[str, str], ...]:
    if name == "book":
        return tuple((b.id, b.title) for b in BOOKS.values() if b.family in entry.families)
    annotation = entry.asks.model_fields[name].annotation
    if annotation is bool:
        return (("yes", "yes"), ("no", "no"))
    return tuple((str(a), str(a)) for a in get_args(annotation))


def fields_of(entry: Sum, typed: dict[str, str]) -> list[Field]:
    """The form's fields with what was typed, else with their defaults."""
    rows = []
    for name, info in entry.asks.model_fields.items():
        extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
        kind = str(extra.get("kind", "text"))
        default = "" if info.is_required() or info.default in (None, ()) else info.default
        shown = (
            ("yes" if default else "no") if isinstance(default, bool) else f"{default:g}" if isinstance(default, float) else str(default)
        )
        rows.append(
            Field(
                name,
                (info.title or name).removesuffix(" (NEC)").removesuffix(" (IEC)"),
                kind,
                str(extra.get("unit", "")),
                _options(entry, name) if kind == "choice" else (),
                typed.get(name, shown),
                info.is_required(),
                str(extra.get("family", "")),
                example(str(extra.get("unit", ""))) if kind == "quantity" else "",
            )
        )
    return rows


def query(entry: Sum, typed: dict[str, str], book_id: str) -> str:
    """The question as it stands under another book, for an address: what that book does not ask is left out."""
    family = book(book_id).family
    shared = {f.name for f in fields_of(entry, typed) if f.family in ("", family) and f.kind not in ("size", "sizes")}
    return urlencode({**{k: v for k, v in typed.items() if k in shared}, "book": book_id})


@ROUTER.get(urls.SUMS)
def sums() -> Response:
    """The first quick sum."""
    return RedirectResponse(urls.sum_page(next(iter(SUMS))), 307)


@ROUTER.get(urls.SUMS + "/{name}")
def sum_page(request: Request, name: str) -> HTMLResponse:
    """One quick sum: its form, and the answer when it was asked. The address holds the question, so it can be kept."""
    entry = SUMS.get(name)
    if entry is None:
        raise HTTPException(404, "There is no such quick sum.")
    typed = dict(request.query_params)
    answer: Answer | None = None
    problem, wrong = "", ""
    offered = [value for value, _ in _options(entry, "book")]
    chosen = typed.get("book") or offered[0]
    if chosen in offered:
        typed["book"] = chosen
    family = book(chosen).family if chosen in BOOKS else entry.families[0]
    live = "hx-request" in request.headers
    if set(typed) - {"book"}:
        try:
            answer = ask_sum(name, read_question(entry, typed))
        except BadInput as refused:
            problem, wrong = str(refused), refused.field
        except GumbootError as refused:
            problem = str(refused)
    groups = {group: [s for s in SUMS.values() if s.group == group] for group in dict.fromkeys(s.group for s in SUMS.values())}
    return render(
        "sums.html",
        422 if problem and not live else 200,
        entry=entry,
        groups=groups,
        fields=[f for f in fields_of(entry, typed) if f.family in ("", family)],
        chosen=chosen,
        query=query,
        books=_options(entry, "book"),
        typed=typed,
        answer=answer,
        problem=problem,
        wrong=wrong,
        live=live,
    )


@ROUTER.get("/api/sums")
def list_sums() -> list[dict[str, Any]]:
    """Every quick sum with the JSON Schema of what it asks for."""
    return [
        {"name": s.name, "group": s.group, "title": s.title, "question": s.question, "families": list(s.families), "schema": s.schema()}
        for s in SUMS.values()
    ]


def _problem(title: str, detail: str, status: int = 422, **more: Any) -> Response:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}
    return JSONResponse(body, status, media_type="application/problem+json")


@ROUTER.post("/api/sums/{name}")
async def post_sum(request: Request, name: str) -> Response:
    """Work one out: the figure, its whole working and the findings, or problem details that name the field."""
    entry = SUMS.get(name)
    if entry is None:
        return _problem("No such sum", f"There is no quick sum '{name}'. GET /api/sums lists them.", 404)
    body = await request.body()
    if len(body) > MOST_BODY:
        return _problem("Too much", f"A question is at most {MOST_BODY} bytes.", 413)
    try:
        raw = read_json(body, huge=True)
    except ValueError as refused:
        return _problem("Not JSON", f"{refused}. Send a JSON object with the fields of the schema.")
    if not isinstance(raw, dict):
        return _problem("Not an object", "Send a JSON object with the fields of the schema.")
    try:
        return JSONResponse(answer_json(entry, ask_sum(name, read_question(entry, raw))))
    except BadInput as refused:
        return _problem("That value is not allowed", str(refused), field=refused.field)
    except GumbootError as refused:
        return _problem("No answer follows", str(refused))
