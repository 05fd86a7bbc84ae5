"""Reading plans, and changing them: every change is one stored step that can be undone."""

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any
from uuid import UUID

from sqlalchemy.orm import Session

from stonechat.core.line.track import Track
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.scenario import carried_items
from stonechat.db import plans
from stonechat.errors import Clash, NotFound
from stonechat.formats.plan_json import PlanBody, upgraded, validated
from stonechat.services.kept import Kept
from stonechat.services.kit.shelf import keep_items
from stonechat.services.workspace import Workspace

_TRACKS: Kept[Track] = Kept(16)  # recorded courses by hash; they never change
_PLANS: Kept[Plan] = Kept(64)  # plans by what is in them


class Revision(int):
    """The revision that a change was made from, and the page it was made on (a name of its own for each load)."""

    page: str

    def __new__(cls, number: int, page: str = "") -> "Revision":
        made = super().__new__(cls, number)
        made.page = page[:40]
        return made


@dataclass(frozen=True, kw_only=True)
class OpenPlan:
    """A plan as it stands, with what undo and redo would do."""

    id: UUID
    revision: int
    plan: Plan
    course_hash: str
    content: str  # hash of all that is in the plan
    undo_label: str | None
    redo_label: str | None
    demo: bool = False


def _track(session: Session, course_hash: str) -> Track:
    return _TRACKS.of(course_hash, lambda: plans.read_track(session, course_hash))


def _plan(session: Session, body: dict[str, Any], course_hash: str) -> tuple[Plan, str]:
    """Return the plan of a stored body, and the hash of what is in it."""
    content = _content(body, course_hash)
    plan = _PLANS.of(content, lambda: validated(PlanBody, upgraded(body)).core(_track(session, course_hash)))
    return plan, content


def _content(body: dict[str, Any], course_hash: str) -> str:
    """Return the hash of all that is in a plan."""
    return hashlib.sha256(json.dumps([course_hash, body], sort_keys=True).encode()).hexdigest()


def opened_of(session: Session, stored: plans.StoredPlan) -> OpenPlan:
    """Return a stored plan, opened."""
    plan, content = _with_partner(session, *_plan(session, stored.body, stored.head.course_hash))
    return OpenPlan(
        id=stored.head.id,
        revision=stored.head.revision,
        plan=plan,
        course_hash=stored.head.course_hash,
        content=content,
        undo_label=stored.undo_label,
        redo_label=stored.redo_label,
        demo=stored.head.demo,
    )


def _with_partner(session: Session, plan: Plan, content: str) -> tuple[Plan, str]:
    """Return a plan with what its partner carries for both, and the hash with that in it; a partner gone is none."""
    try:
        partner = UUID(plan.partner) if plan.partner else None
        stored = plans.read_plan(session, partner) if partner else None
    except (ValueError, NotFound):
        stored = None
    if stored is None:
        return plan, content
    theirs, their_content = _plan(session, stored.body, stored.head.course_hash)
    along = carried_items(theirs, theirs.variants[0])
    relied = tuple(replace(item, id=f"partner-{item.id}") for item in along if item.shared)
    whole = hashlib.sha256(f"{content} {their_content}".encode()).hexdigest()
    return replace(plan, relied=relied), whole


def step_before(workspace: Workspace, opened: OpenPlan) -> OpenPlan | None:
    """Return the plan as it was before its last change, or None at the first step."""
    if opened.undo_label is None:
        return None
    with workspace.store.transaction() as session:
        head = plans.read_head(session, opened.id)
        step = plans.read_step(session, opened.id, head.step - 1)
        if step is None:
            return None
        body, course_hash = step
        plan, content = _plan(session, body, course_hash)
    return replace(opened, plan=plan, course_hash=course_hash, content=content, undo_label=None, redo_label=None)


def open_plan(workspace: Workspace, plan_id: UUID) -> OpenPlan:
    """Return a plan as it stands."""
    with workspace.store.transaction() as session:
        return opened_of(session, plans.read_plan(session, plan_id))


def store_new(session: Session, plan: Plan, label: str, *, demo: bool = False) -> UUID:
    """Store a plan that is new, and return its id."""
    course_hash = plans.keep_track(session, plan.line.track)
    body = PlanBody.of(plan).model_dump(mode="json")
    return plans.add_plan(session, name=plan.name, course_hash=course_hash, body=body, label=label, demo=demo)


