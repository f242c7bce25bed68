"""Recording what was done: every act by one way in.

Every record comes with an id from where it was made, so that it can be sent again until it is acknowledged: the same content is the
same answer, other content is refused. Whether a record is kept is asked of the core; nothing is decided here.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Annotated, cast

from fastapi import APIRouter, Depends, Request
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, RedirectResponse, Response

from gumboot.core.acts import Act, Kind, ident
from gumboot.core.record import Role
from gumboot.core.recording import Doing, Draft, Person, Verdict, inputs_of, receive, said
from gumboot.store import accounts, holdings, records
from gumboot.web import urls
from gumboot.web.act_words import act_mark
from gumboot.web.rendering import bench, plan_under, render, render_bench
from gumboot.web.security import Author, Db, Texts
from gumboot.web.stations.wire.view import card_of
from gumboot.web.view import Bench

ROUTER = APIRouter(prefix="/jobs/{job_id}/records")
IDENTITY = re.compile(r"[A-Za-z0-9-]{8,36}")
# Not part of what was typed: who carries it, and how long it lay on a phone.
CARRIED = ("csrf", "record_id", "age_s", "doer", "sure", "device", "under")
LONGEST_KEPT = timedelta(days=90)
# How acts were called in the addresses of earlier versions: a phone may hold records that are sent there.
CALLED = {"measurement": "check", "done": "step", "hold": "clear", "link": "ritual", "setting-agreed": "setting", "ct": "meter"}
STATUS = {"refused": 422, "asked": 422, "unknown": 404, "forbidden": 403}


@dataclass(frozen=True, slots=True)
class Recording:
    """One record on its way in: who sends it to which job, with what typed, and how it is answered."""

    request: Request
    db: Db
    person: accounts.Who
    job_id: str
    typed: dict[str, str]
    record_id: str
    age: timedelta
    now: datetime
    sure: bool
    device: str
    # The revision of the plan that the page showed; none where it does not say.
    under: int | None

    @property
    def by_script(self) -> bool:
        """Whether a script sent it that wants plain data back, such as the phone's queue."""
        return self.request.headers.get("accept", "").startswith("application/json")

    def sent(self, word: str, name: str) -> records.Sent:
        """As the store takes it: named as every version has named it, so that what was sent before is known again."""
        kind, subject = ("hold-cleared", f"check:{name}") if word == "hold" else (word, f"ct-{name}" if word == "ct" else name)
        return records.Sent(self.record_id, kind, subject, self.typed, self.person.display, self.age)

    def answer(self, view: Bench, station: str) -> Response:
        """The station as it stands now; plain data for a script."""
        if self.by_script:
            return JSONResponse({"ok": True, "next": urls.station(self.job_id, station)})
        if self.request.headers.get("HX-Request"):
            return render_bench(view, fragment=True)
        return RedirectResponse(urls.station(self.job_id, station), 303)

    def problem(self, act: Act, verdict: Verdict) -> Response:
        """What is wrong, beside its field; what was typed stays where it was typed."""
        status = STATUS[verdict.outcome]
        if self.by_script or status in (403, 404):
            raise HTTPException(status, verdict.text)
        view = bench(self.db, self.person, self.job_id, act.station, typed=self.typed, refused=act.id)
        field = _mark(view, act, verdict.field)
        view.problems = {field: verdict.text}
        view.asks = field if verdict.outcome == "asked" else ""
        if act.kind is Kind.TORQUE:
            return render("stations/wire/card.html", status, b=view, v=card_of(view, act.name))
        return render_bench(view, fragment=bool(self.request.headers.get("HX-Request")), status=status)


def _mark(view: Bench, act: Act, field: str) -> str:
    """How a page marks the field of an act: a meter test each by its own name, all else by the act."""
    if act.kind is Kind.METER:
        return field if field in {asked.name for asked in inputs_of(view.plan, view.standing, act)} else act.name
    return act_mark(act)


