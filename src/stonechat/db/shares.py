"""Links by which a variant may be looked at."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from stonechat.db.rows import ShareRow


@dataclass(frozen=True, kw_only=True)
class Share:
    """One link."""

    token: str
    plan_id: UUID
    variant_id: str
    made_at: datetime


def add_share(session: Session, *, token: str, plan_id: UUID, variant_id: str) -> None:
    """Keep a link."""
    session.add(ShareRow(token=token, plan_id=plan_id, variant_id=variant_id))
    session.flush()


def shares_of(session: Session, plan_id: UUID, variant_id: str) -> tuple[Share, ...]:
    """Return the links of a variant, the newest first."""
    rows = session.scalars(
        select(ShareRow)
        .where(ShareRow.plan_id == plan_id, ShareRow.variant_id == variant_id)
        .order_by(ShareRow.made_at.desc(), ShareRow.token)
    )
    return tuple(_share(row) for row in rows)


def count_shares(session: Session, plan_id: UUID) -> int:
    """Return how many links a plan has."""
    return session.scalar(select(func.count()).where(ShareRow.plan_id == plan_id)) or 0


def read_share(session: Session, token: str) -> Share | None:
    """Return a link by its token, None where there is none."""
    row = session.get(ShareRow, token)
    return None if row is None else _share(row)


def drop_share(session: Session, *, token: str, plan_id: UUID) -> bool:
    """Take a link back; say whether it was there."""
    dropped = session.scalar(
        delete(ShareRow).where(ShareRow.token == token, ShareRow.plan_id == plan_id).returning(ShareRow.token)
    )
    return dropped is not None


def _share(row: ShareRow) -> Share:
    return Share(token=row.token, plan_id=row.plan_id, variant_id=row.variant_id, made_at=row.made_at)
