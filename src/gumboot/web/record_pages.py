"""Recording what was done: every act by one way in.

Every record comes with an id from where it was made, so that it can be sent again until it is acknowledged: the same content is the
same answer, other content is refused. Whether a record is kept is asked of the core; nothing is decided here.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any, cast

from fastapi import APIRouter, Depends, Request
from pydantic import ValidationError
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, RedirectResponse, Response

from gumboot.core.acts import Act, Kind, ident
from gumboot.core.record import AnyRecord, Role, SetAside
from gumboot.core.recording import Doing, Draft, Person, Verdict, inputs_of, may_record, receive, said
from gumboot.store import accounts, holdings, records
from gumboot.web import urls
from gumboot.web.act_words import act_mark
from gumboot.web.rendering import bench, plan_under, render, render_bench
from gumboot.web.security import Author, Db, Texts
from gumboot.web.stations.wire.view import card_of
from gumboot.web.view import Bench

ROUTER = APIRouter(prefix="/jobs/{job_id}/records")
AGE = re.compile(r"[0-9]{1,9}(\.[0-9]{1,3})?")
IDENTITY = re.compile(r"[A-Za-z0-9-]{8,36}")
# Not part of what was typed: who carries it, and how long it lay on a phone.
CARRIED = ("csrf", "record_id", "age_s", "doer", "sure", "device", "under", "clock_ms", "done_ms", "knew")
LONGEST_KEPT = timedelta(days=90)
# A phone that knows how far its clock is off says when something was done; so near to what its age says it is believed. The way through the
# air is longer for one record than for the next: by age alone two of them would change places.
NEAR = timedelta(seconds=15)
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
    # How far the device's clock was ahead as it was sent; none where it does not say.
    clock_ahead_s: float | None = None
    # The record of the act that its doer knew of, where the device says.
    knew: str | None = None

    @property
    def by_script(self) -> bool:
        """Whether a script sent it that wants plain data back, such as the phone's queue."""
        return self.request.headers.get("accept", "").startswith("application/json")

    def sent(self, word: str, name: str) -> records.Sent:
        """As the store takes it: named as every version has named it, so that what was sent before is known again."""
        kind, subject = ("hold-cleared", f"check:{name}") if word == "hold" else (word, f"ct-{name}" if word == "ct" else name)
        return records.Sent(self.record_id, kind, subject, self.typed, self.person.display, self.age)

    def told(self, kept: AnyRecord, following: str, before: str) -> Response:
        """What became of a record, for a script: its defects, and between which heads of the chain it stands."""
        after = records.head(self.db, self.job_id)
        return JSONResponse({"ok": True, "next": following, "defects": list(kept.defects), "before": before, "head": after})

    def answer(self, view: Bench, station: str) -> Response:
        """The station as it stands now."""
        if self.request.headers.get("HX-Request"):
            return render_bench(view, fragment=True)
        return RedirectResponse(urls.station(self.job_id, station), 303)

    def problem(self, act: Act, verdict: Verdict) -> Response:
        """What is wrong, beside its field; what was typed stays where it was typed."""
        status = STATUS[verdict.outcome]
        if self.by_script or status in (403, 404):
            # What is only asked about is sent again as meant, by who looks at it.
            raise HTTPException(status, verdict.text, {"X-Asks": "yes"} if verdict.outcome == "asked" else None)
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


def _ahead(clock_ms: str, now: datetime) -> float | None:
    """How many seconds a device's clock is ahead of the server's, on the way here left aside; none for what is no time."""
    return round(int(clock_ms) / 1000 - now.timestamp(), 1) if clock_ms.isdecimal() and len(clock_ms) <= 14 else None


def _age(age_s: str, done_ms: str, now: datetime) -> timedelta:
    """How long ago it was done: by the phone's own clock put right, where that is near to what its age says; never ahead of now."""
    age = timedelta(seconds=float(age_s))
    if not done_ms.isdecimal() or len(done_ms) > 14:
        return age
    told = now - datetime.fromtimestamp(int(done_ms) / 1000, UTC)
    return max(told, timedelta(0)) if abs(told - age) < NEAR else age


def _knew(typed: dict[str, str]) -> str | None:
    """The record that a phone knew of: nothing where it knew of none, none where it does not say."""
    known = typed.get("knew")
    return known if known is not None and (known == "" or IDENTITY.fullmatch(known)) else None


