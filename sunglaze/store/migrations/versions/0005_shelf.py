"""The shelf: a file may be taken off it, and comes back with a word; drafts are not shown on it."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("asset", sa.Column("deleted", sa.DateTime, nullable=True))
