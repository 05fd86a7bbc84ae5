"""The tables.

A plan is one aggregate: it is read and written whole. Its recorded course, large and never changed, is a row of its
own, shared by content. Every change is a step with the whole body after it and the course it stands on, so undo and
redo are moves of a pointer and outlive a restart.
"""

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import CheckConstraint, DateTime, ForeignKey, Index, LargeBinary, Text, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from stonechat.db.base import Base

_NOW = func.now()


class CourseRow(Base):
    """A recorded course, known by the hash of its points; arrays are zlib-packed little-endian doubles."""

    __tablename__ = "course"
    __table_args__ = (CheckConstraint("points >= 2", name="points"),)

    hash: Mapped[str] = mapped_column(Text, primary_key=True)
    points: Mapped[int]
    latitudes_deg: Mapped[bytes] = mapped_column(LargeBinary)
    longitudes_deg: Mapped[bytes] = mapped_column(LargeBinary)
    heights_m: Mapped[bytes] = mapped_column(LargeBinary)


class PlanRow(Base):
    """A plan: which course, which step it stands at, and a counter of writes that guards against lost updates."""

    __tablename__ = "plan"
    __table_args__ = (
        CheckConstraint("revision >= 1", name="revision"),
        CheckConstraint("step >= 1", name="step"),
        CheckConstraint("length(name) between 1 and 80", name="name"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True, server_default=text("gen_random_uuid()"))
    name: Mapped[str] = mapped_column(Text)
    course_hash: Mapped[str] = mapped_column(ForeignKey("course.hash"), index=True)
    revision: Mapped[int] = mapped_column(server_default=text("1"))
    step: Mapped[int] = mapped_column(server_default=text("1"))
    demo: Mapped[bool] = mapped_column(server_default=text("false"))
    writer: Mapped[str] = mapped_column(Text, server_default=text("''"))  # page that wrote last
    writer_since: Mapped[int] = mapped_column(server_default=text("1"))  # revision from which on only it wrote
    deleted_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))  # then it waits a while to go
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW)
    changed_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW)


class StepRow(Base):
    """One step of a plan's history: what was done, and the whole body after it."""

    __tablename__ = "plan_step"
    __table_args__ = (CheckConstraint("jsonb_typeof(body) = 'object'", name="body"),)

    plan_id: Mapped[UUID] = mapped_column(ForeignKey("plan.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    course_hash: Mapped[str] = mapped_column(ForeignKey("course.hash"), index=True)
    label: Mapped[str] = mapped_column(Text)
    body: Mapped[dict[str, Any]] = mapped_column(JSONB)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW)


class UploadRow(Base):
    """A file that waits to be looked over."""

    __tablename__ = "upload"

    id: Mapped[UUID] = mapped_column(primary_key=True, server_default=text("gen_random_uuid()"))
    name: Mapped[str] = mapped_column(Text)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW)


class RunRow(Base):
    """One run of work in the background; of a family at most one waits or runs for a variant."""

    __tablename__ = "run"
    __table_args__ = (
        CheckConstraint("state in ('waiting', 'running', 'done', 'failed')", name="state"),
        Index(
            "uq_run_active",
            "plan_id",
            "variant_id",
            "family",
            unique=True,
            postgresql_where=text("state in ('waiting', 'running')"),
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    plan_id: Mapped[UUID] = mapped_column(ForeignKey("plan.id", ondelete="CASCADE"))
    variant_id: Mapped[str] = mapped_column(Text)
    revision: Mapped[int]
    family: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    request: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default=text("'{}'::jsonb"))
    state: Mapped[str] = mapped_column(Text, server_default=text("'waiting'"))
    seen: Mapped[bool] = mapped_column(server_default=text("false"))  # whether its end was shown
    stop_wanted: Mapped[bool] = mapped_column(server_default=text("false"))
    attempts: Mapped[int] = mapped_column(server_default=text("0"))  # how often a worker began it
    progress: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default=text("'{}'::jsonb"))
    result: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW)
    heard_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW)


class CommitMarkRow(Base):
    """A mark that a transaction which wrote something left; read when the answer to its commit was lost."""

    __tablename__ = "commit_mark"

    id: Mapped[UUID] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW, index=True)


class ShelfRow(Base):
    """A thing that the rider owns, as a part of the plan document; what the demo brought lies on a shelf apart."""

    __tablename__ = "shelf_item"
    __table_args__ = (CheckConstraint("jsonb_typeof(body) = 'object'", name="body"),)

    demo: Mapped[bool] = mapped_column(primary_key=True, server_default=text("false"))
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    body: Mapped[dict[str, Any]] = mapped_column(JSONB)
    changed_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW)


class ShareRow(Base):
    """A link by which somebody may look at a variant as it stands, until it is taken back."""

    __tablename__ = "share"
    __table_args__ = (CheckConstraint("length(token) >= 32", name="token"),)

    token: Mapped[str] = mapped_column(Text, primary_key=True)
    plan_id: Mapped[UUID] = mapped_column(ForeignKey("plan.id", ondelete="CASCADE"), index=True)
    variant_id: Mapped[str] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=_NOW)
