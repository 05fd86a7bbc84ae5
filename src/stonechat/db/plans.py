"""Queries on plans, their steps and courses. Bodies come and go as plain JSON objects."""

import hashlib
import zlib
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

import numpy as np
from sqlalchemy import delete, exists, func, select, update
from sqlalchemy.orm import Session

from stonechat.core.line.track import Track
from stonechat.core.numerics.arrays import FloatArray, frozen
from stonechat.db.rows import CourseRow, PlanRow, StepRow
from stonechat.db.session import patiently
from stonechat.errors import NotFound

STEPS_KEPT = 200
DAYS_KEPT = 30  # a deleted plan waits
_LONGEST_IMPORT = 120.0  # s
_ONE_AT_A_TIME = 0x57_0E_C4_A8  # key of an advisory lock


@dataclass(frozen=True, kw_only=True)
class PlanHead:
    """A plan as it stands, without its body."""

    id: UUID
    name: str
    course_hash: str
    revision: int
    step: int
    changed_at: datetime
    demo: bool
    deleted_at: datetime | None
    writer: str
    writer_since: int


@dataclass(frozen=True, kw_only=True)
class StoredPlan:
    """A plan with its body and what undo and redo would do."""

    head: PlanHead
    body: dict[str, Any]
    undo_label: str | None
    redo_label: str | None


def _head(row: PlanRow) -> PlanHead:
    return PlanHead(
        id=row.id,
        name=row.name,
        course_hash=row.course_hash,
        revision=row.revision,
        step=row.step,
        changed_at=row.changed_at,
        demo=row.demo,
        deleted_at=row.deleted_at,
        writer=row.writer,
        writer_since=row.writer_since,
    )


def one_at_a_time(session: Session) -> None:
    """Wait until no other transaction is past this point; it is let go with the transaction."""
    patiently(
        lambda: bool(session.scalar(select(func.pg_try_advisory_xact_lock(_ONE_AT_A_TIME)))),
        seconds=_LONGEST_IMPORT,
        sentence="Another import has been running for two minutes. Try again when it has ended.",
    )


def list_plans(session: Session) -> tuple[PlanHead, ...]:
    """Return all plans, the one changed last first."""
    order = (PlanRow.demo.desc(), PlanRow.changed_at.desc())
    rows = session.scalars(select(PlanRow).where(PlanRow.deleted_at.is_(None)).order_by(*order))
    return tuple(_head(row) for row in rows)


def deleted_plans(session: Session) -> tuple[PlanHead, ...]:
    """Return the plans that wait to be gone, the one deleted last first."""
    rows = session.scalars(select(PlanRow).where(PlanRow.deleted_at.is_not(None)).order_by(PlanRow.deleted_at.desc()))
    return tuple(_head(row) for row in rows)


def plans_on_course(session: Session, course_hash: str) -> tuple[PlanHead, ...]:
    """Return the plans over one recorded course, the one changed last first."""
    on_it = (PlanRow.course_hash == course_hash, PlanRow.deleted_at.is_(None))
    rows = session.scalars(select(PlanRow).where(*on_it).order_by(PlanRow.changed_at.desc()))
    return tuple(_head(row) for row in rows)


def _plan_row(session: Session, plan_id: UUID, *, lock: bool = False) -> PlanRow:
    query = select(PlanRow).where(PlanRow.id == plan_id)
    row = session.scalar(query.with_for_update() if lock else query)
    if row is None:
        raise NotFound("There is no such plan. It may have been deleted; choose one from the list.")
    return row


def read_head(session: Session, plan_id: UUID) -> PlanHead:
    """Return a plan without its body."""
    return _head(_plan_row(session, plan_id))


def read_plan(session: Session, plan_id: UUID, *, lock: bool = False, deleted: bool = False) -> StoredPlan:
    """Return a plan as it stands; with `lock`, nobody else changes it before the transaction ends.

    One that waits to be gone is given only where `deleted` ones are asked for.
    """
    row = _plan_row(session, plan_id, lock=lock)
    if row.deleted_at is not None and not deleted:
        raise NotFound(f"The plan {row.name} was deleted. Bring it back from the list of plans.", subject=row.name)
    steps = session.execute(
        select(StepRow.number, StepRow.label).where(
            StepRow.plan_id == plan_id, StepRow.number.between(row.step - 1, row.step + 1)
        )
    ).all()
    labels = {row.number: row.label for row in steps}
    body = session.scalar(select(StepRow.body).where(StepRow.plan_id == plan_id, StepRow.number == row.step))
    if body is None:
        raise NotFound(f"The plan {row.name} has lost step {row.step} of its history.")
    return StoredPlan(
        head=_head(row),
        body=body,
        undo_label=labels[row.step] if row.step - 1 in labels else None,
        redo_label=labels.get(row.step + 1),
    )


def read_track(session: Session, course_hash: str) -> Track:
    """Return a recorded course."""
    row = session.get_one(CourseRow, course_hash)
    lats, lons, heights = (_unpacked(part) for part in (row.latitudes_deg, row.longitudes_deg, row.heights_m))
    return Track(latitudes=lats, longitudes=lons, heights=heights)


