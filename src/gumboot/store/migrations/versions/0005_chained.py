"""Records chained to each other: what was received is provably what stands."""

import hashlib
import json
from datetime import UTC
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def _chain(bind: sa.Connection) -> None:
    """Links over the rows that stand, job by job in the order in which they came in. Written out: this is what was chained on that day."""
    before: dict[str, tuple[int, str]] = {}
    rows = bind.execute(
        sa.text(
            "select id, job_id, kind, subject, value, by, role, at, corrects, digest, received_at from records"
            " order by job_id, coalesce(received_at, at), at, id"
        )
    )
    for row in rows.mappings():
        place, last = before.get(row["job_id"], (0, "0" * 64))
        said: dict[str, Any] = dict(row)
        for moment in ("at", "received_at"):
            said[moment] = row[moment].astimezone(UTC).isoformat(timespec="microseconds") if row[moment] else None
        content = json.dumps(said, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
        link = hashlib.sha256(last.encode() + content.encode()).hexdigest()
        before[row["job_id"]] = (place + 1, link)
        bind.execute(
            sa.text("insert into record_links (job_id, place, record_id, hash) values (:j, :p, :r, :h)"),
            {"j": row["job_id"], "p": place + 1, "r": row["id"], "h": link},
        )


def upgrade() -> None:
    """Create the chain beside the records, over those that stand already; like them it only grows."""
    op.create_table(
        "record_links",
        sa.Column("job_id", sa.String(80), sa.ForeignKey("jobs.id"), primary_key=True),
        sa.Column("place", sa.Integer, primary_key=True),
        sa.Column("record_id", sa.String(36), sa.ForeignKey("records.id"), nullable=False, unique=True),
        sa.Column("hash", sa.String(64), nullable=False),
    )
    op.alter_column("records", "subject", type_=sa.String(200))
    _chain(op.get_bind())
    op.execute(
        """
        create trigger record_links_append_only before update or delete on record_links
            for each row execute function refuse_change();
        create trigger record_links_no_truncate before truncate on record_links
            for each statement execute function refuse_change();
        """
    )
