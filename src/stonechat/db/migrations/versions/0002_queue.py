"""The tables of the job queue, as the pinned queue library makes them (3.10)."""

from alembic import op
from procrastinate.schema import SchemaManager

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Make the queue's tables, types and functions."""
    # the driver itself takes the whole script at once, with its percent signs
    connection = op.get_bind().connection.driver_connection
    assert connection is not None  # noqa: S101  there is one while a migration runs
    connection.execute(SchemaManager.get_schema())
