"""What was taken once stays known, and one version stays in the showcase while the next is looked at."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.add_column("publication", sa.Column("shown", sa.Integer, nullable=True))
    op.add_column("version", sa.Column("taken", sa.Boolean, nullable=False, server_default=sa.false()))
    op.execute("UPDATE publication SET shown = number WHERE state = 'taken'")
    op.execute(
        "UPDATE version SET taken = 1 WHERE EXISTS"
        " (SELECT 1 FROM publication WHERE publication.code = version.code AND publication.shown = version.number)"
    )
