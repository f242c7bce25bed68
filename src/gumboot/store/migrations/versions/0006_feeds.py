"""Calendars that are fetched by a token, which can be withdrawn."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import TIMESTAMP

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Create the feeds; the token is kept only as a hash."""
    op.create_table(
        "feeds",
        sa.Column("token_hash", sa.String(64), primary_key=True),
        sa.Column("user_name", sa.String(60), sa.ForeignKey("users.name", ondelete="CASCADE"), nullable=False, unique=True),
        sa.Column("at", TIMESTAMP(timezone=True), nullable=False, server_default=sa.text("now()")),
    )