def keep_track(session: Session, track: Track) -> str:
    """Store a recorded course if it is new, and return its hash."""
    digest = course_hash_of(track)
    if session.get(CourseRow, digest) is None:
        parts = [_packed(values) for values in (track.latitudes, track.longitudes, track.heights)]
        session.add(
            CourseRow(
                hash=digest,
                points=track.heights.size,
                latitudes_deg=parts[0],
                longitudes_deg=parts[1],
                heights_m=parts[2],
            )
        )
        session.flush()
    return digest


def course_hash_of(track: Track) -> str:
    """Return what a recorded course is known by."""
    parts = (np.ascontiguousarray(v).tobytes() for v in (track.latitudes, track.longitudes, track.heights))
    return hashlib.sha256(b"".join(parts)).hexdigest()


def _packed(values: FloatArray) -> bytes:
    return zlib.compress(values.astype("<f8").tobytes(), 6)


def _unpacked(data: bytes) -> FloatArray:
    return frozen(np.frombuffer(zlib.decompress(data), dtype="<f8"))


def add_plan(
    session: Session, *, name: str, course_hash: str, body: dict[str, Any], label: str, demo: bool = False
) -> UUID:
    """Store a new plan with its first step, and return its id."""
    row = PlanRow(name=name, course_hash=course_hash, revision=1, step=1, demo=demo)
    session.add(row)
    session.flush()
    session.add(StepRow(plan_id=row.id, number=1, course_hash=course_hash, label=label, body=body))
    session.flush()
    return row.id


def add_step(
    session: Session, head: PlanHead, *, name: str, course_hash: str, body: dict[str, Any], label: str, writer: str = ""
) -> PlanHead:
    """Store a step after the present one; steps that were undone are gone, very old ones too."""
    session.execute(delete(StepRow).where(StepRow.plan_id == head.id, StepRow.number > head.step))
    step = StepRow(plan_id=head.id, number=head.step + 1, course_hash=course_hash, label=label, body=body)
    session.add(step)
    session.execute(delete(StepRow).where(StepRow.plan_id == head.id, StepRow.number <= head.step + 1 - STEPS_KEPT))
    session.flush()
    _drop_lone_courses(session)
    return move_to_step(session, head, head.step + 1, name=name, course_hash=course_hash, writer=writer)


def move_to_step(
    session: Session, head: PlanHead, step: int, *, name: str, course_hash: str, writer: str = ""
) -> PlanHead:
    """Let a plan stand at another step of its history; `writer` names the page that asks."""
    same = bool(writer) and writer == head.writer
    session.execute(
        update(PlanRow)
        .where(PlanRow.id == head.id)
        .values(
            step=step,
            name=name,
            course_hash=course_hash,
            revision=PlanRow.revision + 1,
            changed_at=func.now(),
            writer=writer,
            writer_since=head.writer_since if same else head.revision,
        )
    )
    session.flush()
    return _head(session.get_one(PlanRow, head.id, populate_existing=True))


def read_step(session: Session, plan_id: UUID, number: int) -> tuple[dict[str, Any], str] | None:
    """Return body and course of one step, or None where there is no such step."""
    found = session.execute(
        select(StepRow.body, StepRow.course_hash).where(StepRow.plan_id == plan_id, StepRow.number == number)
    ).one_or_none()
    return None if found is None else (found.body, found.course_hash)


def delete_plan(session: Session, plan_id: UUID) -> PlanHead:
    """Take a plan off the list; it waits `DAYS_KEPT` days and is gone then, with its history and its positions."""
    row = _plan_row(session, plan_id, lock=True)
    row.deleted_at = func.now()
    drop_old_plans(session)
    session.flush()
    return _head(session.get_one(PlanRow, plan_id, populate_existing=True))


def drop_old_plans(session: Session) -> None:
    """Let those plans go for good that have waited long enough."""
    old = func.now() - timedelta(days=DAYS_KEPT)
    session.execute(delete(PlanRow).where(PlanRow.deleted_at < old))
    _drop_lone_courses(session)


def forget_plan(session: Session, plan_id: UUID) -> str:
    """Delete a plan for good, with its history and what no other plan stands on; return its name."""
    row = _plan_row(session, plan_id, lock=True)
    session.delete(row)
    session.flush()
    _drop_lone_courses(session)
    return row.name


def _drop_lone_courses(session: Session) -> None:
    """Delete recorded positions on which no plan and no step of a history stands any more."""
    stands = (
        exists().where(PlanRow.course_hash == CourseRow.hash),
        exists().where(StepRow.course_hash == CourseRow.hash),
    )
    session.execute(delete(CourseRow).where(*(~on_it for on_it in stands)))


def restore_plan(session: Session, plan_id: UUID) -> PlanHead:
    """Put a plan back on the list."""
    row = _plan_row(session, plan_id, lock=True)
    row.deleted_at = None
    session.flush()
    return _head(row)
