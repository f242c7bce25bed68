"""``./gumboot db``: start, stop, look, back up and restore the private cluster."""

from __future__ import annotations

import argparse
import os
import subprocess
from datetime import UTC, datetime
from pathlib import Path

from gumboot.cli.cluster import APP, DATABASE, OWNER, Cluster
from gumboot.cli.trouble import Trouble
from gumboot.store.engine import migrate


def _backup(cluster: Cluster, file: str | None) -> Path:
    target = Path(file or f"gumboot-{datetime.now(UTC):%Y%m%d-%H%M%S}.dump")
    try:
        # It holds password hashes and everybody's records: for its owner's eyes, from its first byte.
        os.close(os.open(target, os.O_WRONLY | os.O_CREAT, 0o600))
        target.chmod(0o600)
    except OSError as refused:
        raise Trouble(f"{target} cannot be written: {refused.strerror}. Remedy: name a file in a folder of yours.") from None
    done = subprocess.run(
        cluster.tool("pg_dump", "-Fc", "-f", str(target), DATABASE),
        env=cluster.client_environment(),
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise Trouble(f"The backup failed: {done.stderr.strip()}. Remedy: check free space and the file's folder.")
    return target


def _restore(cluster: Cluster, file: str | None) -> None:
    if not file or not Path(file).is_file():
        raise Trouble("Name the dump file to restore. Remedy: ./gumboot db restore FILE.")
    kept = _backup(cluster, str(cluster.home / "before-restore.dump"))
    done = subprocess.run(
        cluster.tool("pg_restore", "--clean", "--if-exists", "--single-transaction", "-d", DATABASE, file),
        env=cluster.client_environment(),
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise Trouble(f"Nothing was restored: {done.stderr.strip().splitlines()[0]}. Remedy: name a file made by ./gumboot db backup.")
    migrate(cluster.url(OWNER), APP)
    print(f"Restored. What was there before is in {kept}.")


def run(args: argparse.Namespace) -> int:
    """Run one act."""
    cluster = Cluster()
    if args.act == "stop":
        print("Database stopped." if cluster.stop() else "The database was not running.")
        return 0
    if args.act == "status":
        up = cluster.running()
        print(f"Database {'answers on 127.0.0.1:' + str(cluster.port) if up else 'is not running'}; data in {cluster.data}.")
        return 0 if up else 3
    cluster.start()
    if args.act == "start":
        migrate(cluster.url(OWNER), APP)
        print(f"Database answers on 127.0.0.1:{cluster.port}.")
    elif args.act == "shell":
        os.execve(cluster.tool("psql")[0], cluster.tool("psql", DATABASE), cluster.client_environment())
    elif args.act == "backup":
        print(f"Written to {_backup(cluster, args.file)}.")
    else:
        _restore(cluster, args.file)
    return 0
