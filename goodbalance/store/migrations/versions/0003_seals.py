"""The seal of each record's head."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("station", sa.Column("head_seal", sa.String(80), nullable=True))


def downgrade() -> None:
    op.drop_column("station", "head_seal")
