"""What the rider has put in: all of it given out as files, forgotten in part, or deleted for good."""

import io
import zipfile
from dataclasses import dataclass
from uuid import UUID

from stonechat.db import custody, plans
from stonechat.errors import InvalidInput, StonechatError
from stonechat.formats.kit_csv import write_kit_rows
from stonechat.services import exchange
from stonechat.services.evaluation import cleaned_profile
from stonechat.services.history import OpenPlan, opened_of
from stonechat.services.kept import forget_all
from stonechat.services.kit.shelf import shelf_items
from stonechat.services.workspace import Workspace

WORD = "delete"  # to be typed by whoever means it
_LONGEST_STEM = 60

_ABOUT = """Everything that Stonechat holds of yours, as files.

plans/    each plan three times: as a document that Stonechat reads again (json, with all its variants), its
          course and stops for other programs (gpx), its kit as a table (csv)
deleted/  plans that were deleted and can still be had back
shelf.csv the things on your shelf

Not in here: the undo history of each plan. A backup holds that too: stonechat backup FILE
"""


@dataclass(frozen=True, kw_only=True)
class Holdings:
    """How much is held."""

    plans: int
    deleted: int
    things: int
    bytes: int


def holdings(workspace: Workspace) -> Holdings:
    """Return how much is held, the demo aside."""
    with workspace.store.transaction() as session:
        own = [head for head in plans.list_plans(session) if not head.demo]
        return Holdings(
            plans=len(own),
            deleted=len(plans.deleted_plans(session)),
            things=custody.things(session),
            bytes=custody.database_bytes(session),
        )


def everything_as_files(workspace: Workspace) -> bytes:
    """Return all plans, those that wait to be gone too, and the shelf, as one ZIP file."""
    held, taken = io.BytesIO(), set[str]()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("README.txt", _ABOUT)
        archive.writestr("shelf.csv", write_kit_rows(shelf_items(workspace)))
        with workspace.store.transaction() as session:
            heads = (*plans.list_plans(session), *plans.deleted_plans(session))
        for head in heads:
            with workspace.store.transaction() as session:
                opened = opened_of(session, plans.read_plan(session, head.id, deleted=True))
            stem = _stem(("deleted/" if head.deleted_at else "plans/") + _plain(head.name), taken)
            for name, data in _files_of(opened):
                archive.writestr(f"{stem}{name}", data)
    return held.getvalue()


def _files_of(opened: OpenPlan) -> list[tuple[str, bytes]]:
    files = [(".json", exchange.export_json(opened)), ("-kit.csv", exchange.export_kit(opened))]
    try:
        profile = cleaned_profile(opened.plan, opened.course_hash)
        files.append((".gpx", exchange.export_gpx(opened, profile)))
    except StonechatError as exc:  # the document above holds the course all the same
        files.append(("-no-gpx.txt", exc.message.encode()))
    return files


def _plain(name: str) -> str:
    kept = "".join(c if c.isalnum() or c in " -_" else "-" for c in name).strip()
    return kept[:_LONGEST_STEM] or "plan"


def _stem(wanted: str, taken: set[str]) -> str:
    number, stem = 1, wanted
    while stem.lower() in taken:
        number += 1
        stem = f"{wanted} {number}"
    taken.add(stem.lower())
    return stem


def forget_plan(workspace: Workspace, plan_id: UUID) -> str:
    """Delete a plan for good, and its recorded positions where no other plan stands on them; return its name."""
    with workspace.store.transaction() as session:
        name = plans.forget_plan(session, plan_id)
    forget_all()
    return name


def delete_everything(workspace: Workspace, word: str) -> None:
    """Delete every plan, the shelf and every file that waits, for good; `word` tells that it is meant."""
    if word.strip().lower() != WORD:
        raise InvalidInput(f"Nothing was deleted. Type the word {WORD} into the field to say that you mean it.")
    with workspace.store.transaction() as session:
        custody.delete_everything(session)
    forget_all()
