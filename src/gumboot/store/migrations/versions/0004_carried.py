"""Cards that came with a job's file: kept for that job, offered to none."""

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Let a card say that it was carried here by a job's file."""
    op.drop_constraint("known_origin", "cards", type_="check")
    op.create_check_constraint("known_origin", "cards", "origin in ('catalogue', 'company', 'carried')")
