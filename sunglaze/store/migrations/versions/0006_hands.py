"""The points of hands beside those of faces, where they were looked for."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("track", sa.Column("hands", sa.JSON, nullable=True))
