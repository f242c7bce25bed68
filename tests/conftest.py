"""A private cluster for the tests that need one: in a folder of its own, on a port of its own."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings
from sqlalchemy import Engine
from sqlalchemy.orm import Session

# Each worker has ports of its own, for itself and what it starts: a database that a test kills must find its port free again.
# The workers inherit what their controller sets, so the controller sets nothing.
if worker := os.environ.get("PYTEST_XDIST_WORKER"):
    os.environ["GUMBOOT_DATABASE_PORT"] = str(54630 + 20 * int(worker[2:]))
# A test's data outlives no power cut, so its database waits for no disk.
os.environ.setdefault("GUMBOOT_TEST_DATABASE", "hasty")

from gumboot.cli.cluster import APP, OWNER, Cluster
from gumboot.store.demo import load_demo
from gumboot.store.engine import migrate, open_engine

# No test asserts on time.
settings.register_profile("gumboot", deadline=None)
settings.load_profile("gumboot")


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    # Not pytest's own folder: that one is closed to the database's user when the tests run as root.
    home = Path(tempfile.mkdtemp(prefix="gumboot-test-"))
    home.chmod(0o755)
    made = Cluster(home)
    made.start()
    migrate(made.url(OWNER), APP)
    yield made
    made.stop()
    shutil.rmtree(home, ignore_errors=True)


@pytest.fixture(scope="session")
def owner(cluster: Cluster) -> Iterator[Engine]:
    engine = open_engine(cluster.url(OWNER))
    yield engine
    engine.dispose()


@pytest.fixture(scope="session")
def engine(cluster: Cluster, owner: Engine) -> Iterator[Engine]:
    with Session(owner) as db:
        load_demo(db)
    made = open_engine(cluster.url(), 16)
    yield made
    made.dispose()


@pytest.fixture
def db(engine: Engine) -> Iterator[Session]:
    """A session whose work is rolled back."""
    with Session(engine) as session:
        yield session
        session.rollback()
