"""``./gumboot bench``: plan time by house and kind, a plan after an edit, its growth, quick sums, page and edit round trips on loopback, start-up time."""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import gc
import json
import os
import socket
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial

import httpx

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.cli.checkout import CHECKOUT
from gumboot.cli.cluster import APP, OWNER, Cluster
from gumboot.cli.trouble import Trouble
from gumboot.core.card import Shelf, parse_card
from gumboot.core.errors import GumbootError
from gumboot.core.job import Job, leaves, write_path
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.study.layout_ranks import find
from gumboot.core.study.layouts import Finder, finder_of
from gumboot.core.study.pick import best_pick
from gumboot.core.study.year import place_of, run_quarter_hours, study_year
from gumboot.core.sums import SUMS, ask_sum
from gumboot.store.engine import migrate
from gumboot.web.asking import read_question

PLAN_ROUNDS, PAGE_ROUNDS = 200, 40


def spread(samples_s: list[float]) -> dict[str, float]:
    """Median and 95th percentile in ms."""
    ordered = sorted(samples_s)
    return {"p50_ms": round(1000 * statistics.median(ordered), 2), "p95_ms": round(1000 * ordered[int(0.95 * (len(ordered) - 1))], 2)}


def timed(act: Callable[[], object], rounds: int) -> list[float]:
    """Seconds of each round."""
    samples = []
    for _ in range(rounds):
        began = time.perf_counter()
        act()
        samples.append(time.perf_counter() - began)
    return samples


def plan_times() -> dict[str, dict[str, float]]:
    """Derivation of every demo house."""
    # As the app does at its start.
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
    out = {}
    for path in demo_houses():
        name = path.name.removesuffix(".gumboot.json")
        job = demo_house(name)
        derive(job, shelf())
        out[f"plan {name}"] = spread(timed(partial(derive, job, shelf()), PLAN_ROUNDS))
    return out


def edits_of(job: Job) -> Iterator[Job]:
    """The job with each of its fields changed once, where the model takes another value and a plan follows from it."""
    document = job.model_dump(mode="json")
    for path, value in leaves(document):
        for other in _others(value):
            try:
                edited = Job.model_validate(write_path(document, path, other))
                derive(edited, shelf())
            except (ValueError, GumbootError):
                continue
            yield edited
            break


def _others(value: object) -> tuple[object, ...]:
    if isinstance(value, bool):
        return (not value,)
    if isinstance(value, int | float):
        return value + 1, value * 1.5, value - 1
    return (1, 5.0, "x", "L2") if value is None else (f"{value}x", "fixed")


def replan_times() -> dict[str, dict[str, float]]:
    """An edit of each field of Saltmarsh Cottage planned on the plan before it; the ratio is of the medians."""
    plan = derive(demo_house("d1-saltmarsh"), shelf(), noted=True)
    edits = list(edits_of(plan.job))
    again = [statistics.median(timed(partial(derive, job, shelf(), plan), 5)) for job in edits]
    whole = statistics.median(timed(partial(derive, plan.job, shelf()), PLAN_ROUNDS))
    return {f"plan again, {len(edits)} fields (x {statistics.median(again) / whole:.2f})": spread(again)}


def grown(factor: int) -> tuple[Job, Shelf]:
    """Saltmarsh Cottage with ``factor`` times its circuits: loads, and battery leads on a busbar box drawn out to hold them."""
    document, cards = demo_house("d1-saltmarsh").model_dump(mode="json"), dict(shelf())
    count = 2 * factor
    document["loads"] = [{**load, "id": f"{load['id']}-{k}", "side": "house"} for k in range(factor) for load in document["loads"]]
    document["banks"][0]["units"] = [
        {"id": f"bat-{k + 1}", "dip_address": k + 1, "terminator": k + 1 == count, "protocol": 3} for k in range(count)
    ]
    lead = next(r for r in document["runs"] if r["id"] == "bat-1")
    document["runs"] = [r for r in document["runs"] if not r["id"].startswith("bat-") or r["id"] == "bat-main"]
    document["runs"] += [{**lead, "id": f"bat-{k + 1}"} for k in range(count)]
    box = cards["trough-300"].model_dump(mode="json")
    for port in box["ports"]:
        if port["id"] in ("BATTERIES", "EARTH"):
            pattern = [t for t in port["terminals"] if t["id"].startswith("bat-1")]
            rest = [t for t in port["terminals"] if not t["id"].startswith("bat-")]
            port["terminals"] = rest + [{**t, "id": t["id"].replace("bat-1", f"bat-{k + 1}")} for k in range(count) for t in pattern]
    return Job.model_validate(document), {**cards, "trough-300": parse_card(box)}


