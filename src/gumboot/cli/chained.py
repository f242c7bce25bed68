"""``check-records``: whether the records of a job, or of all, are those that were received."""

from __future__ import annotations

import argparse

from gumboot.cli.people import owner_session
from gumboot.cli.trouble import Trouble
from gumboot.store import jobs, records


def run(args: argparse.Namespace) -> int:
    """Print the head of each chain, or what is wrong with it; 1 where anything is."""
    broken = False
    with owner_session() as db:
        known = jobs.ids(db)
        if args.job and args.job not in known:
            raise Trouble(f"There is no job {args.job}. Remedy: ./gumboot check-records without a name looks at all of them.")
        for job_id in [args.job] if args.job else known:
            faults = records.chain_faults(db, job_id)
            broken = broken or bool(faults)
            count = len(records.read_records(db, job_id))
            print(f"{job_id}: {count} record{'' if count == 1 else 's'}, head {records.head(db, job_id)[:16] if count else 'none'}")
            for fault in faults:
                print(f"  {fault}")
    return 1 if broken else 0
