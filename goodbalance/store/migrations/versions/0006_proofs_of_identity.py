"""Second factors, one-time links, when somebody last showed who they are, tries at the door, and the log of who did what."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("person", sa.Column("code_secret", sa.String(300), nullable=True))
    op.add_column("person", sa.Column("code_step", sa.BigInteger, nullable=True))
    op.add_column("session", sa.Column("shown_at", DATETIME(fsp=3), nullable=True))
    op.create_table(
        "link",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("person_id", sa.Integer, sa.ForeignKey("person.id", ondelete="CASCADE"), nullable=False),
        sa.Column("until", DATETIME(fsp=3), nullable=False),
    )
    op.create_index("ix_link_person_id", "link", ["person_id"])
    op.create_table(
        "attempt",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("until", DATETIME(fsp=3), nullable=False),
    )
    op.create_table(
        "deed",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("at", DATETIME(fsp=3), nullable=False),
        sa.Column("what", sa.String(40), nullable=False),
        sa.Column("who", sa.String(80), nullable=False),
        sa.Column("about", sa.String(200), nullable=False),
        sa.Column("address", sa.String(64), nullable=False),
        sa.Column("request", sa.String(16), nullable=False),
    )
    op.create_index("ix_deed_at", "deed", ["at"])


def downgrade() -> None:
    for table in ("deed", "attempt", "link"):
        op.drop_table(table)
    op.drop_column("session", "shown_at")
    op.drop_column("person", "code_step")
    op.drop_column("person", "code_secret")
