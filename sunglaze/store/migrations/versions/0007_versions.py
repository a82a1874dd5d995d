"""A published effect has an address, which stays, and versions; it goes through a review. What is said of effects is kept."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "listing",
        sa.Column("effect_id", sa.String(32), sa.ForeignKey("effect.id", name="fk_listing_effect_id"), primary_key=True),
        sa.Column("document", sa.JSON, nullable=False),
    )
    op.create_table(
        "publication",
        sa.Column("code", sa.String(8), primary_key=True),
        sa.Column("effect_id", sa.String(32), sa.ForeignKey("effect.id", name="fk_publication_effect_id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("opens", sa.Integer, nullable=False),
        sa.Column("tries", sa.Integer, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("moved", sa.DateTime, nullable=False),
    )
    op.create_index("ix_publication_effect_id", "publication", ["effect_id"])
    op.create_table(
        "version",
        sa.Column("code", sa.String(8), sa.ForeignKey("publication.code", name="fk_version_code"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revision.id", name="fk_version_revision_id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("listing", sa.JSON, nullable=True),
        sa.Column("changes", sa.JSON, nullable=False),
        sa.Column("pieces", sa.JSON, nullable=False),
        sa.Column("weight", sa.Integer, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
    )
    # What was published before there was a review had been taken; every address stays.
    op.execute("INSERT INTO publication SELECT code, effect_id, 1, 'taken', '', 0, 0, created, created FROM package")
    op.execute("INSERT INTO version SELECT code, 1, revision_id, name, NULL, '[]', pieces, weight, data, created FROM package")
    op.drop_index("ix_package_effect_id", "package")
    op.drop_table("package")
