"""Links by which an owner reads one signed revision without an account; lines of the views that a person has put away."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.create_table(
        "share",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("token_hash", sa.String(64), nullable=False, unique=True),
        sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id", ondelete="CASCADE"), nullable=False),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("reader", sa.String(80), nullable=False),
        sa.Column("made_by", sa.String(80), nullable=False),
        sa.Column("made_at", DATETIME(fsp=3), nullable=False),
        sa.Column("until", DATETIME(fsp=3), nullable=False),
        sa.Column("revoked_at", DATETIME(fsp=3), nullable=True),
    )
    op.create_index("ix_share_station_id", "share", ["station_id"])
    op.add_column("person", sa.Column("dismissed", sa.String(200), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("person", "dismissed")
    op.drop_table("share")
