"""Pictures of the work, by the hash of their content."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import TIMESTAMP

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Create the table: a record names a picture by its hash, so that neither can be exchanged for another."""
    op.create_table(
        "photos",
        sa.Column("job_id", sa.String(80), sa.ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("hash", sa.String(64), primary_key=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("content", sa.LargeBinary, nullable=False),
        sa.Column("at", TIMESTAMP(timezone=True), nullable=False, server_default=sa.text("now()")),
    )
