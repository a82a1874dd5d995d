"""Effects with revisions, assets, packages."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "effect",
        sa.Column("id", sa.String(32), primary_key=True),
        # SQLite takes a reference to a table that follows.
        sa.Column("head_id", sa.Integer, sa.ForeignKey("revision.id", name="fk_effect_head_id")),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("changed", sa.DateTime, nullable=False),
        sa.Column("deleted", sa.DateTime),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("effect_id", sa.String(32), sa.ForeignKey("effect.id"), nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("revision.id")),
        sa.Column("redo_id", sa.Integer, sa.ForeignKey("revision.id")),
        sa.Column("gesture", sa.String(200), nullable=False),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
    )
    op.create_index("ix_revision_effect_id", "revision", ["effect_id"])
    op.create_table(
        "asset",
        sa.Column("hash", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("facts", sa.JSON, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
    )
    op.create_table(
        "package",
        sa.Column("code", sa.String(8), primary_key=True),
        sa.Column("effect_id", sa.String(32), sa.ForeignKey("effect.id"), nullable=False),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revision.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("pieces", sa.JSON, nullable=False),
        sa.Column("weight", sa.Integer, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
    )
    op.create_index("ix_package_effect_id", "package", ["effect_id"])


def downgrade() -> None:
    for table in ("package", "asset", "revision", "effect"):
        op.drop_table(table)
