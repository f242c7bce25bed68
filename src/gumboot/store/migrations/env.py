"""Alembic environment: the URL object comes from the caller, so passwords need no escaping."""

from alembic import context
from sqlalchemy import create_engine, pool

from gumboot.store.models import Base

engine = create_engine(context.config.attributes["url"], poolclass=pool.NullPool)
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
