"""Commands of ``./gumboot``."""

from __future__ import annotations

import argparse
import errno
import os
import sys
from collections.abc import Sequence

from gumboot.cli.trouble import Trouble

ROLES = ("planner", "installer", "licence holder", "apprentice")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="./gumboot", description="Plans, checks and records a residential storage installation.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    demo = commands.add_parser("demo", help="install what is missing, start database and app with the demo houses")
    demo.add_argument("--fresh", action="store_true", help="reset the demo houses, after asking")
    demo.add_argument("--yes", action="store_true", help="answer yes to --fresh")
    serve = commands.add_parser("serve", help="start database and app")
    serve.add_argument("--host", default="127.0.0.1", help="address to listen on; another than loopback needs --cert and --key")
    serve.add_argument("--cert", metavar="FILE", help="certificate (PEM), so that phones get a secure address; see docs/phones.md")
    serve.add_argument("--key", metavar="FILE", help="its private key (PEM)")
    for one in (demo, serve):
        one.add_argument(
            "--single-role",
            action="store_true",
            help="serve with a database role that could change records (own server without DATABASE_OWNER_URL)",
        )
    user = commands.add_parser("user", help="accounts: add, password, role, disable, list")
    user.add_argument("act", choices=("add", "password", "role", "disable", "list"))
    user.add_argument("name", nargs="?", help="the account's name, as typed at sign-in")
    user.add_argument("--role", choices=ROLES)
    user.add_argument("--display", help="the person's name, as records show it")
    test = commands.add_parser("test", help="install what is missing, run every check")
    test.add_argument("--quick", action="store_true", help="lint, types, contracts and the core only")
    check = commands.add_parser("check", help="derive one job file without server or database; exit 1 on stops")
    check.add_argument("file")
    check.add_argument("--json", action="store_true")
    steps = commands.add_parser("steps", help="print the steps of the derivation and what each needs; with a job file, what each left")
    steps.add_argument("file", nargs="?", help="a *.gumboot.json file")
    steps.add_argument("--svg", metavar="OUT", help="write the drawing to this file as well")
    acts = commands.add_parser("acts", help="print what is done on site for a job file, in order, with the gates")
    acts.add_argument("file", help="a *.gumboot.json file")
    acts.add_argument("--why", metavar="ACT", help="one act in full, with everything that comes before it")
    acts.add_argument("--svg", metavar="OUT", help="write the drawing of the gates to this file as well")
    check_records = commands.add_parser("check-records", help="verify the chain of the records of one job, or of all; exit 1 on a break")
    check_records.add_argument("job", nargs="?", help="id of a job")
    take = commands.add_parser("take-records", help="take a file of records or a tester's table into a job; exit 1 where a line is refused")
    take.add_argument("job", help="id of a job")
    take.add_argument("file", help="a .jsonl file of records, or a .csv table")
    take.add_argument("--by", required=True, metavar="NAME", help="the account under whose name they are recorded")
    take.add_argument("--zone", default="", metavar="ZONE", help="time zone of times without an offset, such as Europe/Berlin")
    bench = commands.add_parser("bench", help="measure plan time, page and edit round trips, start-up time")
    bench.add_argument("--json", action="store_true")
    schema = commands.add_parser("schema", help="print the JSON Schemas of job, card and record")
    schema.add_argument("which", nargs="?", choices=("job", "card", "record"))
    rules = commands.add_parser("rules", help="print the rule reference")
    rules.add_argument("--mistakes", action="store_true", help="print which rules, acts and tests catch each mistake instead")
    quick = commands.add_parser("sum", help="work out one question without a job: sum NAME key=value ...; without NAME lists them")
    quick.add_argument("name", nargs="?", help="name of the sum")
    quick.add_argument("given", nargs="*", help="key=value, with units as written: current=45 A, size=4/0 AWG", metavar="key=value")
    quick.add_argument("--json", action="store_true")
    db = commands.add_parser("db", help="look after the private database")
    db.add_argument("act", choices=("start", "stop", "status", "shell", "backup", "restore"))
    db.add_argument("file", nargs="?", help="dump file for backup and restore")
    return parser


def run(argv: Sequence[str] | None = None) -> int:
    """Parse and run one command; returns the exit status."""
    args = _parser().parse_args(argv)
    if args.command == "sum":
        from gumboot.cli import summing

        return summing.run(args)
    if args.command in ("check", "schema", "rules"):
        from gumboot.cli import checking

        return checking.run(args)
    if args.command == "steps":
        from gumboot.cli import stepping

        return stepping.run(args)
    if args.command == "acts":
        from gumboot.cli import acting

        return acting.run(args)
    if args.command == "check-records":
        from gumboot.cli import chained

        return chained.run(args)
    if args.command == "take-records":
        from gumboot.cli import taking

        return taking.run(args)
    if args.command == "bench":
        from gumboot.cli import bench

        return bench.run(args)
    if args.command == "db":
        from gumboot.cli import database

        return database.run(args)
    if args.command == "user":
        from gumboot.cli import people

        return people.run(args)
    if args.command == "test":
        from gumboot.cli import testing

        return testing.run(args.quick)
    from gumboot.cli import serving

    return serving.run(args)


def main() -> int:
    """Run, turning what a person can mend into one line."""
    try:
        return run()
    except Trouble as trouble:
        print(f"gumboot: {trouble}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except KeyboardInterrupt:
        return 130
    except OSError as failure:
        if failure.errno in (errno.ENOSPC, errno.EACCES, errno.EPERM, errno.EROFS, errno.EDQUOT):
            print(
                f"gumboot: {failure.strerror} at {failure.filename}. Remedy: free some space or set GUMBOOT_DATA to a folder you own.",
                file=sys.stderr,
            )
            return 2
        raise
