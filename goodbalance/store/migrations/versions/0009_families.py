"""Controller families that people write, revision by revision."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGTEXT

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "family",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("revision", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("tables", LONGTEXT, nullable=False),
        sa.Column("toml", LONGTEXT, nullable=True),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("at", DATETIME(fsp=3), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("family")