def change_plan(
    workspace: Workspace,
    plan_id: UUID,
    *,
    revision: int,
    label: str,
    change: Callable[[Plan], Plan],
) -> OpenPlan:
    """Change a plan in one transaction; refused where it was changed elsewhere since `revision` was read.

    Changes that one page sends in quick succession are all taken: a change works on the plan as it stands, and what
    was changed in between came from the same hands. A change that leaves the plan equal makes no step.
    """
    with workspace.store.transaction() as session:
        stored = plans.read_plan(session, plan_id, lock=True)
        _refuse_stale(stored, revision)
        opened = opened_of(session, stored)
        return _store(session, stored, opened, change(opened.plan), label=label, writer=_page_of(revision))


def change_two(
    workspace: Workspace,
    first: tuple[UUID, int, str],
    second: tuple[UUID, int, str],
    change: Callable[[Plan, Plan], tuple[Plan, Plan]],
) -> OpenPlan:
    """Change two plans in one transaction, each given by id, revision and label; the first comes back."""
    ids = {first[0]: first, second[0]: second}
    with workspace.store.transaction() as session:
        stored = {key: plans.read_plan(session, key, lock=True) for key in sorted(ids)}  # always in one order
        for key, (_, revision, _) in ids.items():
            _refuse_stale(stored[key], revision)
        opened = {key: opened_of(session, entry) for key, entry in stored.items()}
        changed = dict(zip((first[0], second[0]), change(opened[first[0]].plan, opened[second[0]].plan), strict=True))
        for key in (second[0], first[0]):
            _, revision, label = ids[key]
            writer = _page_of(revision)
            _store(session, stored[key], opened[key], changed[key], label=label, writer=writer)
        return opened_of(session, plans.read_plan(session, first[0]))


def _store(
    session: Session, stored: plans.StoredPlan, opened: OpenPlan, changed: Plan, *, label: str, writer: str
) -> OpenPlan:
    """Keep a changed plan as one step; one that is equal makes none."""
    same_course = changed.line.track is opened.plan.line.track
    if same_course and changed == opened.plan:
        return opened
    course_hash = opened.course_hash if same_course else plans.keep_track(session, changed.line.track)
    body = PlanBody.of(changed).model_dump(mode="json")
    keep_items(session, changed.items, before=opened.plan.items, demo=opened.demo)
    head = plans.add_step(
        session,
        stored.head,
        name=changed.name,
        course_hash=course_hash,
        body=body,
        label=label[:200],
        writer=writer,
    )
    alone = _content(body, head.course_hash)
    plan, content = _with_partner(session, _PLANS.put(alone, replace(changed, relied=())), alone)
    return replace(
        opened,
        revision=head.revision,
        plan=plan,
        course_hash=course_hash,
        content=content,
        undo_label=label[:200],
        redo_label=None,
    )


def _page_of(revision: int) -> str:
    return revision.page if isinstance(revision, Revision) else ""


def _refuse_stale(stored: plans.StoredPlan, revision: int) -> None:
    head, page = stored.head, _page_of(revision)
    own = bool(page) and head.writer == page and head.writer_since <= revision <= head.revision
    if head.revision != revision and not own:
        last = f" The last change was: {stored.undo_label}." if stored.undo_label else ""
        raise Clash(
            f"The plan was changed in another tab or window, so this change was not made.{last} "
            "Load the page again to see it as it is, then make your change.",
            subject=str(stored.head.revision),
        )


def undo(workspace: Workspace, plan_id: UUID, *, revision: int) -> OpenPlan:
    """Go one step back."""
    return _move(workspace, plan_id, revision=revision, by=-1)


def redo(workspace: Workspace, plan_id: UUID, *, revision: int) -> OpenPlan:
    """Go one step forward again."""
    return _move(workspace, plan_id, revision=revision, by=1)


def _move(workspace: Workspace, plan_id: UUID, *, revision: int, by: int) -> OpenPlan:
    with workspace.store.transaction() as session:
        stored = plans.read_plan(session, plan_id, lock=True)
        _refuse_stale(stored, revision)
        step = plans.read_step(session, plan_id, stored.head.step + by)
        if step is None:
            raise Clash("There is nothing to undo." if by < 0 else "There is nothing to redo.")
        body, course_hash = step
        plans.move_to_step(
            session,
            stored.head,
            stored.head.step + by,
            name=str(body["name"]),
            course_hash=course_hash,
            writer=_page_of(revision),
        )
        return opened_of(session, plans.read_plan(session, plan_id))
