"""What the columns of files from elsewhere are, kept by their headings."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.create_table(
        "columns_told",
        sa.Column("signature", sa.String(64), primary_key=True),
        sa.Column("told", sa.String(2000), nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", DATETIME(fsp=3), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("columns_told")
