"""The private PostgreSQL cluster: own data directory, own port on loopback, generated passwords, never as root."""

from __future__ import annotations

import getpass
import hashlib
import json
import os
import secrets
import shutil
import socket
import subprocess
import time
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import URL

from gumboot.cli.checkout import CHECKOUT
from gumboot.cli.trouble import Trouble

OWNER, APP, DATABASE = "gumboot_owner", "gumboot_app", "gumboot"
LEAST_FREE_BYTES = 300 * 1024 * 1024
# Ports tried for the database, from the first on.
FIRST_PORT = int(os.environ.get("GUMBOOT_DATABASE_PORT", "54610"))
LAST_PORT = FIRST_PORT + 19


def postgres_programs() -> Path:
    """Folder of the newest installed server programs. Raises Trouble."""
    found = [p for p in Path("/usr/lib/postgresql").glob("*/bin") if (p / "initdb").exists()]
    if not found:
        raise Trouble("PostgreSQL is not installed. Remedy: run ./gumboot demo, which installs it, or apt-get install postgresql.")
    return max(found, key=lambda p: float(p.parent.name))


# A database that may be lost when the machine stops: nothing waits for the disk. For tests only.
HASTY = " -c fsync=off -c full_page_writes=off"


def hasty() -> bool:
    """Whether this is a database of tests, which nobody misses after a power cut."""
    return os.environ.get("GUMBOOT_TEST_DATABASE") == "hasty"


def port_free(port: int) -> bool:
    """Whether nothing listens on a loopback port."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def _as_server_user() -> list[str]:
    if os.geteuid() != 0:
        return []
    return ["setpriv", "--reuid=postgres", "--regid=postgres", "--init-groups", "--reset-env", "--"]


def _reachable(folder: Path) -> bool:
    return subprocess.run([*_as_server_user(), "test", "-x", str(folder)], cwd="/", capture_output=True, check=False).returncode == 0


def default_home() -> Path:
    """Where the cluster lives: in the checkout, or under /var/lib when the server's user cannot reach the checkout."""
    if override := os.environ.get("GUMBOOT_DATA"):
        return Path(override)
    if os.geteuid() == 0 and not _reachable(CHECKOUT):
        return Path("/var/lib/gumboot") / hashlib.sha256(str(CHECKOUT).encode()).hexdigest()[:12]
    return CHECKOUT / ".gumboot"


@dataclass(frozen=True)
class Secrets:
    """Generated passwords of the owner and the application role."""

    owner: str
    app: str


