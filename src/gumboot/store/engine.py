"""Engine and migration entry points."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import URL, Engine, create_engine, make_url, text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.pool import NullPool

from gumboot.store.rights import grant

HERE = Path(__file__).parent


def as_url(address: str) -> URL:
    """A SQLAlchemy URL with the psycopg driver, from ``DATABASE_URL`` as people write it."""
    url = make_url(address)
    return url.set(drivername="postgresql+psycopg") if url.drivername in ("postgres", "postgresql") else url


def open_engine(url: URL, connections: int = 8) -> Engine:
    """An engine that notices a restarted server. ``connections`` are all it opens; who finds none within two seconds is told so."""
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=connections,
        max_overflow=0,
        pool_timeout=2,
        hide_parameters=True,  # what people typed, and hashes of secrets, stay out of logs
        # Nobody waits for another's row for ever.
        connect_args={"connect_timeout": 5, "options": "-c lock_timeout=5000"},
    )


def _config(url: URL) -> Config:
    config = Config()
    config.set_main_option("script_location", str(HERE / "migrations"))
    config.attributes["url"] = url
    return config


def migrate(url: URL, application: str = "") -> None:
    """Bring the schema to the newest version; existing data stays. ``application`` is the role that is given the application's rights."""
    command.upgrade(_config(url), "head")
    if application:
        owner = create_engine(url, poolclass=NullPool)
        grant(owner, application)
        owner.dispose()


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