def growth_times() -> dict[str, dict[str, float]]:
    """Derivation with 1, 4 and 16 times the circuits: near linear when the time for each stays."""
    out = {}
    for factor in (1, 4, 16):
        job, cards = grown(factor)
        plan = derive(job, cards)
        out[f"plan, circuits x {factor:2} ({len(plan.circuits.all) + len(job.loads)})"] = spread(
            timed(partial(derive, job, cards), PLAN_ROUNDS // factor + 10)
        )
    return out


def sum_times() -> dict[str, dict[str, float]]:
    """Quick sums: each typed question read, worked out and answered, in one process."""
    questions = (
        ("conductor", {"current": "45 A", "ambient": "104 F", "device": "60"}),
        (
            "voltage-drop",
            {"book": "bs-7671", "current": "20 A", "length": "30 ft", "size": "4 mm2", "voltage": "230", "circuit": "single-phase"},
        ),
        ("conduit-fill", {"kind": "EMT", "raceway": "3/4", "wires": "3 x 6 AWG; 8 AWG"}),
        ("bank-sharing", {"current": "150", "leads": "1; 1; 4", "cell": "20", "rating": "75"}),
        ("torque", {"torque": "35 lbf in"}),
    )

    def ask() -> None:
        for name, question in questions:
            ask_sum(name, read_question(SUMS[name], question))

    ask()
    samples = timed(ask, PLAN_ROUNDS)
    per_second = len(questions) / statistics.median(samples)
    return {f"one quick sum ({per_second:.0f} a second)": spread([s / len(questions) for s in samples])}


def study_times() -> dict[str, dict[str, float]]:
    """The year at 15 minutes, the autonomy field with what one more buys, the layout finder on 60 modules and 3 trackers, the exact pick."""
    plan = derive(demo_house("d1-saltmarsh"), shelf())
    place, _ = place_of(plan.job)
    if place is None:
        raise Trouble("The demo house has no place. Remedy: restore src/gumboot/catalogue/houses.")
    finder = sixty_on_three(plan)
    acts: dict[str, Callable[[], object]] = {
        "year at 15 min, 35 040 steps": partial(run_quarter_hours, plan, place),
        "autonomy field, reserve, one more": partial(study_year, plan),
        f"layouts, 60 modules x 3 ({find(finder).tried} tried)": partial(find, finder),
        "best pick of 12 circuits": partial(best_pick, plan),
    }
    out = {}
    for name, act in acts.items():
        act()
        out[name] = spread(timed(act, 20))
    return out


def sixty_on_three(plan: Plan) -> Finder:
    """A finder with sixty places on two faces and three alike trackers that take two strings each."""
    found = finder_of(plan)
    if isinstance(found, str):
        raise Trouble(f"The layout finder waits until {found}. Remedy: restore src/gumboot/catalogue/houses.")
    wide = {"i_max_a": 30.0, "isc_max_a": 40.0, "terminal_max_a": 40.0}
    trackers = tuple(found.trackers[0].model_copy(update={**wide, "id": f"T{k + 1}"}) for k in range(3))
    return replace(found.with_inputs(trackers, 30_000.0), holds={"south": 36, "west": 24}, fuse_a=25.0, roof_boxes={})


# One edit of each station of the Plan leg: field, unit, and how its value goes on.
EDITS = (
    ("survey", "site.grid_fault_a", "A", 5000.0, 1.0),
    ("loads", "loads.kettle.running_w", "W", 1000.0, 1.0),
    ("strings", "site.record_low_c", "°C", -10.0, -0.01),
    ("bank", "settings.reserve_pct", "%", 20.0, 0.1),
    ("circuits", "runs.bat-main.length_m", "m", 10.0, 0.1),
    ("wall", "walls.wall.placements.inverter.y_mm", "mm", 1000.0, 1.0),
)


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextlib.contextmanager
def _app(port: int, owner: str, database: str) -> Iterator[float]:
    addresses = {"GUMBOOT_PORT": str(port), "DATABASE_OWNER_URL": owner, "DATABASE_URL": database}
    environment = {**os.environ, "PYTHONPATH": str(CHECKOUT / "src"), **addresses}
    began = time.perf_counter()
    app = subprocess.Popen(
        [sys.executable, "-m", "gumboot.cli", "demo"], env=environment, cwd=CHECKOUT, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    try:
        while True:
            if app.poll() is not None or time.perf_counter() - began > 60:
                raise Trouble("The app did not start for the measurement. Remedy: run ./gumboot demo and read what it says.")
            with contextlib.suppress(httpx.TransportError):
                if httpx.get(f"http://127.0.0.1:{port}/healthz").status_code == 200:
                    break
            time.sleep(0.02)
        yield time.perf_counter() - began
    finally:
        app.terminate()
        app.wait(20)


BURST = 150


async def _burst(address: str, cookies: dict[str, str]) -> tuple[list[float], list[float]]:
    """Times in ms of what was answered and of what was refused, when one person asks many times at once."""

    async def one(client: httpx.AsyncClient) -> tuple[int, float]:
        began = time.perf_counter()
        status = (await client.get("/api/jobs/d1-saltmarsh/revision")).status_code
        return status, 1000 * (time.perf_counter() - began)

    limits = httpx.Limits(max_connections=BURST)
    async with httpx.AsyncClient(base_url=address, cookies=cookies, limits=limits, timeout=60) as client:
        rows = await asyncio.gather(*(one(client) for _ in range(BURST)))
    return [ms for status, ms in rows if status == 200], [ms for status, ms in rows if status == 503]


def overload_times(address: str, cookies: dict[str, str]) -> dict[str, dict[str, float]]:
    """How fast a burst of cheap requests is answered, and how fast what is too much is refused."""
    answered, refused = asyncio.run(_burst(address, cookies))
    rows = {f"burst of {BURST}, {len(answered)} answered": answered, f"burst of {BURST}, {len(refused)} refused (503)": refused}
    return {name: spread([v / 1000 for v in values]) for name, values in rows.items() if values}


def _scratch_database(cluster: Cluster) -> tuple[str, str]:
    from sqlalchemy import create_engine, text

    engine = create_engine(cluster.url(OWNER).set(database="postgres"), isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.execute(text("drop database if exists gumboot_bench with (force)"))
        connection.execute(text("create database gumboot_bench"))
    engine.dispose()
    url = cluster.url(OWNER).set(database="gumboot_bench")
    migrate(url, APP)
    application = cluster.url().set(database="gumboot_bench")
    return url.render_as_string(hide_password=False), application.render_as_string(hide_password=False)


def page_times() -> dict[str, dict[str, float]]:
    """Start-up, pages and edits against a real server on loopback and a scratch database."""
    cluster = Cluster()
    was_up = cluster.running()
    cluster.start()
    port = _free_port()
    out: dict[str, dict[str, float]] = {}
    try:
        with (
            _app(port, *_scratch_database(cluster)) as start_s,
            httpx.Client(base_url=f"http://127.0.0.1:{port}", follow_redirects=True) as client,
        ):
            out["start-up, database running"] = {"p50_ms": round(1000 * start_s, 1), "p95_ms": round(1000 * start_s, 1)}
            client.post("/sign-in", data={"name": "ivo", "password": "low-tide-42"})
            # The solar and solver libraries load beside the first requests; what follows is measured when they are there.
            client.get("/jobs/d1-saltmarsh/part/year").raise_for_status()
            client.get("/jobs/d1-saltmarsh/part/picks").raise_for_status()
            for station in ("survey", "loads", "strings", "bank", "circuits", "wire", "part/year", "part/picks", "part/layouts"):
                out[f"page {station}"] = spread(timed(partial(client.get, f"/jobs/d1-saltmarsh/{station}"), PAGE_ROUNDS))
            out |= overload_times(f"http://127.0.0.1:{port}", dict(client.cookies))
            page = client.get("/jobs/d1-saltmarsh/circuits").text
            csrf = page.split('name="csrf" value="')[1].split('"')[0]
            for station, path, unit, first, step in EDITS:
                values = (f"{first + step * k:g} {unit}" for k in range(1000))

                page = client.get(f"/jobs/d1-saltmarsh/{station}").text

                def edit(station: str = station, path: str = path, unit: str = unit, values: Iterator[str] = values) -> None:
                    # As the page does: one request, against the revision that the page was drawn from.
                    nonlocal page
                    answer = client.post(
                        "/jobs/d1-saltmarsh/edit",
                        headers={"HX-Request": "true"},
                        data={
                            "csrf": csrf,
                            "path": path,
                            "base": page.split('name="base" value="')[1].split('"')[0],
                            "value": next(values),
                            "kind": "number",
                            "unit": unit,
                            "station": station,
                        },
                    )
                    answer.raise_for_status()
                    page = answer.text

                edit()
                out[f"edit {station}, key press to new picture"] = spread(timed(edit, PAGE_ROUNDS))
    finally:
        if not was_up:
            cluster.stop()
    return out


def run(args: argparse.Namespace) -> int:
    """Measure and print a table, or JSON."""
    results = {**plan_times(), **replan_times(), **growth_times(), **sum_times(), **study_times(), **page_times()}
    if args.json:
        print(json.dumps(results, indent=1))
        return 0
    print(f"{'what':46}{'p50 ms':>10}{'p95 ms':>10}")
    for name, row in results.items():
        print(f"{name:46}{row['p50_ms']:>10.2f}{row['p95_ms']:>10.2f}")
    return 0
