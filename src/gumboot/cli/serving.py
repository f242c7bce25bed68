"""``demo`` and ``serve``: database up, schema current, app on loopback, both down again at the end."""

from __future__ import annotations

import argparse
import os
import signal
import ssl
from typing import NamedTuple

import uvicorn
from sqlalchemy import URL
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from gumboot.cli.cluster import OWNER, Cluster, port_free
from gumboot.cli.trouble import Trouble
from gumboot.store.accounts import end_sessions, users, verified
from gumboot.store.cards import sync_catalogue
from gumboot.store.demo import DEMO_PASSWORD, DEMO_USERS, drop_demo, load_demo
from gumboot.store.engine import as_url, migrate, open_engine
from gumboot.store.rights import excess

LOOPBACK = ("127.0.0.1", "localhost", "::1")
FIRST_ACCOUNT = "./gumboot user add NAME --role 'licence holder' --display 'Full Name'"


class Listening(NamedTuple):
    """Where the app listens, and with which certificate."""

    host: str = "127.0.0.1"
    cert: str | None = None
    key: str | None = None

    @property
    def scheme(self) -> str:
        """How its address begins."""
        return "https" if self.cert else "http"


def listening(host: str, cert: str | None, key: str | None) -> Listening:
    """Where to listen. Raises Trouble for an address without a certificate on a network, and for a certificate that cannot be used.

    Without one everybody on that network could read passwords, and phones neither keep pages nor open their camera.
    """
    if bool(cert) != bool(key):
        raise Trouble("--cert and --key belong together. Remedy: give both, see docs/phones.md.")
    if host not in LOOPBACK and not cert:
        raise Trouble(
            f"Listening on {host} needs a certificate: without one passwords go over the network in the clear, and phones keep no house. "
            "Remedy: give --cert and --key, or leave --host out and put a proxy before it; docs/phones.md says how."
        )
    if cert and key:
        try:
            ssl.create_default_context(ssl.Purpose.CLIENT_AUTH).load_cert_chain(cert, key)
        except (OSError, ssl.SSLError) as failure:
            raise Trouble(f"The certificate {cert} with the key {key} cannot be used: {failure}. Remedy: see docs/phones.md.") from None
    return Listening(host, cert, key)


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


def own_server(address: str) -> tuple[URL, URL]:
    """Addresses of owner and application on a server of one's own; one role for both where no owner is named."""
    return as_url(os.environ.get("DATABASE_OWNER_URL") or address), as_url(address)


def _answer(question: str) -> str:
    try:
        return input(question).strip()
    except EOFError:
        return ""


def _prepare(owner: URL, app: URL, args: argparse.Namespace) -> None:
    try:
        migrate(owner, app.username or "")
        engine = open_engine(app)
        _hold_to_word(excess(engine), args.single_role)
    except SQLAlchemyError as failure:
        raise Trouble(
            f"The database at {owner.host}:{owner.port} cannot be used: {str(failure.__cause__ or failure).splitlines()[0]}. Remedy: check DATABASE_URL, DATABASE_OWNER_URL and their rights."
        ) from None
    with Session(engine) as db:
        sync_catalogue(db)
        if args.command == "serve":
            _say_who_may(db)
        db.commit()
    engine.dispose()
    if args.command != "demo":
        return
    engine = open_engine(owner)
    if args.fresh:
        sure = args.yes or _answer("Reset the demo houses and their records? Type yes: ") == "yes"
        if sure:
            drop_demo(engine)
        else:
            print("Nothing was reset.")
    with Session(engine) as db:
        load_demo(db)
    engine.dispose()


def _hold_to_word(too_much: tuple[str, ...], single_role: bool) -> None:
    """Refuse to serve as a role that could change what is kept, unless that is said on purpose."""
    if too_much and not single_role:
        raise Trouble(
            f"The role that serves could change records that are to last: {'; '.join(too_much[:3])}. "
            "Remedy: let DATABASE_OWNER_URL name the role that owns the tables and DATABASE_URL another one, or say --single-role to go on without that guard."
        )
    if too_much:
        print("Served with a single role: the database itself does not keep records from being changed.", flush=True)


def _say_who_may(db: Session) -> None:
    """Without an account nobody can sign in; with the demo's published password nobody may."""
    known = users(db)
    if not any(not user.disabled for user in known):
        print(f"There is no account yet. In another window: {FIRST_ACCOUNT}", flush=True)
    published = [u.name for u in known if u.name in {name for name, _, _ in DEMO_USERS} and verified(u.password_hash, DEMO_PASSWORD)]
    for name in published:
        end_sessions(db, name)
    if published:
        print(
            f"{', '.join(published)} still have the demo's published password and cannot sign in here: ./gumboot user password NAME gives a new one.",
            flush=True,
        )


def _end(*_: object) -> None:
    raise SystemExit(0)


def run(args: argparse.Namespace) -> int:
    """Start everything and stay until Ctrl-C."""
    # The server hands a TERM on after its own shutdown; without this the database would be left running.
    signal.signal(signal.SIGTERM, _end)
    at = listening(args.host, args.cert, args.key) if args.command == "serve" else Listening()
    port = wanted_port()
    address = os.environ.get("DATABASE_URL")
    cluster = None if address else Cluster()
    try:
        if cluster:
            cluster.start()
        owner, app = (cluster.url(OWNER), cluster.url()) if cluster else own_server(address or "")
        _prepare(owner, app, args)
        from gumboot.web.app import create_app

        print(f"Gumboot is at {at.scheme}://{at.host}:{port}  (Ctrl-C ends it)", flush=True)
        if args.command == "demo":
            print("Sign in as " + ", ".join(f"{name} ({role})" for name, _, role in DEMO_USERS) + f"; password {DEMO_PASSWORD}", flush=True)
        uvicorn.run(
            create_app(app, demo=args.command == "demo"),
            host=at.host,
            port=port,
            log_config=None,
            access_log=False,
            server_header=False,
            timeout_graceful_shutdown=5,
            limit_concurrency=500,
            ssl_certfile=at.cert,
            ssl_keyfile=at.key,
        )
    finally:
        if cluster:
            cluster.stop()
    return 0
