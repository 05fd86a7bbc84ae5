"""Files that were sent and wait to be looked over before they become a plan."""

from dataclasses import dataclass
from datetime import timedelta
from uuid import UUID

from sqlalchemy import delete, func
from sqlalchemy.orm import Session

from stonechat.db.rows import UploadRow
from stonechat.errors import NotFound

KEPT = timedelta(days=7)


@dataclass(frozen=True, kw_only=True)
class Upload:
    """A file as it was sent."""

    id: UUID
    name: str
    data: bytes


def add_upload(session: Session, *, name: str, data: bytes) -> UUID:
    """Keep a file for a week and return its id; those that waited longer are thrown away."""
    session.execute(delete(UploadRow).where(UploadRow.made_at < func.now() - KEPT))
    row = UploadRow(name=name, data=data)
    session.add(row)
    session.flush()
    return row.id


def read_upload(session: Session, upload_id: UUID) -> Upload:
    """Return a file that waits."""
    row = session.get(UploadRow, upload_id)
    if row is None:
        raise NotFound("The file is not kept any more. Bring it in again.")
    return Upload(id=row.id, name=row.name, data=row.data)


def drop_upload(session: Session, upload_id: UUID) -> None:
    """Throw a file away."""
    session.execute(delete(UploadRow).where(UploadRow.id == upload_id))


def replace_upload(session: Session, upload_id: UUID, data: bytes) -> None:
    """Put other bytes in the place of a file that waits."""
    row = session.get(UploadRow, upload_id)
    if row is None:
        raise NotFound("The file is not kept any more. Bring it in again.")
    row.data = data
