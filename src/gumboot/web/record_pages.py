"""Recording what was done: torque, measurements, steps, settings as left, holds, sign-off."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, RedirectResponse, Response

from gumboot.core.errors import BadUnit
from gumboot.core.plan.prove import Check
from gumboot.core.standing import LINK_TASKS
from gumboot.store import accounts, records
from gumboot.web import urls
from gumboot.web.quantities import parse
from gumboot.web.rendering import Bench, bench, render, render_bench
from gumboot.web.security import Author, Db, may

ROUTER = APIRouter(prefix="/jobs/{job_id}/records")
Text = Annotated[str, Form()]
CREW = ("installer", "licence holder")


def _save(db: Db, view: Bench, person: accounts.Who, kind: str, subject: str, value: dict[str, Any], record_id: str = "") -> None:
    before = [r for r in view.records if r.kind == kind and r.subject == subject]
    corrects = before[-1].id if before else None
    try:
        records.add_record(
            db,
            view.job.id,
            kind,
            subject,
            value,
            person.display,
            person.role,
            record_id=record_id or None,
            corrects=None if record_id and any(r.id == record_id for r in before) else corrects,
        )
    except records.BadCorrection:
        raise HTTPException(409, "That record belongs to something else. Reload the page; nothing was saved.") from None


def _answer(
    request: Request,
    db: Db,
    person: accounts.Who,
    job_id: str,
    station: str,
    problems: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
) -> Response:
    db.flush()
    view = bench(db, person, job_id, station, problems=problems or {}, typed=typed or {})
    status = 422 if problems else 200
    if request.headers.get("HX-Request") or problems:
        return render_bench(view, fragment=bool(request.headers.get("HX-Request")), status=status)
    return RedirectResponse(urls.station(job_id, station), 303)


@ROUTER.post("/torque/{termination_id}")
def torque(
    request: Request,
    job_id: str,
    termination_id: str,
    db: Db,
    person: Author,
    reached: Text = "",
    unit: Text = "lbf in",
    tool: Text = "",
    tug: Text = "",
    note: Text = "",
    record_id: Text = "",
) -> Response:
    """Record one termination: torque with tool and calibration, and the tug test."""
    may(person, *CREW)
    view = bench(db, person, job_id, "wire")
    term = view.plan.termination(termination_id)
    if term is None:
        raise HTTPException(404, "That termination is not part of this plan any more.")
    wire_json = request.headers.get("accept", "").startswith("application/json")
    item = next((t for t in view.job.tools if t.id == tool), None)
    problem, value_nm = "", None
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
        if wire_json:
            raise HTTPException(422, problem)
        return render(
            "card.html",
            422,
            b=view,
            t=term,
            problem=problem,
            typed={"reached": reached, "unit": unit, "tool": tool, "tug": tug, "note": note},
        )
    value = {
        "value_nm": value_nm,
        "entered": reached.strip(),
        "unit": unit,
        "tool": tool,
        "calibrated_to": item.calibrated_to if item else None,
        "tug": tug == "held",
        "note": note.strip()[:300],
        "size": term.size,
    }
    _save(db, view, person, "torque", term.id, value, record_id)
    db.flush()
    following = _after(bench(db, person, job_id, "wire"), term.id)
    return JSONResponse({"next": following}) if wire_json else RedirectResponse(following, 303)


def _after(view: Bench, termination_id: str) -> str:
    """Where to go after a record: stay when it has a fault, else the next open termination."""
    if view.standing.torques[termination_id].faults:
        return urls.termination(view.job.id, termination_id)
    order = [t.id for t in view.plan.terminations]
    rest = order[order.index(termination_id) + 1 :] + order[: order.index(termination_id)]
    following = next((t for t in rest if not view.standing.torques[t].good), None)
    return urls.termination(view.job.id, following) if following else urls.station(view.job.id, "wire")


@ROUTER.post("/recheck/{termination_id}")
def recheck(request: Request, job_id: str, termination_id: str, db: Db, person: Author, ok: Text = "") -> Response:
    """Record the 24 h look at a lug's mark."""
    may(person, *CREW)
    view = bench(db, person, job_id, "wire")
    if termination_id not in view.standing.rechecks:
        raise HTTPException(404, "That lug is not on the 24 h list.")
    due, _ = view.standing.rechecks[termination_id]
    if due is None or due > datetime.now(UTC):
        return _answer(request, db, person, job_id, "wire", {f"recheck-{termination_id}": "The 24 hours are not over yet."})
    _save(db, view, person, "recheck", termination_id, {"ok": ok == "yes"})
    return _answer(request, db, person, job_id, "wire")


def _find_check(view: Bench, check_id: str) -> Check:
    found = next((c for c in view.plan.all_checks() if c.id == check_id), None)
    if found is None or check_id == "pack-spread":
        raise HTTPException(404, "That check is not part of this plan.")
    return found


