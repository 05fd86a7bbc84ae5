"""A shelf of what the rider owns, filled from the plans that are there: the newest state of each thing."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Make the shelf and put on it every thing of every plan as it stands."""
    op.create_table(
        "shelf_item",
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("body", JSONB(), nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("jsonb_typeof(body) = 'object'", name="ck_shelf_item_body"),
        sa.PrimaryKeyConstraint("id", name="pk_shelf_item"),
    )
    # bodies stay in the version that they were written in; reading them brings them up to date
    op.execute(
        """
        insert into shelf_item (id, body)
        select distinct on (item ->> 'id')
            item ->> 'id', item || jsonb_build_object('version', step.body -> 'version')
        from plan
        join plan_step step on step.plan_id = plan.id and step.number = plan.step
        cross join lateral jsonb_array_elements(coalesce(step.body -> 'items', '[]'::jsonb)) as item
        where item ->> 'id' is not null
        order by item ->> 'id', plan.changed_at desc
        """
    )