class Cluster:
    """One private cluster in one folder."""

    def __init__(self, home: Path | None = None) -> None:
        self.home = home or default_home()
        self.data = self.home / "postgres"
        self._secrets_file = self.home / "secrets.json"
        self._port_file = self.home / "port"

    def _run(self, program: str, *args: str, stdin: str | None = None) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [*_as_server_user(), str(postgres_programs() / program), *args],
            cwd="/",
            text=True,
            capture_output=True,
            input=stdin,
            check=False,
            start_new_session=True,
        )

    @property
    def port(self) -> int:
        """Port chosen at the last start."""
        return int(self._port_file.read_text())

    def _secrets(self) -> Secrets:
        return Secrets(**json.loads(self._secrets_file.read_text()))

    def url(self, role: str = APP) -> URL:
        """Address for the application role, or for the owner, who alone may change the schema."""
        keep = self._secrets()
        return URL.create("postgresql+psycopg", role, keep.app if role == APP else keep.owner, "127.0.0.1", self.port, DATABASE)

    def _check_room(self) -> None:
        try:
            self.home.mkdir(parents=True, exist_ok=True)
        except OSError:
            raise Trouble(f"No right to write {self.home}. Remedy: set GUMBOOT_DATA to a folder that {getpass.getuser()} owns.") from None
        free = shutil.disk_usage(self.home).free
        if free < LEAST_FREE_BYTES:
            raise Trouble(
                f"Only {free // 2**20} MB are free at {self.home}; the database needs {LEAST_FREE_BYTES // 2**20} MB. Remedy: free some space, or set GUMBOOT_DATA to another disk."
            )

    def _check_version(self) -> None:
        have = (self.data / "PG_VERSION").read_text().strip()
        want = postgres_programs().parent.name
        if have != want:
            raise Trouble(
                f"The data in {self.data} was made by PostgreSQL {have}; installed is {want}. Remedy: install postgresql-{have}, run ./gumboot db backup, move the folder away, then ./gumboot db restore."
            )

    def _make(self) -> None:
        half_made = self.data.exists() and not self._secrets_file.exists()
        if half_made:
            shutil.rmtree(self.data)
        keep = Secrets(secrets.token_urlsafe(24), secrets.token_urlsafe(24))
        self.data.mkdir(mode=0o700)
        password_file = self.home / "initdb-password"
        password_file.touch(mode=0o600)
        password_file.write_text(keep.owner)
        if os.geteuid() == 0:
            shutil.chown(self.data, "postgres", "postgres")
            shutil.chown(password_file, "postgres", "postgres")
        made = self._run(
            "initdb",
            "-D",
            str(self.data),
            "-U",
            OWNER,
            f"--pwfile={password_file}",
            "--auth-local=scram-sha-256",
            "--auth-host=scram-sha-256",
            "-E",
            "UTF8",
            "--locale=C.UTF-8",
            "--data-checksums",
            *(["--no-sync"] if hasty() else []),
        )
        password_file.unlink()
        if made.returncode:
            shutil.rmtree(self.data, ignore_errors=True)
            raise Trouble(
                f"The database could not be made in {self.data}: {made.stderr.strip().splitlines()[-1] if made.stderr.strip() else 'no reason given'}. Remedy: free the folder or set GUMBOOT_DATA."
            )
        self._secrets_file.touch(mode=0o600)
        self._secrets_file.write_text(json.dumps({"owner": keep.owner, "app": keep.app}))

    def running(self) -> bool:
        """Whether the server answers."""
        if not self._port_file.exists() or not (self.data / "PG_VERSION").exists():
            return False
        up = self._run("pg_ctl", "-D", str(self.data), "status").returncode == 0
        return up and self._is_ours() and self._run("pg_isready", "-q", "-h", "127.0.0.1", "-p", str(self.port)).returncode == 0

    def _is_ours(self) -> bool:
        """Whether this cluster's own server has opened our port: another may answer there while ours is still on its way."""
        try:
            lines = (self.data / "postmaster.pid").read_text().splitlines()
        except OSError:
            return False
        return len(lines) > 7 and lines[3].strip() == str(self.port) and lines[7].strip() == "ready"

    def _choose_port(self) -> None:
        if self._port_file.exists() and port_free(self.port):
            return
        for port in range(FIRST_PORT, LAST_PORT + 1):
            if port_free(port):
                self._port_file.write_text(str(port))
                return
        raise Trouble(f"No free port from {FIRST_PORT} to {LAST_PORT} for the database. Remedy: stop what listens there.")

    def start(self) -> None:
        """Make the cluster if there is none, start it if it is down, and wait until it answers. Raises Trouble."""
        self._check_room()
        if not (self.data / "PG_VERSION").exists() or not self._secrets_file.exists():
            self._make()
        self._check_version()
        if self.running():
            return
        reason = ""
        for _ in range(12):  # After a kill -9 the old lock file may stand for a second or two.
            self._choose_port()
            options = (
                f"-p {self.port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c timezone=UTC{HASTY if hasty() else ''}"
            )
            began = self._run("pg_ctl", "-D", str(self.data), "-l", str(self.data / "server.log"), "-o", options, "-w", "-t", "30", "start")
            if began.returncode == 0 and self.running():
                self._ensure_database()
                return
            if self.running():
                return
            reason = (began.stderr or began.stdout).strip()
            time.sleep(0.5)
        tail = (
            subprocess.run(["tail", "-n", "2", str(self.data / "server.log")], text=True, capture_output=True, check=False)
            .stdout.strip()
            .replace("\n", " / ")
        )
        raise Trouble(f"The database did not start: {tail or reason}. Remedy: see {self.data / 'server.log'}.")

    def _ensure_database(self) -> None:
        from sqlalchemy import create_engine, text

        keep = self._secrets()
        engine = create_engine(self.url(OWNER).set(database="postgres"), isolation_level="AUTOCOMMIT")
        with engine.connect() as connection:
            if not connection.scalar(text("select 1 from pg_roles where rolname = :r"), {"r": APP}):
                connection.exec_driver_sql(f"create role {APP} login password '{keep.app}'")
            if not connection.scalar(text("select 1 from pg_database where datname = :d"), {"d": DATABASE}):
                connection.exec_driver_sql(f"create database {DATABASE}")
                connection.exec_driver_sql(f"revoke create on database {DATABASE} from public")
        engine.dispose()

    def stop(self) -> bool:
        """Stop the server; False when it was not running."""
        if not (self.data / "postmaster.pid").exists():
            return False
        return self._run("pg_ctl", "-D", str(self.data), "-m", "fast", "-w", "stop").returncode == 0

    def tool(self, program: str, *args: str) -> list[str]:
        """Command line of a client program."""
        return [str(postgres_programs() / program), "-h", "127.0.0.1", "-p", str(self.port), "-U", OWNER, *args]

    def client_environment(self) -> dict[str, str]:
        """Environment for client programs, the owner's password in it rather than on the command line."""
        return {**os.environ, "PGPASSWORD": self._secrets().owner}