@ROUTER.post("/measurement/{check_id}")
def measurement(request: Request, job_id: str, check_id: str, db: Db, person: Author, value: Text = "", answer: Text = "") -> Response:
    """Record one measurement or look."""
    may(person, *CREW)
    check = _find_check(bench(db, person, job_id, "prove"), check_id)
    view = bench(db, person, job_id, check.station)
    if check.unit:
        try:
            number = parse(value, check.unit)
        except BadUnit as refused:
            return _answer(request, db, person, job_id, check.station, {f"check-{check_id}": str(refused)}, {f"check-{check_id}": value})
        _save(db, view, person, "measurement", check_id, {"value": number, "unit": check.unit})
    else:
        if answer not in ("yes", "no"):
            return _answer(request, db, person, job_id, check.station, {f"check-{check_id}": "Answer yes or no."})
        _save(db, view, person, "measurement", check_id, {"ok": answer == "yes"})
    return _answer(request, db, person, job_id, check.station)


@ROUTER.post("/done/{step_id}")
def done(request: Request, job_id: str, step_id: str, db: Db, person: Author) -> Response:
    """Record one step of first power; refused while a hold stands."""
    may(person, *CREW)
    view = bench(db, person, job_id, "power-up")
    if step_id not in view.standing.step_holds:
        raise HTTPException(404, "That step is not part of this plan.")
    holds = view.standing.step_holds[step_id]
    if holds:
        return _answer(request, db, person, job_id, "power-up", {f"step-{step_id}": f"Held by {holds[0]}"})
    _save(db, view, person, "done", step_id, {"ok": True})
    return _answer(request, db, person, job_id, "power-up")


@ROUTER.post("/hold/{check_id}")
def clear_hold(request: Request, job_id: str, check_id: str, db: Db, person: Author, reason: Text = "") -> Response:
    """A licence holder clears a hold that a measurement set, with a reason that stays on record."""
    may(person, "licence holder")
    check = _find_check(bench(db, person, job_id, "prove"), check_id) if check_id != "pack-spread" else None
    station = check.station if check else "prove"
    if len(reason.strip()) < 10:
        return _answer(request, db, person, job_id, station, {f"check-{check_id}": "Give the reason in at least ten characters."})
    view = bench(db, person, job_id, station)
    judged = view.standing.checks[check_id]
    if judged.record is None:
        return _answer(
            request, db, person, job_id, station, {f"check-{check_id}": "Measure it first: a hold without a reading is not cleared."}
        )
    _save(db, view, person, "hold-cleared", f"check:{check_id}", {"reason": reason.strip()[:500]})
    return _answer(request, db, person, job_id, station)


@ROUTER.post("/setting/{key}")
def setting(request: Request, job_id: str, key: str, db: Db, person: Author, value: Text = "") -> Response:
    """Record a setting as it was left in the inverter."""
    may(person, *CREW)
    view = bench(db, person, job_id, "settings")
    if key not in view.standing.settings:
        raise HTTPException(404, "That setting is not on the sheet.")
    if not value.strip():
        return _answer(request, db, person, job_id, "settings", {f"setting-{key}": "Type what the inverter shows."})
    _save(db, view, person, "setting", key, {"as_left": value.strip()[:80]})
    return _answer(request, db, person, job_id, "settings")


@ROUTER.post("/link/{task}")
def link(request: Request, job_id: str, task: str, db: Db, person: Author) -> Response:
    """Record one task of the programming ritual; out of order is refused."""
    may(person, *CREW)
    view = bench(db, person, job_id, "links")
    order = [key for key, _ in LINK_TASKS]
    if task not in order:
        raise HTTPException(404, "That task is not on the list.")
    before = [k for k in order[: order.index(task)] if k not in view.standing.links_done]
    if before:
        return _answer(request, db, person, job_id, "links", {f"link-{task}": f"Not yet: first {dict(LINK_TASKS)[before[0]].lower()}."})
    _save(db, view, person, "link", task, {"ok": True})
    return _answer(request, db, person, job_id, "links")


@ROUTER.post("/ct/test")
async def ct_test(request: Request, job_id: str, db: Db, person: Author) -> Response:
    """Record the display's readings of the meter test."""
    may(person, *CREW)
    form = await request.form()
    view = bench(db, person, job_id, "sensing")
    readings, problems, typed = {}, {}, {}
    for ct in view.plan.sensing.cts:
        name = f"reading-{ct.place.channel}"
        typed[name] = str(form.get(name, ""))
        try:
            readings[ct.place.channel] = parse(typed[name], "W")
        except BadUnit as refused:
            problems[name] = str(refused)
    if problems:
        return _answer(request, db, person, job_id, "sensing", problems, typed)
    _save(
        db,
        view,
        person,
        "ct",
        "ct-test",
        {
            "readings": readings,
            "test_l1_w": view.job.sensing.test_l1_w,
            "test_l2_w": view.job.sensing.test_l2_w,
            "test_l3_w": view.job.sensing.test_l3_w,
        },
    )
    return _answer(request, db, person, job_id, "sensing")


@ROUTER.post("/sign-off/job")
def sign_off(request: Request, job_id: str, db: Db, person: Author, number: Text = "") -> Response:
    """A licence holder signs; refused while anything is missing."""
    may(person, "licence holder")
    view = bench(db, person, job_id, "hand-over")
    if view.standing.missing:
        return _answer(
            request, db, person, job_id, "hand-over", {"sign-off": f"{len(view.standing.missing)} things are missing; see the list."}
        )
    if len(number.strip()) < 3:
        return _answer(request, db, person, job_id, "hand-over", {"sign-off": "Give your licence number."})
    _save(db, view, person, "sign-off", "job", {"licence": number.strip()[:40], "revision": view.revision.number})
    return _answer(request, db, person, job_id, "hand-over")
