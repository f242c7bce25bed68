"""The station Wire, the card of a termination, and boxes taken in hand."""

from __future__ import annotations

from fastapi import Request
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, RedirectResponse, Response

from gumboot.store import holdings
from gumboot.web import urls
from gumboot.web.rendering import bench, render, render_bench
from gumboot.web.security import Author, Db, Person, may
from gumboot.web.stations.opening import opened
from gumboot.web.stations.wire.view import card_of

ROUTER = opened("wire")


@ROUTER.get("/wire/{termination_id}")
def card(job_id: str, termination_id: str, db: Db, person: Person) -> HTMLResponse:
    """The card of one termination, made for the hand."""
    view = bench(db, person, job_id, "wire")
    try:
        return render("stations/wire/card.html", b=view, v=card_of(view, termination_id))
    except KeyError:
        raise HTTPException(404, "That termination is not part of this plan any more. Go back to the list.") from None


def _answer(request: Request, job_id: str, db: Db, person: Author) -> Response:
    if request.headers.get("HX-Request"):
        return render_bench(bench(db, person, job_id, "wire"), fragment=True)
    return RedirectResponse(urls.station(job_id, "wire"), 303)


@ROUTER.post("/in-hand/{place}")
def take(request: Request, job_id: str, place: str, db: Db, person: Author) -> Response:
    """Take a box in hand; refused while somebody else has it."""
    may(person, "installer", "licence holder")
    view = bench(db, person, job_id, "wire")
    if place not in {t.place for t in view.plan.terminations}:
        raise HTTPException(404, "That box is not part of this plan any more.")
    try:
        holdings.take(db, job_id, place, person.name)
    except holdings.Held as held:
        raise HTTPException(409, f"{held} has it in hand. It comes free when it is left, or an hour after the last sign.") from None
    return _answer(request, job_id, db, person)


@ROUTER.post("/in-hand/{place}/leave")
def leave(request: Request, job_id: str, place: str, db: Db, person: Author) -> Response:
    """Leave a box."""
    holdings.leave(db, job_id, place, person.name)
    return _answer(request, job_id, db, person)
