"""The station Wall and the places that are proposed."""

from __future__ import annotations

from fastapi import Request
from starlette.responses import HTMLResponse, Response

from gumboot.core.job import Job
from gumboot.web import studies
from gumboot.web.deciding import plan_now, revise
from gumboot.web.lists import BadItem
from gumboot.web.rendering import asking, render
from gumboot.web.security import Author, Db, Person, Text
from gumboot.web.stations.opening import opened
from gumboot.web.stations.wall.view import placing_of

ROUTER = opened("wall")


@ROUTER.get("/part/placing")
def placing(request: Request, job_id: str, db: Db, person: Person) -> HTMLResponse:
    """Where everything could hang."""
    view = asking(request, db, person, job_id, "wall")
    return render("stations/wall/placing.html", b=view, v=placing_of(view))


@ROUTER.post("/wall/place")
def take_places(request: Request, job_id: str, db: Db, person: Author, shown: Text = "") -> Response:
    """Take the places that were shown; where others would be proposed by now, nothing moves before somebody has seen those."""

    def change(job: Job) -> Job:
        found = studies.places(plan_now(db, job_id))
        if found is None or not found.moved:
            raise BadItem("placing", "Nothing better than what is planned was found. Look at the wall as it stands now.")
        if found.shown != shown:
            raise BadItem("placing", "The house was changed since those places were shown. Propose places anew, and look at them first.")
        return job.model_copy(update={"walls": found.job.walls})

    return revise(request, db, person, job_id, "wall", change, "places as proposed", "placing")
