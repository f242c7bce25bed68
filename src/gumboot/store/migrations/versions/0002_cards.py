"""Cards with their revisions, so that a job keeps the one it was planned with."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Create the table of card revisions; the application may add and read, never change."""
    op.create_table(
        "cards",
        sa.Column("id", sa.String(80), primary_key=True),
        sa.Column("revision", sa.Integer, primary_key=True),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("origin", sa.String(20), nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", TIMESTAMP(timezone=True), nullable=False, server_default=sa.text("now()")),
        sa.CheckConstraint("origin in ('catalogue', 'company')", name="known_origin"),
        sa.CheckConstraint("revision >= 1", name="counted_revision"),
    )
    op.execute(
        """
        do $$
        begin
            if exists (select from pg_roles where rolname = 'gumboot_app') then
                grant select, insert on cards to gumboot_app;
            end if;
        end $$;
        """
    )
