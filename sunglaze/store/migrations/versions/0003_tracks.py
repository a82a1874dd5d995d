"""What trackers saw in the artist's own pictures and clips."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "track",
        sa.Column("asset_hash", sa.String(64), sa.ForeignKey("asset.hash", name="fk_track_asset_hash"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("mask", sa.LargeBinary, nullable=False),
        sa.Column("faces", sa.JSON, nullable=False),
    )
