"""The hand's page and what makes it work without signal: the person's key, the bag of a house, the worker, the manifest."""

from __future__ import annotations

import base64
import json
from datetime import UTC, datetime
from functools import lru_cache

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from gumboot import __version__
from gumboot.store import accounts, jobs
from gumboot.web import urls
from gumboot.web.act_api import packed
from gumboot.web.bag.contents import bag_of, tag_of
from gumboot.web.rendering import bench, render
from gumboot.web.scripts import MARK, scripts_of, shipped
from gumboot.web.security import Db, Person

ROUTER = APIRouter()


@ROUTER.get(urls.ME)
def me(db: Db, person: Person) -> JSONResponse:
    """Who is signed in, with the key under which this person's phones keep what they carry."""
    key = base64.b64encode(accounts.phone_key(db, person.name)).decode()
    told = {"name": person.name, "display": person.display, "role": person.role, "csrf": person.csrf, "key": key}
    return JSONResponse({**told, "at": datetime.now(UTC).isoformat(), "mark": MARK})


@ROUTER.get("/api/jobs/{job_id}/bag")
def bag(request: Request, job_id: str, db: Db, person: Person, tag: str = "") -> Response:
    """Cards and pictures of a house; nothing where the phone has them already, as its tag says."""
    view = bench(db, person, job_id, "wire")
    if tag == tag_of(view):
        return Response(status_code=204)
    return packed(request, bag_of(view))


@lru_cache(maxsize=1)
def _modules() -> tuple[str, ...]:
    """Every script of the hand, so that none waits for another to name it."""
    return tuple(name for name in scripts_of("js/hand/main.js") if name != "js/hand/main.js")


@ROUTER.get(urls.HAND)
def shell() -> HTMLResponse:
    """The hand's page: the same for everybody and every house, so that a phone may keep it."""
    return render("bag/hand.html", modules=_modules())


@ROUTER.get("/jobs/{job_id}/hand")
def hand(job_id: str, db: Db, person: Person) -> HTMLResponse:
    """The hand's page, for a house that there is. Raises NoSuchJob."""
    jobs.load(db, job_id)
    return shell()


@lru_cache(maxsize=1)
def _worker() -> str:
    """The worker with the list of what it keeps; another version of anything shipped is another worker."""
    names = [name for name in shipped() if not name.endswith((".txt", ".map"))]
    told = {"mark": MARK, "version": __version__, "shell": urls.HAND, "files": [urls.static(name) for name in names]}
    return f'import {{ work }} from "{urls.static("js/phone/worker.js")}";\nwork({json.dumps(told)});\n'


@ROUTER.get(urls.WORKER)
def worker() -> Response:
    """The worker of the whole site, which stands at its root."""
    return Response(_worker(), media_type="text/javascript")


@ROUTER.get(urls.MANIFEST)
def manifest() -> JSONResponse:
    """What a phone needs to keep the app among its own."""
    icons = [{"src": urls.static(f"icons/boot-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png"} for size in (192, 512)]
    told = {
        "name": "Gumboot",
        "short_name": "Gumboot",
        "description": "Fit, prove and hand over a storage installation, with or without signal.",
        "id": "/",
        "start_url": urls.HAND,
        "scope": "/",
        "display": "standalone",
        "background_color": "#f8f4ea",
        "theme_color": "#1f5b49",
        "icons": [*icons, {**icons[1], "purpose": "maskable"}, {"src": urls.static("boot.svg"), "sizes": "any", "type": "image/svg+xml"}],
    }
    return JSONResponse(told, media_type="application/manifest+json")


@ROUTER.get("/jobs/{job_id}/at-the-bench/{station}")
def at_the_bench(job_id: str, station: str, person: Person) -> Response:
    """The bench on a small screen, for who asks for it: from then on, until the hand is asked for again."""
    answer = RedirectResponse(urls.station(job_id, station), 303)
    answer.set_cookie(urls.POSTURE, "bench", samesite="lax", max_age=14 * 3600, path="/")
    return answer
