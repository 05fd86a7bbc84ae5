"""The demo's things get a shelf of their own, and things alike in name and mass are one.

Plans can wait to be deleted, know which page wrote last, and a packing knows whether its end was seen.
"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Move what only the demo brought to its shelf, and keep one of things alike."""
    op.add_column("shelf_item", sa.Column("demo", sa.Boolean(), server_default=sa.text("false"), nullable=False))
    op.drop_constraint("pk_shelf_item", "shelf_item", type_="primary")
    op.create_primary_key("pk_shelf_item", "shelf_item", ["demo", "id"])
    # plans of the rider's own had the whole shelf poured into them, so only the demo tells which things are its own;
    # a thing that the rider changed since is the rider's
    op.execute(
        """
        update shelf_item set demo = true
        from (
            select item as thing
            from plan
            join plan_step step on step.plan_id = plan.id and step.number = plan.step
            cross join lateral jsonb_array_elements(coalesce(step.body -> 'items', '[]'::jsonb)) as item
            where plan.demo
        ) as brought
        where shelf_item.id = brought.thing ->> 'id'
            and shelf_item.body ->> 'name' = brought.thing ->> 'name'
            and shelf_item.body -> 'mass_g' = brought.thing -> 'mass_g'
        """
    )
    op.execute(
        """
        delete from shelf_item using (
            select demo, id, row_number() over (
                partition by demo, lower(trim(body ->> 'name')), round((body ->> 'mass_g')::numeric, 1)
                order by changed_at desc, id
            ) as place
            from shelf_item
        ) as ranked
        where ranked.place > 1 and shelf_item.demo = ranked.demo and shelf_item.id = ranked.id
        """
    )
    op.add_column("plan", sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True))
    # every page loaded is a writer; changes of one writer in a row do not stand in one another's way
    op.add_column("plan", sa.Column("writer", sa.Text(), server_default="", nullable=False))
    op.add_column("plan", sa.Column("writer_since", sa.Integer(), server_default=sa.text("1"), nullable=False))
    # runs that ended before were looked at, as far as anybody knows
    op.add_column("pack_run", sa.Column("seen", sa.Boolean(), server_default=sa.text("true"), nullable=False))
    op.alter_column("pack_run", "seen", server_default=sa.text("false"))
