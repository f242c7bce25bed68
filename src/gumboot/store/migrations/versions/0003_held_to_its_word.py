"""Accounts that can be switched off; records with where they were made; less for the application to change."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import TIMESTAMP

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the columns. What stands keeps its time of arrival, and has no digest: it is compared by its content."""
    op.add_column("users", sa.Column("disabled", sa.Boolean, nullable=False, server_default=sa.false()))
    op.add_column("records", sa.Column("received_at", TIMESTAMP(timezone=True), nullable=True))
    op.add_column("records", sa.Column("digest", sa.String(64), nullable=True))
    op.alter_column("records", "received_at", server_default=sa.text("clock_timestamp()"))
