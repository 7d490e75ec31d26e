"""People, stations and their records."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGTEXT

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "person",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("password_hash", sa.String(200), nullable=False),
        sa.Column("units", sa.String(10), nullable=False),
        sa.Column("theme", sa.String(10), nullable=False),
        sa.Column("created_at", DATETIME(fsp=3), nullable=False),
    )
    op.create_table(
        "station",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("uid", sa.String(32), nullable=False, unique=True),
        sa.Column("kind", sa.String(40), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("place", sa.String(120), nullable=False),
        sa.Column("head_seq", sa.Integer, nullable=False),
        sa.Column("head_hash", sa.String(64), nullable=False),
        sa.Column("changed_at", DATETIME(fsp=3), nullable=False),
    )
    op.create_table(
        "entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id", ondelete="CASCADE"), nullable=False),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("body", LONGTEXT, nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", sa.String(24), nullable=False),
        sa.Column("previous", sa.String(64), nullable=False),
        sa.Column("hash", sa.String(64), nullable=False),
        sa.Column("save_key", sa.String(64), nullable=True),
        sa.UniqueConstraint("station_id", "seq"),
    )
    op.create_index("ix_entry_save_key", "entry", ["save_key"], unique=True)


def downgrade() -> None:
    op.drop_table("entry")
    op.drop_table("station")
    op.drop_table("person")
