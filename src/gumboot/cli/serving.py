"""``demo`` and ``serve``: database up, schema current, app on loopback, both down again at the end."""

from __future__ import annotations

import argparse
import os
import signal

import uvicorn
from sqlalchemy import URL
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from gumboot.cli.cluster import OWNER, Cluster, port_free
from gumboot.cli.trouble import Trouble
from gumboot.store.cards import sync_catalogue
from gumboot.store.demo import DEMO_PASSWORD, DEMO_USERS, drop_demo, load_demo
from gumboot.store.engine import as_url, migrate, open_engine


def wanted_port() -> int:
    """Port of the app. Raises Trouble when it is no port or is taken."""
    text = os.environ.get("GUMBOOT_PORT", "8600")
    if not text.isdigit() or not 1 <= int(text) <= 65535:
        raise Trouble(f"GUMBOOT_PORT is '{text}', which is no port. Remedy: set a number from 1024 to 65535.")
    if not port_free(int(text)):
        raise Trouble(
            f"Port {text} on 127.0.0.1 is taken, perhaps by another Gumboot. Remedy: stop it, or set GUMBOOT_PORT to a free port."
        )
    return int(text)


def _answer(question: str) -> str:
    try:
        return input(question).strip()
    except EOFError:
        return ""


def _prepare(owner: URL, app: URL, args: argparse.Namespace) -> None:
    try:
        migrate(owner)
    except SQLAlchemyError as failure:
        raise Trouble(
            f"The database at {owner.host}:{owner.port} cannot be used: {str(failure.__cause__ or failure).splitlines()[0]}. Remedy: check DATABASE_URL and its rights."
        ) from None
    engine = open_engine(app)
    with Session(engine) as db:
        sync_catalogue(db)
        db.commit()
    engine.dispose()
    if args.command != "demo":
        return
    if args.fresh:
        sure = args.yes or _answer("Reset the demo houses and their records? Type yes: ") == "yes"
        if sure:
            engine = open_engine(owner)
            drop_demo(engine)
            engine.dispose()
        else:
            print("Nothing was reset.")
    engine = open_engine(app)
    with Session(engine) as db:
        load_demo(db)
    engine.dispose()


def _end(*_: object) -> None:
    raise SystemExit(0)


def run(args: argparse.Namespace) -> int:
    """Start everything and stay until Ctrl-C."""
    # The server hands a TERM on after its own shutdown; without this the database would be left running.
    signal.signal(signal.SIGTERM, _end)
    port = wanted_port()
    address = os.environ.get("DATABASE_URL")
    cluster = None if address else Cluster()
    try:
        if cluster:
            cluster.start()
        owner, app = (cluster.url(OWNER), cluster.url()) if cluster else (as_url(address or ""), as_url(address or ""))
        _prepare(owner, app, args)
        from gumboot.web.app import create_app

        print(f"Gumboot is at http://127.0.0.1:{port}  (Ctrl-C ends it)", flush=True)
        if args.command == "demo":
            print("Sign in as " + ", ".join(f"{name} ({role})" for name, _, role in DEMO_USERS) + f"; password {DEMO_PASSWORD}", flush=True)
        uvicorn.run(
            create_app(app),
            host="127.0.0.1",
            port=port,
            log_config=None,
            access_log=False,
            server_header=False,
            timeout_graceful_shutdown=5,
        )
    finally:
        if cluster:
            cluster.stop()
    return 0
