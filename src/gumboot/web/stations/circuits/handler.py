"""The station Circuits, other sizes, cut list and material."""

from __future__ import annotations

from fastapi import Request
from starlette.responses import HTMLResponse, Response

from gumboot.core.job import Job, read_path
from gumboot.web import studies
from gumboot.web.deciding import patched, plan_now, revise
from gumboot.web.lists import BadItem
from gumboot.web.rendering import asking, render
from gumboot.web.security import Author, Db, Person, Text
from gumboot.web.stations.circuits.view import material_of, sizes_view
from gumboot.web.stations.opening import opened

ROUTER = opened("circuits")


@ROUTER.get("/part/sizes")
def sizes(request: Request, job_id: str, db: Db, person: Person) -> HTMLResponse:
    """What other sizes of a run would give."""
    view = asking(request, db, person, job_id, "circuits")
    return render("stations/circuits/sizes.html", b=view, v=sizes_view(view))


@ROUTER.get("/part/material")
def material(request: Request, job_id: str, db: Db, person: Person) -> HTMLResponse:
    """Cut list and material list."""
    view = asking(request, db, person, job_id, "circuits")
    return render("stations/circuits/material.html", b=view, v=material_of(view))


@ROUTER.post("/runs/from-wall")
def length_from_wall(request: Request, job_id: str, db: Db, person: Author, run: Text) -> Response:
    """Take the length that the wall gives for a run between two boxes."""

    def change(job: Job) -> Job:
        plan = plan_now(db, job_id)
        circuit = next((c for c in plan.circuits.all if c.id == run), None)
        length = studies.wall_length_m(plan, circuit) if circuit else None
        if length is None:
            raise BadItem("run", "The wall gives no length for that run: an end of it is not on the wall.")
        read_path(job.model_dump(mode="json"), f"runs.{run}")
        return patched(job, f"runs.{run}.length_m", round(length, 2))

    return revise(request, db, person, job_id, "circuits", change, f"length of {run} from the wall", "runs")
