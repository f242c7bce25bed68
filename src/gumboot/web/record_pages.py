"""Recording what was done: torque, measurements, steps, settings as left, holds, sign-off.

Every record comes with an id from where it was made, so that it can be sent again until it is acknowledged: the same content is the
same answer, other content is refused.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, RedirectResponse, Response

from gumboot.core.errors import BadUnit
from gumboot.core.plan.prove import Check
from gumboot.core.reading import read_shown
from gumboot.core.rules.landings import NO_TORQUE
from gumboot.core.standing import asked_text, link_tasks
from gumboot.drawing.show import US
from gumboot.store import accounts, records
from gumboot.web import urls
from gumboot.web.quantities import parse
from gumboot.web.rendering import bench, render, render_bench
from gumboot.web.security import Author, Db, Text, Texts, may
from gumboot.web.view import Bench

ROUTER = APIRouter(prefix="/jobs/{job_id}/records")
CREW = ("installer", "licence holder")
LEAST_REASON = 10
IDENTITY = re.compile(r"[A-Za-z0-9-]{8,36}")
# Not part of what was typed: who carries it, and how long it lay on a phone.
CARRIED = ("csrf", "record_id", "age_s", "doer")
LONGEST_KEPT = timedelta(days=90)


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

    @property
    def by_script(self) -> bool:
        """Whether a script sent it that wants plain data back, such as the phone's queue."""
        return self.request.headers.get("accept", "").startswith("application/json")

    def sent(self, kind: str, subject: str) -> records.Sent:
        """As the store takes it."""
        return records.Sent(self.record_id, kind, subject, self.typed, self.person.display, self.age)

    def repeated(self, kind: str, subject: str) -> bool:
        """Whether this very record stands already: then it is answered as it was. Raises 409 for other content under its id."""
        try:
            return records.already(self.db, self.job_id, self.sent(kind, subject)) is not None
        except records.OtherRecord:
            raise _other() from None

    def save(self, kind: str, subject: str, value: dict[str, Any]) -> None:
        """Add it. Raises 409 for other content under its id."""
        try:
            records.add_record(self.db, self.job_id, self.sent(kind, subject), value, self.person.role)
        except records.OtherRecord:
            raise _other() from None
        self.db.flush()

    def answer(self, station: str, problem: str = "", field: str = "") -> Response:
        """The station as it stands now, with what is wrong beside its field; plain data for a script."""
        if self.by_script:
            if problem:
                raise HTTPException(422, problem)
            return JSONResponse({"ok": True, "next": urls.station(self.job_id, station)})
        problems = {field: problem} if problem else {}
        # What was typed stays where it was typed.
        typed = {field: self.typed.get("value", ""), **self.typed} if problem else {}
        view = bench(self.db, self.person, self.job_id, station, problems=problems, typed=typed)
        fragment = bool(self.request.headers.get("HX-Request"))
        if fragment or problem:
            return render_bench(view, fragment=fragment, status=422 if problem else 200)
        return RedirectResponse(urls.station(self.job_id, station), 303)


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
    plain = {k: v for k, v in typed.items() if k not in CARRIED}
    return Recording(request, db, person, job_id, plain, record_id, timedelta(seconds=int(age_s)))


Here = Annotated[Recording, Depends(recording)]


