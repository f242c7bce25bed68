"""Who has which box in hand."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import TIMESTAMP

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Create the list: no record, only a sign to others, gone an hour after the last one."""
    op.create_table(
        "holdings",
        sa.Column("job_id", sa.String(80), sa.ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("thing", sa.String(80), primary_key=True),
        sa.Column("user_name", sa.String(60), sa.ForeignKey("users.name", ondelete="CASCADE"), nullable=False),
        sa.Column("at", TIMESTAMP(timezone=True), nullable=False, server_default=sa.text("now()")),
    )
