"""The station Survey and its equipment."""

from __future__ import annotations

from typing import Annotated

from fastapi import Form, Request
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, Response

from gumboot.core.job import Job
from gumboot.core.job.fitting import Own, another, another_box, fit, take_out_bank
from gumboot.web import equipment
from gumboot.web.deciding import recorded, revise
from gumboot.web.lists import BadItem
from gumboot.web.rendering import asking, render
from gumboot.web.security import Author, Db, Person, Text
from gumboot.web.stations.opening import opened
from gumboot.web.stations.survey.view import fits_of

ROUTER = opened("survey")


@ROUTER.get("/part/fits")
def fits(request: Request, job_id: str, db: Db, person: Person, path: str = "") -> HTMLResponse:
    """What fits into a place, and what does not and why."""
    view = asking(request, db, person, job_id, "survey")
    place = next((each for each in equipment.places(view.job) if each.path == path), None)
    if place is None:
        raise HTTPException(404, "That place is no longer part of this job. Reload the page.")
    return render("stations/survey/fits.html", b=view, v=fits_of(view, place))


@ROUTER.post("/things/fit")
def fit_thing(request: Request, job_id: str, db: Db, person: Author, path: Text, value: Text = "") -> Response:
    """Choose the card of a thing; a thing that is not there is put in, and one left without a card is taken out; so is an idle bank."""

    def change(job: Job) -> Job:
        document = job.model_dump(mode="json")
        if path.startswith("banks.") and not value:
            take_out_bank(document, path.split(".")[1])
        else:
            fit(document, path.removeprefix("things.").removesuffix(".card"), value or None)
        return Job.model_validate(document)

    return revise(request, db, person, job_id, "survey", change, f"{path} {value or 'taken out'}", path)


@ROUTER.post("/things/another")
def another_inverter(request: Request, job_id: str, db: Db, person: Author, like: Text, seen: Text = "", own: Text = "") -> Response:
    """Another inverter like one that stands there, with its own switch-fuse and roof box, and with a bank or a board of its own if asked."""

    known = recorded(db, job_id)

    def change(job: Job) -> Job:
        document = job.model_dump(mode="json")
        brings: Own = "bank" if own == "bank" else "board" if own == "board" else "nothing"
        another(document, like, seen=int(seen) if seen.isdigit() else None, own=brings, known=known)
        return Job.model_validate(document)

    return revise(
        request, db, person, job_id, "survey", change, f"another inverter like {like}", "another", said="Another inverter stands here now."
    )


@ROUTER.post("/things/another-box")
def another_of_boxes(request: Request, job_id: str, db: Db, person: Author, like: Text, seen: Text = "") -> Response:
    """Another board or transfer switch like one that stands there."""
    known = recorded(db, job_id)

    def change(job: Job) -> Job:
        document = job.model_dump(mode="json")
        another_box(document, like, seen=int(seen) if seen.isdigit() else None, known=known)
        return Job.model_validate(document)

    return revise(
        request, db, person, job_id, "survey", change, f"another like {like}", "another", said=f"Another like {like} stands here now."
    )


@ROUTER.post("/cards/update")
def update_card(request: Request, job_id: str, db: Db, person: Author, card: Text, revision: Annotated[int, Form()]) -> Response:
    """Plan with another revision of a card from now on."""

    def change(job: Job) -> Job:
        if card not in job.cards:
            raise BadItem("card", "That card is not on this job any more.")
        return job.model_copy(update={"cards": {**job.cards, card: revision}})

    return revise(request, db, person, job_id, "survey", change, f"card {card} at revision {revision}", "cards")
