"""The station Strings and its layouts."""

from __future__ import annotations

from fastapi import Request
from starlette.responses import HTMLResponse, Response

from gumboot.core.job import Job
from gumboot.core.job.model import String
from gumboot.core.study.layouts import Lay, strings_of, why_not
from gumboot.web.deciding import plan_now, revise
from gumboot.web.lists import BadItem
from gumboot.web.rendering import asking, render
from gumboot.web.security import Author, Db, Person, Text
from gumboot.web.stations.opening import opened
from gumboot.web.stations.strings.view import layouts_of

ROUTER = opened("strings")


@ROUTER.get("/part/layouts")
def layouts(request: Request, job_id: str, db: Db, person: Person) -> HTMLResponse:
    """The ranked layouts, and why another may not be built."""
    view = asking(request, db, person, job_id, "strings")
    return render("stations/strings/layouts.html", b=view, v=layouts_of(view))


def read_lays(text: str) -> tuple[Lay, ...]:
    """A layout as the address writes it: ``PV1:south:11:1:0,PV2:west:8:1:0``. Raises BadItem."""
    found = []
    for part in filter(None, text.split(",")):
        bits = part.split(":")
        if len(bits) != 5 or not all(b.isdigit() for b in bits[2:]) or not 0 < int(bits[2]) <= 60 or not 0 < int(bits[3]) <= 10:
            raise BadItem("layout", "That is no layout. Choose one from the list.")
        found.append(Lay(bits[0], bits[1], int(bits[2]), int(bits[3]), bits[4] == "1"))
    return tuple(found)


@ROUTER.post("/strings/take")
def take_layout(request: Request, job_id: str, db: Db, person: Author, layout: Text) -> Response:
    """Take a layout from the list. One that breaks a limit is refused with every limit it breaks."""

    def change(job: Job) -> Job:
        lays, plan = read_lays(layout), plan_now(db, job_id)
        broken = why_not(plan, lays)
        if broken or not lays:
            raise BadItem("layout", " ".join(b.text for b in broken) or "The layout is empty.")
        strings = [String.model_validate(row) for row in strings_of(plan, lays)]
        return job.model_copy(update={"strings": strings})

    return revise(request, db, person, job_id, "strings", change, f"layout {layout}", "layout")
