"""Long texts apart from the entries that bring them: a trend is read when it is looked at. Older entries keep theirs."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGTEXT

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "attachment",
        sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("digest", sa.String(64), primary_key=True),
        sa.Column("text", LONGTEXT, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("attachment")
