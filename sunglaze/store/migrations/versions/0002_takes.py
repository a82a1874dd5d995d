"""Revisions may have a name: they are takes."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.add_column("revision", sa.Column("take", sa.String(80)))
