"""``steps``: the table of the derivation as text and as a drawing, bare or for one job file."""

from __future__ import annotations

import argparse
from pathlib import Path

from gumboot.catalogue import shelf
from gumboot.cli.checking import read_job
from gumboot.cli.trouble import Trouble
from gumboot.core.errors import GumbootError
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.steps import STEPS
from gumboot.drawing.steps import canvas, left_behind


def _plan(file: str | None) -> Plan | None:
    if file is None:
        return None
    try:
        return derive(read_job(Path(file)), shelf(), noted=True)
    except GumbootError as refused:
        raise Trouble(str(refused)) from None


def run(args: argparse.Namespace) -> int:
    """Print the steps; with ``--svg`` write the drawing as well."""
    plan = _plan(args.file)
    if args.svg:
        try:
            Path(args.svg).write_text(canvas(plan).file(), encoding="utf-8")
        except OSError as failure:
            raise Trouble(f"{args.svg} cannot be written: {failure.strerror}. Remedy: name a file in a folder you own.") from None
    for step in STEPS:
        print(f"{step.name:14}{step.title}")
        print(f"{'':14}needs {', '.join(step.needs) or 'the job and its cards only'}")
        if plan is not None:
            print(f"{'':14}{left_behind(plan, step)}")
    return 0
