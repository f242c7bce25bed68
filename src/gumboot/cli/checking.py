"""``check``, ``schema`` and ``rules``: no server, no database."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from pydantic import ValidationError

from gumboot.catalogue import shelf
from gumboot.cli.checkout import CHECKOUT
from gumboot.cli.trouble import Trouble
from gumboot.core.card.model import CARD
from gumboot.core.errors import GumbootError
from gumboot.core.job import Job
from gumboot.core.limits import read_json
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.job_file import read_job_file
from gumboot.core.record import RECORD
from gumboot.documents.report import plan_json


def plan_of(path: Path, *, noted: bool = False) -> Plan:
    """The plan of a job's file, by the cards that it carries and the catalogue's; every fault is one line that names the field."""
    try:
        found = read_job_file(read_json(path.read_bytes()))
        return derive(found.job, found.shelf(shelf()), noted=noted)
    except GumbootError as refused:
        raise Trouble(f"{path}: {refused}") from None
    except (OSError, UnicodeDecodeError) as failure:
        raise Trouble(f"{path} cannot be read: {failure}. Remedy: name a *.gumboot.json file.") from None
    except ValidationError as refused:
        rows = "; ".join(f"{'.'.join(map(str, e['loc'])) or 'the file'}: {e['msg']}" for e in refused.errors()[:6])
        raise Trouble(f"{path} is not a job: {rows}. Remedy: mend these fields; ./gumboot schema job describes them.") from None
    except ValueError as refused:
        raise Trouble(f"{path} is not a job: {refused}. Remedy: name a *.gumboot.json file.") from None


def _check(args: argparse.Namespace) -> int:
    plan = plan_of(Path(args.file))
    if args.json:
        print(json.dumps(plan_json(plan), indent=1, ensure_ascii=False))
    else:
        print(f"{plan.job.title}: {len(plan.figures)} figures, {len(plan.terminations)} terminations")
        for finding in plan.findings:
            print(f"  {finding.level:8}{finding.code:22}{finding.station:12}{finding.text} {finding.act}")
        for gap in plan.gaps:
            print(f"  gap     {gap.path:34}{gap.question} Holds up: {gap.holds_up}.")
        print(
            f"{len(plan.stops)} stop{'' if len(plan.stops) == 1 else 's'}. To be checked by a licensed person against the local code and the makers' manuals, which win."
        )
    return 1 if plan.stops else 0


def run(args: argparse.Namespace) -> int:
    """Run one of the three commands."""
    if args.command == "check":
        return _check(args)
    if args.command == "rules":
        from gumboot.documents.mistake_matrix import mistake_matrix, tried_in
        from gumboot.documents.rule_reference import rule_reference

        print(mistake_matrix(tried_in(CHECKOUT / "tests")) if args.mistakes else rule_reference(), end="")
        return 0
    schemas = {"job": Job.model_json_schema(), "card": CARD.json_schema(), "record": RECORD.json_schema()}
    print(json.dumps(schemas[args.which] if args.which else schemas, indent=1))
    return 0
