"""People who no longer work here: their entries stay, they do not sign in."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("person", sa.Column("retired_at", DATETIME(fsp=3), nullable=True))


def downgrade() -> None:
    op.drop_column("person", "retired_at")
