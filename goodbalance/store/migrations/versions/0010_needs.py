"""What each station needs of people, for the list that puts the gravest first."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("summary", sa.Column("needs", sa.String(2000), nullable=False, server_default="[]"))
    op.add_column("summary", sa.Column("weight", sa.Integer, nullable=False, server_default="0"))
    op.execute("UPDATE summary SET head_hash = ''")  # worked out again when it is listed


def downgrade() -> None:
    op.drop_column("summary", "weight")
    op.drop_column("summary", "needs")
