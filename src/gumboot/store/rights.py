"""What the application's database role may do, and whether it may do more than that.

Two roles: the owner migrates and looks after accounts; the application adds records, revisions and cards, and reads them. It can
change or delete none of them, nor delete a job, which would take its revisions with it.
"""

from __future__ import annotations

from sqlalchemy import Engine, text

# Table: what the application needs of it. Columns where only some may be updated.
GRANTS = {
    "users": "select",
    "sign_ins": "select, insert, delete",
    "sign_in_failures": "select, insert, delete",
    "jobs": "select, insert, update (head, title)",
    "revisions": "select, insert",
    "records": "select, insert",
    "record_links": "select, insert",
    "cards": "select, insert",
    "card_notes": "select, insert",
    "feeds": "select, insert, delete",
    "photos": "select, insert",
    "holdings": "select, insert, update, delete",
    "alembic_version": "select",
}
KEPT = ("records", "record_links", "photos", "revisions", "cards", "card_notes")


def grant(owner: Engine, role: str) -> None:
    """Give the application's role what it needs, and take from it whatever else it had. Run by the owner after each migration."""
    quoted = '"' + role.replace('"', '""') + '"'
    with owner.begin() as connection:
        if connection.scalar(text("select current_user")) == role:
            return  # one role for everything: nothing that it could be denied
        connection.execute(text(f"grant usage on schema public to {quoted}"))
        connection.execute(text(f"grant usage on all sequences in schema public to {quoted}"))
        for table, rights in GRANTS.items():
            connection.execute(text(f"revoke all on {table} from {quoted}"))
            connection.execute(text(f"grant {rights} on {table} to {quoted}"))


def excess(application: Engine) -> tuple[str, ...]:
    """What the application's role could do to kept things that it must not be able to, in words; empty when it holds to its word."""
    found = []
    with application.connect() as connection:
        if connection.scalar(text("select rolsuper from pg_roles where rolname = current_user")):
            found.append("it is a superuser")
        for table in KEPT:
            owns = "select pg_has_role(current_user, relowner, 'usage') from pg_class where oid = cast(:t as regclass)"
            if connection.scalar(text(owns), {"t": table}):
                found.append(f"it owns {table}")
                continue
            for right in ("UPDATE", "DELETE", "TRUNCATE", "TRIGGER"):
                if connection.scalar(text("select has_table_privilege(current_user, :t, :r)"), {"t": table, "r": right}):
                    found.append(f"it may {right.lower()} {table}")
            if connection.scalar(text("select has_any_column_privilege(current_user, :t, 'UPDATE')"), {"t": table}):
                found.append(f"it may update columns of {table}")
        if connection.scalar(text("select has_table_privilege(current_user, 'jobs', 'DELETE')")):
            found.append("it may delete jobs, and their revisions with them")
    return tuple(dict.fromkeys(found))