def _other() -> HTTPException:
    return HTTPException(409, "A record of this id says something else already. Reload the page and look; nothing was saved from here.")


def recording(request: Request, job_id: str, db: Db, person: Author, typed: Texts) -> Recording:
    """Read what every record carries. Raises 422 without an id, 409 when somebody else than its doer sends it."""
    record_id, doer, age_s = typed.get("record_id", ""), typed.get("doer", ""), typed.get("age_s", "") or "0"
    if not IDENTITY.fullmatch(record_id):
        raise HTTPException(422, "record_id: a record needs the id that its page gave it. Reload the page; nothing was saved.")
    if doer and doer != person.name:
        raise HTTPException(409, f"This was done by {doer}, and {person.name} is signed in. It waits until {doer} signs in here.")
    if not age_s.isdecimal() or len(age_s) > 9 or timedelta(seconds=int(age_s)) > LONGEST_KEPT:
        raise HTTPException(422, f"age_s: seconds since it was done, at most {LONGEST_KEPT.days} days of them.")
    plain, age = {k: v for k, v in typed.items() if k not in CARRIED}, timedelta(seconds=int(age_s))
    now = records.hold(db, job_id)
    under = int(shown) if (shown := typed.get("under", "")[:9]).isdecimal() else None
    sure, device = typed.get("sure") == "yes", typed.get("device", "")
    return Recording(request, db, person, job_id, plain, record_id, age, now, sure=sure, device=device, under=under)


Here = Annotated[Recording, Depends(recording)]


def _judge(here: Recording, view: Bench, act: Act) -> Verdict:
    """What becomes of what was typed."""
    current = view.revision.number
    under = plan_under(here.db, here.job_id, here.under, current)
    by = Doing(here.person.name, here.person.display, here.person.role, (here.under or current) if under else current, here.device)
    every = said(here.record_id, act.id, here.now - here.age, by)
    person = Person(here.person.name, here.person.display, cast("Role", here.person.role))
    return receive(Draft(view.plan, view.standing, act, here.typed, view.system, every, under), person, here.now, sure=here.sure)


@ROUTER.post("/{word}/{name}")
def record(job_id: str, word: str, name: str, here: Here) -> Response:
    """Record an act."""
    act_id = ident(CALLED.get(word, word), f"ct-{name}" if word == "ct" else name)
    view = bench(here.db, here.person, job_id, "wire")
    act = view.standing.acts.get(act_id)
    try:
        before = records.already(here.db, job_id, here.sent(word, name))
    except records.OtherRecord:
        raise _other() from None
    if before is None:
        if act is None:
            raise HTTPException(404, "That is no act of this plan any more. Nothing was saved.")
        verdict = _judge(here, view, act)
        if not verdict.is_kept or verdict.record is None:
            return here.problem(act, verdict)
        try:
            records.add_record(here.db, job_id, here.sent(word, name), verdict.record)
        except records.OtherRecord:
            raise _other() from None
        here.db.flush()
        holdings.sign(here.db, job_id, act.thing if act is not None else "", here.person.name)
    station = act.station if act is not None else "wire"
    after = bench(here.db, here.person, job_id, station)
    if act is not None and act.kind is Kind.TORQUE:
        following = _after(after, act.name)
        return JSONResponse({"ok": True, "next": following}) if here.by_script else RedirectResponse(following, 303)
    return here.answer(after, station)


def _after(view: Bench, termination_id: str) -> str:
    """Where to go after a record: stay when it has a fault, else the next open termination."""
    if view.standing.torques[termination_id].faults:
        return urls.termination(view.job.id, termination_id)
    order = [t.id for t in view.plan.terminations]
    rest = order[order.index(termination_id) + 1 :] + order[: order.index(termination_id)]
    places = {t.id: t.place for t in view.plan.terminations}
    following = next((t for t in rest if not view.standing.torques[t].good and view.others(places[t]) is None), None)
    return urls.termination(view.job.id, following) if following else urls.station(view.job.id, "wire")
