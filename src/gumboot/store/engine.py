"""Engine and migration entry points."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import URL, Engine, create_engine, make_url, text
from sqlalchemy.exc import SQLAlchemyError

HERE = Path(__file__).parent


def as_url(address: str) -> URL:
    """A SQLAlchemy URL with the psycopg driver, from ``DATABASE_URL`` as people write it."""
    url = make_url(address)
    return url.set(drivername="postgresql+psycopg") if url.drivername in ("postgres", "postgresql") else url


def open_engine(url: URL) -> Engine:
    """An engine that notices a restarted server."""
    return create_engine(url, pool_pre_ping=True, pool_size=8, connect_args={"connect_timeout": 5})


def _config(url: URL) -> Config:
    config = Config()
    config.set_main_option("script_location", str(HERE / "migrations"))
    config.attributes["url"] = url
    return config


def migrate(url: URL) -> None:
    """Bring the schema to the newest version; existing data stays."""
    command.upgrade(_config(url), "head")


def database_state(engine: Engine) -> str:
    """``ready``, ``needs migration`` or ``unreachable``."""
    try:
        with engine.connect() as connection:
            connection.execute(text("select 1"))
            current = MigrationContext.configure(connection).get_current_revision()
    except SQLAlchemyError:
        return "unreachable"
    head = ScriptDirectory(str(HERE / "migrations")).get_current_head()
    return "ready" if current == head else "needs migration"
