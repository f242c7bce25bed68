"""``./gumboot user``: accounts are added, given a password or a role, and switched off by who looks after the server."""

from __future__ import annotations

import argparse
import getpass
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from gumboot.cli.cluster import APP, OWNER, Cluster
from gumboot.cli.serving import own_server
from gumboot.cli.trouble import Trouble
from gumboot.store import accounts
from gumboot.store.demo import DEMO_PASSWORD
from gumboot.store.engine import migrate, open_engine


@contextmanager
def owner_session() -> Iterator[Session]:
    """A session of the owner; the private cluster is started for it, and stopped again where it was down."""
    address = os.environ.get("DATABASE_URL") or os.environ.get("DATABASE_OWNER_URL")
    cluster = None if address else Cluster()
    stop = bool(cluster) and not cluster.running() if cluster else False
    try:
        if cluster:
            cluster.start()
            url, application = cluster.url(OWNER), APP
        else:
            url, app = own_server(address or "")
            application = app.username or ""
        try:
            migrate(url, application)
            engine = open_engine(url)
            try:
                with Session(engine) as db:
                    yield db
                    db.commit()
            finally:
                engine.dispose()
        except SQLAlchemyError as failure:
            said = str(failure.__cause__ or failure).splitlines()[0]
            raise Trouble(
                f"The database cannot be used: {said}. Remedy: check DATABASE_URL, DATABASE_OWNER_URL and their rights."
            ) from None
    finally:
        if cluster and stop:
            cluster.stop()


def _new_password() -> str:
    """Typed twice at a terminal, or the first line of what is piped in: never on the command line, where others see it."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\r\n")
    first = getpass.getpass("New password: ")
    if getpass.getpass("Once more: ") != first:
        raise Trouble("The two are not alike. Remedy: run it again.")
    return first


def _needed(value: str | None, what: str) -> str:
    if not value:
        raise Trouble(f"{what} is missing. Remedy: ./gumboot user --help shows what each act needs.")
    return value


def _list(db: Session) -> None:
    rows = accounts.users(db)
    for user in rows:
        print(f"{user.name:20}{user.role:18}{'off' if user.disabled else 'on':6}{user.display}")
    if not rows:
        print("There is no account yet.")


def _act(db: Session, args: argparse.Namespace) -> None:
    name = _needed(args.name, "The account's name").strip().lower()
    if args.act == "add":
        role, display = _needed(args.role, "--role"), args.display or name
        password = _new_password()
        if password == DEMO_PASSWORD:
            raise Trouble("That is the demo's published password. Remedy: choose another.")
        if not accounts.add_user(db, name, display, role, password):
            raise Trouble(f"There is an account '{name}' already. Remedy: ./gumboot user password {name}, or take another name.")
        print(f"{name} may sign in as {role}.")
    elif args.act == "password":
        accounts.set_password(db, name, _new_password(), DEMO_PASSWORD)
        print(f"{name} has a new password; whoever was signed in as {name} is signed out.")
    elif args.act == "role":
        accounts.set_role(db, name, _needed(args.role, "--role"))
        print(f"{name} is now {args.role}.")
    else:
        accounts.disable(db, name)
        print(f"{name} is off and signed out; records keep the name. A new password switches it on again.")


def run(args: argparse.Namespace) -> int:
    """Do one act. Raises Trouble with the remedy."""
    with owner_session() as db:
        try:
            if args.act == "list":
                _list(db)
            else:
                _act(db, args)
        except accounts.BadAccount as refused:
            raise Trouble(f"{refused}") from None
    return 0
