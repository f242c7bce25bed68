"""What a planner made of each note that a crew wrote of a card."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import TIMESTAMP

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Create the table: the note itself is a record of its house; here stands whether the company keeps it for every house."""
    op.create_table(
        "card_notes",
        sa.Column("record_id", sa.String(36), sa.ForeignKey("records.id"), primary_key=True),
        sa.Column("card_id", sa.String(80), nullable=False, index=True),
        sa.Column("topic", sa.String(20), nullable=False),
        sa.Column("text", sa.String(300), nullable=False),
        sa.Column("taken", sa.Boolean, nullable=False),
        sa.Column("reason", sa.String(300), nullable=False, server_default=""),
        sa.Column("decided_by", sa.String(80), nullable=False),
        sa.Column("at", TIMESTAMP(timezone=True), nullable=False, server_default=sa.text("now()")),
    )
    op.execute(
        """
        create trigger card_notes_append_only before update or delete on card_notes
            for each row execute function refuse_change();
        create trigger card_notes_no_truncate before truncate on card_notes
            for each statement execute function refuse_change();
        """
    )
