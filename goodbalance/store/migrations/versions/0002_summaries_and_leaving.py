"""A summary of each station for the list; stations put away or removed; entries that came from a file."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    for name in ("archived", "removed"):
        op.add_column("station", sa.Column(f"{name}_at", DATETIME(fsp=3), nullable=True))
        op.add_column("station", sa.Column(f"{name}_by", sa.String(80), nullable=True))
    op.create_index("ix_station_changed_at", "station", ["changed_at"])
    op.add_column("entry", sa.Column("brought_by", sa.String(80), nullable=True))
    op.create_table(
        "summary",
        sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("head_hash", sa.String(64), nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("progress", sa.String(2000), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("summary")
    op.drop_column("entry", "brought_by")
    op.drop_index("ix_station_changed_at", "station")
    for name in ("archived", "removed"):
        op.drop_column("station", f"{name}_by")
        op.drop_column("station", f"{name}_at")
