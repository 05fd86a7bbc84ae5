"""A run of the packing solver says what was asked of it: a plain packing, different ones, or what if."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Give every run its request; those that are there were plain packings."""
    op.add_column("pack_run", sa.Column("kind", sa.Text(), server_default="pack", nullable=False))
    op.add_column("pack_run", sa.Column("request", JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False))
    op.create_check_constraint("ck_pack_run_kind", "pack_run", "kind in ('pack', 'different', 'what-if')")
