"""How many bytes a file has, stored beside them, so that nobody reads the bytes to know."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("asset", sa.Column("size", sa.Integer, nullable=False, server_default="0"))
    op.execute("UPDATE asset SET size = length(data)")