def recording(request: Request, job_id: str, db: Db, person: Author, typed: Texts) -> Recording:
    """Read what every record carries. Raises 422 without an id, 409 when somebody else than its doer sends it."""
    record_id, doer, age_s = typed.get("record_id", ""), typed.get("doer", ""), typed.get("age_s", "") or "0"
    if not IDENTITY.fullmatch(record_id):
        raise HTTPException(422, "record_id: a record needs the id that its page gave it. Reload the page; nothing was saved.")
    if doer and doer != person.name:
        raise HTTPException(409, f"This was done by {doer}, and {person.name} is signed in. It waits until {doer} signs in here.")
    if not AGE.fullmatch(age_s) or timedelta(seconds=float(age_s)) > LONGEST_KEPT:
        raise HTTPException(422, f"age_s: seconds since it was done, at most {LONGEST_KEPT.days} days of them.")
    plain, now = {k: v for k, v in typed.items() if k not in CARRIED}, records.hold(db, job_id)
    age = _age(age_s, typed.get("done_ms", ""), now)
    under = int(shown) if (shown := typed.get("under", "")[:9]).isdecimal() else None
    sure, device, ahead = typed.get("sure") == "yes", typed.get("device", ""), _ahead(typed.get("clock_ms", ""), now)
    return Recording(
        request,
        db,
        person,
        job_id,
        plain,
        record_id,
        age,
        now,
        sure=sure,
        device=device,
        under=under,
        clock_ahead_s=ahead,
        knew=_knew(typed),
    )


Here = Annotated[Recording, Depends(recording)]


def _judge(here: Recording, view: Bench, act: Act) -> Verdict:
    """What becomes of what was typed."""
    current = view.revision.number
    under = plan_under(here.db, here.job_id, here.under, current)
    person, revision = here.person, (here.under or current) if under else current
    by = Doing(person.name, person.display, person.role, revision, here.device, here.clock_ahead_s, here.knew)
    every = said(here.record_id, act.id, here.now - here.age, by)
    doer = Person(person.name, person.display, cast("Role", person.role))
    return receive(Draft(view.plan, view.standing, act, here.typed, view.system, every, under), doer, here.now, sure=here.sure)


ASIDE = APIRouter(prefix="/jobs/{job_id}/set-aside")


def beside_acts(here: Here, view: Bench, act_id: str, kind: str, make: Callable[[dict[str, Any]], AnyRecord]) -> tuple[AnyRecord, str]:
    """Keep a record that stands for nothing, whether its act may be done or not; and the head of the chain before it.

    ``make`` makes it of what every record says. Raises 403, 409 or 422 with the reason.
    """
    person = here.person
    by = Doing(person.name, person.display, person.role, view.revision.number, here.device, here.clock_ahead_s)
    try:
        made = make(said(here.record_id, act_id, here.now - here.age, by))
    except ValidationError as bad:
        raise HTTPException(422, f"{bad.errors()[0]['loc'][0]}: {bad.errors()[0]['msg']}. Nothing was saved.") from None
    verdict = may_record(view.plan, view.standing, made, Person(person.name, person.display, cast("Role", person.role)), here.now)
    if verdict.record is None:
        raise HTTPException(STATUS[verdict.outcome], verdict.text)
    head = records.head(here.db, here.job_id)
    try:
        return records.add_record(here.db, here.job_id, here.sent(kind, act_id), verdict.record), head
    except records.OtherRecord:
        raise _other() from None


@ASIDE.post("/{word}/{name}")
def set_aside(job_id: str, word: str, name: str, here: Here) -> Response:
    """Keep that something which was refused was set aside, and why; whether there is such an act or not."""
    act_id, view = ident(CALLED.get(word, word), name), bench(here.db, here.person, job_id, "wire")
    words = {field: here.typed.get(field, "")[:500] for field in ("said", "refused", "reason")}
    kept, head = beside_acts(here, view, act_id, "set-aside", lambda every: SetAside(**every, **words))
    return here.told(kept, urls.station(job_id, "wire"), head)


@ROUTER.post("/{word}/{name}")
def record(job_id: str, word: str, name: str, here: Here) -> Response:
    """Record an act."""
    act_id = ident(CALLED.get(word, word), f"ct-{name}" if word == "ct" else name)
    view = bench(here.db, here.person, job_id, "wire")
    act = view.standing.acts.get(act_id)
    head = records.head(here.db, job_id)
    try:
        kept = records.already(here.db, job_id, here.sent(word, name))
    except records.OtherRecord:
        raise _other() from None
    if kept is None:
        if act is None:
            raise HTTPException(404, "That is no act of this plan any more. Nothing was saved.")
        verdict = _judge(here, view, act)
        if not verdict.is_kept or verdict.record is None:
            return here.problem(act, verdict)
        try:
            kept = records.add_record(here.db, job_id, here.sent(word, name), verdict.record)
        except records.OtherRecord:
            raise _other() from None
        here.db.flush()
        holdings.sign(here.db, job_id, act.thing if act is not None else "", here.person.name)
    station = act.station if act is not None else "wire"
    after = bench(here.db, here.person, job_id, station)
    if act is not None and act.kind is Kind.TORQUE:
        following = _after(after, act.name)
        return here.told(kept, following, head) if here.by_script else RedirectResponse(following, 303)
    if here.by_script:
        return here.told(kept, urls.station(job_id, station), head)
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
