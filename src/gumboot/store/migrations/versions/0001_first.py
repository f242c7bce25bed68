"""Accounts, jobs, revisions, append-only records."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

NOW = sa.text("now()")


def upgrade() -> None:
    """Create the tables, the guard against changed records, and the rights of the application role."""
    op.create_table(
        "users",
        sa.Column("name", sa.String(60), primary_key=True),
        sa.Column("display", sa.String(80), nullable=False),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("password_hash", sa.Text, nullable=False),
        sa.CheckConstraint("role in ('planner', 'installer', 'licence holder', 'apprentice')", name="known_role"),
    )
    op.create_table(
        "sign_ins",
        sa.Column("token_hash", sa.String(64), primary_key=True),
        sa.Column("user_name", sa.String(60), sa.ForeignKey("users.name", ondelete="CASCADE"), nullable=False),
        sa.Column("csrf", sa.String(64), nullable=False),
        sa.Column("expires_at", TIMESTAMP(timezone=True), nullable=False),
    )
    op.create_table(
        "sign_in_failures",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("user_name", sa.String(60), nullable=False, index=True),
        sa.Column("at", TIMESTAMP(timezone=True), nullable=False, server_default=NOW),
    )
    op.create_table(
        "jobs",
        sa.Column("id", sa.String(80), primary_key=True),
        sa.Column("title", sa.String(80), nullable=False),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("demo", sa.Boolean, nullable=False, server_default=sa.false()),
    )
    op.create_table(
        "revisions",
        sa.Column("job_id", sa.String(80), sa.ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", TIMESTAMP(timezone=True), nullable=False, server_default=NOW),
        sa.Column("note", sa.String(200), nullable=False),
        sa.Column("content_of", sa.Integer, nullable=False),
        sa.Column("previous", sa.Integer),
    )
    op.create_table(
        "records",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("job_id", sa.String(80), sa.ForeignKey("jobs.id"), nullable=False, index=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("subject", sa.String(160), nullable=False),
        sa.Column("value", JSONB, nullable=False),
        sa.Column("by", sa.String(80), nullable=False),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("at", TIMESTAMP(timezone=True), nullable=False, server_default=NOW),
        sa.Column("corrects", sa.String(36), sa.ForeignKey("records.id")),
    )
    op.execute(
        """
        create function refuse_change() returns trigger language plpgsql as $$
        begin
            raise exception 'records are append-only: write a correction instead';
        end $$;
        create trigger records_append_only before update or delete on records
            for each row execute function refuse_change();
        create trigger records_no_truncate before truncate on records
            for each statement execute function refuse_change();
        do $$
        begin
            if exists (select from pg_roles where rolname = 'gumboot_app') then
                grant usage on schema public to gumboot_app;
                grant select, insert, update, delete on users, sign_ins, sign_in_failures, jobs to gumboot_app;
                grant select, insert on revisions, records to gumboot_app;
                grant usage on all sequences in schema public to gumboot_app;
                grant select on alembic_version to gumboot_app;
            end if;
        end $$;
        """
    )