@ROUTER.post("/torque/{termination_id}")
def torque(
    job_id: str,
    termination_id: str,
    here: Here,
    reached: Text = "",
    unit: Text = "lbf in",
    tool: Text = "",
    tug: Text = "",
    pressed: Text = "",
    note: Text = "",
) -> Response:
    """Record one termination: torque with tool and calibration, and the tug test."""
    may(here.person, *CREW)
    view = bench(here.db, here.person, job_id, "wire")
    term = view.plan.termination(termination_id)
    if here.repeated("torque", termination_id):
        return _torque_answer(here, view, termination_id if term else "")
    if term is None:
        raise HTTPException(404, "That termination is not part of this plan any more.")
    item = next((t for t in view.job.tools if t.id == tool), None)
    problem, value_nm = NO_TORQUE.capitalize() + "." if term.tightened_by == "unknown" else "", None
    if term.torque is not None:
        try:
            value_nm = parse(f"{reached.strip()} {unit}", "N m")
        except BadUnit as refused:
            problem = f"Torque reached: {refused}"
        if not problem and (value_nm is None or not 0 < value_nm < 500):
            problem = "Torque reached: give a value above 0 N m and below 500 N m."
        if not problem and item is None:
            problem = "Tool: choose the torque tool that you used."
    if problem:
        if here.by_script:
            raise HTTPException(422, problem)
        return render("card.html", 422, b=view, t=term, problem=problem, typed=here.typed)
    value = {
        "value_nm": value_nm,
        "entered": reached.strip()[:64],
        "unit": unit[:20],
        "tool": tool[:60],
        "calibrated_to": item.calibrated_to if item else None,
        "tug": tug == "held",
        "pressed": pressed == "yes",
        "note": note.strip()[:300],
        "size": term.size,
    }
    here.save("torque", term.id, value)
    return _torque_answer(here, bench(here.db, here.person, job_id, "wire"), term.id)


def _torque_answer(here: Recording, view: Bench, termination_id: str) -> Response:
    following = _after(view, termination_id) if termination_id else urls.station(view.job.id, "wire")
    return JSONResponse({"ok": True, "next": following}) if here.by_script else RedirectResponse(following, 303)


def _after(view: Bench, termination_id: str) -> str:
    """Where to go after a record: stay when it has a fault, else the next open termination."""
    if view.standing.torques[termination_id].faults:
        return urls.termination(view.job.id, termination_id)
    order = [t.id for t in view.plan.terminations]
    rest = order[order.index(termination_id) + 1 :] + order[: order.index(termination_id)]
    following = next((t for t in rest if not view.standing.torques[t].good), None)
    return urls.termination(view.job.id, following) if following else urls.station(view.job.id, "wire")


@ROUTER.post("/recheck/{termination_id}")
def recheck(job_id: str, termination_id: str, here: Here, ok: Text = "") -> Response:
    """Record the 24 h look at a lug's mark."""
    may(here.person, *CREW)
    view = bench(here.db, here.person, job_id, "wire")
    if here.repeated("recheck", termination_id):
        return here.answer("wire")
    if termination_id not in view.standing.rechecks:
        raise HTTPException(404, "That lug is not on the 24 h list.")
    due, _ = view.standing.rechecks[termination_id]
    if due is None or due > datetime.now(UTC) - here.age:
        return here.answer("wire", "The 24 hours are not over yet.", f"recheck-{termination_id}")
    here.save("recheck", termination_id, {"ok": ok == "yes"})
    return here.answer("wire")


def _find_check(view: Bench, check_id: str) -> Check:
    found = next((c for c in view.plan.all_checks() if c.id == check_id), None)
    if found is None or found.spread_of:
        raise HTTPException(404, "That check is not part of this plan.")
    return found


@ROUTER.post("/measurement/{check_id}")
def measurement(job_id: str, check_id: str, here: Here, value: Text = "", second: Text = "", answer: Text = "") -> Response:
    """Record one measurement or look."""
    may(here.person, *CREW)
    view = bench(here.db, here.person, job_id, "prove")
    check = _find_check(view, check_id)
    if here.repeated("measurement", check_id):
        return here.answer(check.station)
    field = f"check-{check_id}"
    if waits := view.standing.waiting.get(check_id):
        return here.answer(check.station, f"Not yet: this waits for '{waits}'.", field)
    if not check.unit:
        if answer not in ("yes", "no"):
            return here.answer(check.station, "Answer yes or no.", field)
        here.save("measurement", check_id, {"ok": answer == "yes"})
        return here.answer(check.station)
    try:
        found = _both_displays(check, value, second) if check.shows else _one_reading(check, value, view.system)
    except BadUnit as refused:
        return here.answer(check.station, str(refused), field)
    # The band belongs to the conditions: they are kept with the reading, and it is judged by them for ever.
    conditions = {"cell_c": _cell(here, view)} if check.cell is not None else {}
    here.save("measurement", check_id, {**found, "unit": check.unit, **conditions})
    return here.answer(check.station)


