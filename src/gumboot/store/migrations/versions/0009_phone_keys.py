"""A key for each person, under which their phones keep what they carry."""

import secrets

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the key, and make one for everybody who is there: what a phone carries is readable only by who it is carried for."""
    op.add_column("users", sa.Column("phone_key", sa.LargeBinary, nullable=True))
    connection = op.get_bind()
    for (name,) in connection.execute(sa.text("select name from users")).all():
        connection.execute(sa.text("update users set phone_key = :key where name = :name"), {"key": secrets.token_bytes(32), "name": name})
    op.alter_column("users", "phone_key", nullable=False)
