"""Sessions on the server: each can be ended, and all of a person when the password changes."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.create_table(
        "session",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("person_id", sa.Integer, sa.ForeignKey("person.id", ondelete="CASCADE"), nullable=False),
        sa.Column("begun_at", DATETIME(fsp=3), nullable=False),
        sa.Column("seen_at", DATETIME(fsp=3), nullable=False),
        sa.Column("browser", sa.String(120), nullable=False),
    )
    op.create_index("ix_session_person_id", "session", ["person_id"])


def downgrade() -> None:
    op.drop_table("session")