def _cell(here: Recording, view: Bench) -> float | None:
    """Cell temperature in °C as the page showed it when the reading was typed, however long the reading lay on a phone since."""
    try:
        return parse(here.typed["cell_c"], "°C") if here.typed.get("cell_c") else view.job.site.cell_today_c
    except BadUnit:
        return view.job.site.cell_today_c


def _one_reading(check: Check, text: str, system: str) -> dict[str, Any]:
    unit = US["°C"][0] if check.unit == "°C" and system == "US" else None
    shown = read_shown(text, check.unit, unit)
    if shown.value is not None and (refusal := check.refuses(shown.value)):
        raise BadUnit(refusal)
    return {"value": shown.value, "over": shown.over, "entered": text.strip()[:64]}


def _both_displays(check: Check, first: str, second: str) -> dict[str, Any]:
    """Two displays are two readings; the difference is worked out here."""
    shown = []
    for text, name in zip((first, second), check.shows, strict=True):
        try:
            shown.append(parse(text, check.unit))
        except BadUnit as refused:
            raise BadUnit(f"{name}: {refused}") from None
        if check.refuses(shown[-1]) or shown[-1] > 100:
            raise BadUnit(f"{name}: {shown[-1]:g} {check.unit} is no state of charge. Write 0 to 100 %.")
    return {"value": round(abs(shown[0] - shown[1]), 6), "shown": shown}


@ROUTER.post("/done/{step_id}")
def done(job_id: str, step_id: str, here: Here) -> Response:
    """Record one step of first power; refused while a hold stands."""
    may(here.person, *CREW)
    view = bench(here.db, here.person, job_id, "power-up")
    if here.repeated("done", step_id):
        return here.answer("power-up")
    if step_id not in view.standing.step_holds:
        raise HTTPException(404, "That step is not part of this plan.")
    holds = view.standing.step_holds[step_id]
    if holds:
        return here.answer("power-up", f"Held by {holds[0]}", f"step-{step_id}")
    here.save("done", step_id, {"ok": True})
    return here.answer("power-up")


@ROUTER.post("/hold/{check_id}")
def clear_hold(job_id: str, check_id: str, here: Here, reason: Text = "") -> Response:
    """A licence holder clears a hold that a measurement set, with a reason that stays on record."""
    may(here.person, "licence holder")
    view = bench(here.db, here.person, job_id, "prove")
    check = next((c for c in view.plan.all_checks() if c.id == check_id), None)
    if check is None:
        raise HTTPException(404, "That check is not part of this plan.")
    if here.repeated("hold-cleared", f"check:{check_id}"):
        return here.answer(check.station)
    if len(reason.strip()) < LEAST_REASON:
        return here.answer(check.station, "Give the reason in at least ten characters.", f"check-{check_id}")
    if view.standing.checks[check_id].record is None:
        return here.answer(check.station, "Measure it first: a hold without a reading is not cleared.", f"check-{check_id}")
    here.save("hold-cleared", f"check:{check_id}", {"reason": reason.strip()[:500]})
    return here.answer(check.station)


@ROUTER.post("/setting/{key}")
def setting(job_id: str, key: str, here: Here, value: Text = "", reason: Text = "") -> Response:
    """Record a setting as it was left in the inverter, with the reason where it differs."""
    may(here.person, *CREW)
    view = bench(here.db, here.person, job_id, "settings")
    if here.repeated("setting", key):
        return here.answer("settings")
    if key not in view.standing.settings:
        raise HTTPException(404, "That setting is not on the sheet.")
    if not value.strip():
        return here.answer("settings", "Type what the inverter shows.", f"setting-{key}")
    if reason.strip() and len(reason.strip()) < LEAST_REASON:
        return here.answer("settings", f"Give the reason in at least {LEAST_REASON} characters.", f"setting-{key}")
    here.save("setting", key, {"as_left": value.strip()[:80], "reason": reason.strip()[:300]})
    return here.answer("settings")


