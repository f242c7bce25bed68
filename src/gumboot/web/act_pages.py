"""One act beside its station: what it must show, what holds it, and everything that was ever recorded of it."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse

from gumboot.core.acts import ident
from gumboot.web.act_words import figure_of, history_of
from gumboot.web.rendering import bench, render
from gumboot.web.security import Db, Person

ROUTER = APIRouter()


@ROUTER.get("/jobs/{job_id}/acts/{word}/{name}")
def act(request: Request, job_id: str, word: str, name: str, db: Db, person: Person) -> HTMLResponse:
    """The act as the side panel shows it, or as a page of its own."""
    view = bench(db, person, job_id, "wire")
    found = view.standing.acts.get(ident(word, name))
    if found is None:
        rows = history_of(view, ident(word, name))
        if not rows:
            raise HTTPException(404, "That is no act of this plan any more.")
        # What was read of it stays in sight.
        return render("act_gone.html", b=view, title=rows[0].title, rows=rows)
    view.station, key = found.station, figure_of(found)
    view.figure = key if key and view.figure_of(key) is not None else ""
    return render("act.html" if request.headers.get("HX-Request") else "act_page.html", b=view, act=found)