@ROUTER.post("/setting-agreed/{key}")
def setting_agreed(job_id: str, key: str, here: Here, record: Text = "") -> Response:
    """A licence holder agrees to a setting that differs from the sheet for a reason: to that record against that asked value only."""
    may(here.person, "licence holder")
    view = bench(here.db, here.person, job_id, "settings")
    if here.repeated("setting-agreed", key):
        return here.answer("settings")
    left, row = view.standing.settings.get(key), next((r for r in view.plan.settings.sheet if r.key == key), None)
    if left is None or row is None or left.record is None:
        raise HTTPException(404, "That setting is not on the sheet, or nothing is recorded for it.")
    if left.record.id != record:
        return here.answer("settings", "The setting was recorded anew meanwhile: look again.", f"setting-{key}")
    if not left.reason:
        return here.answer("settings", "There is no reason to agree to: it is set as asked, or left with a reason.", f"setting-{key}")
    here.save("setting-agreed", key, {"record": record, "asked": asked_text(row), "as_left": left.record.value.get("as_left", "")})
    return here.answer("settings")


@ROUTER.post("/link/{task}")
def link(job_id: str, task: str, here: Here) -> Response:
    """Record one task of the programming ritual; out of order is refused."""
    may(here.person, *CREW)
    view = bench(here.db, here.person, job_id, "links")
    if here.repeated("link", task):
        return here.answer("links")
    tasks = dict(link_tasks(view.plan))
    if task not in tasks:
        raise HTTPException(404, "That task is not on the list of this house.")
    before = [k for k in list(tasks)[: list(tasks).index(task)] if k not in view.standing.links_done]
    if before:
        return here.answer("links", f"Not yet: first {tasks[before[0]].lower()}.", f"link-{task}")
    here.save("link", task, {"ok": True})
    return here.answer("links")


@ROUTER.post("/ct/{which}")
def ct_test(job_id: str, which: str, here: Here) -> Response:
    """Record what a display showed of its set of CTs before and after known loads were switched on."""
    may(here.person, *CREW)
    view, test = bench(here.db, here.person, job_id, "sensing"), f"ct-{which}"
    if here.repeated("ct", test):
        return here.answer("sensing")
    tested = next((each for each in view.plan.sensing.sets if each.test == test), None)
    if tested is None:
        raise HTTPException(404, "No set of CTs of this house is tested by that name any more.")
    if waits := view.standing.waiting.get(test):
        return here.answer("sensing", f"Not yet: nothing flows through the cores before '{waits}'.", test)
    sensing = view.job.sensing
    shown: dict[str, dict[str, float]] = {"before": {}, "reading": {}}
    for ct in tested.cts:
        for when, readings in shown.items():
            name = f"{when}-{ct.place.channel}{tested.mark}"
            try:
                readings[ct.place.channel] = parse(here.typed.get(name, ""), "W")
            except BadUnit as refused:
                return here.answer("sensing", str(refused), name)
    # On a line that the test does not ask about nothing is switched on.
    loads = dict.fromkeys(("test_l1_w", "test_l2_w", "test_l3_w"), 0.0)
    for leg in (leg.lower() for leg in tested.legs):
        name = f"load-{leg}{tested.mark}"
        try:
            typed = here.typed.get(name, "")
            loads[f"test_{leg}_w"] = parse(typed, "W") if typed.strip() else getattr(sensing, f"test_{leg}_w")
        except BadUnit as refused:
            return here.answer("sensing", str(refused), name)
    value = {"before": shown["before"], "readings": shown["reading"], "power_factor": sensing.test_power_factor, **loads}
    here.save("ct", test, {**value, "unmoved": here.typed.get("unmoved") == "yes"})
    return here.answer("sensing")


@ROUTER.post("/sign-off/job")
def sign_off(job_id: str, here: Here, number: Text = "") -> Response:
    """A licence holder signs; refused while anything is missing."""
    may(here.person, "licence holder")
    view = bench(here.db, here.person, job_id, "hand-over")
    if here.repeated("sign-off", "job"):
        return here.answer("hand-over")
    if view.standing.missing:
        return here.answer("hand-over", f"{len(view.standing.missing)} things are missing; see the list.", "sign-off")
    if len(number.strip()) < 3:
        return here.answer("hand-over", "Give your licence number.", "sign-off")
    here.save("sign-off", "job", {"licence": number.strip()[:40], "revision": view.revision.number})
    return here.answer("hand-over")
