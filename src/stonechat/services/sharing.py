"""Links by which somebody may look at a variant: random, read-only, taken back at any time."""

import secrets
from uuid import UUID

from stonechat.db import shares
from stonechat.db.shares import Share
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace

MOST_SHARES = 20  # links of one plan
_BYTES = 24  # of chance in a token


def make_share(workspace: Workspace, opened: OpenPlan, variant_id: str) -> str:
    """Make a link to a variant and return its token."""
    opened.plan.variant(variant_id)
    token = secrets.token_urlsafe(_BYTES)
    with workspace.store.transaction() as session:
        if shares.count_shares(session, opened.id) >= MOST_SHARES:
            raise InvalidInput(f"A plan has {MOST_SHARES} links at most. Take one back first.")
        shares.add_share(session, token=token, plan_id=opened.id, variant_id=variant_id)
    return token


def shares_of(workspace: Workspace, plan_id: UUID, variant_id: str) -> tuple[Share, ...]:
    """Return the links to a variant."""
    with workspace.store.transaction() as session:
        return shares.shares_of(session, plan_id, variant_id)


def take_back(workspace: Workspace, plan_id: UUID, token: str) -> None:
    """Take a link back."""
    with workspace.store.transaction() as session:
        if not shares.drop_share(session, token=token, plan_id=plan_id):
            raise NotFound("That link was taken back already.", subject=token)


def shared_plan(workspace: Workspace, token: str) -> tuple[OpenPlan, str]:
    """Return the plan and variant that a link shows, as they stand now."""
    gone = NotFound("There is nothing under this link. It was taken back, or it is not whole.", subject="link")
    with workspace.store.transaction() as session:
        share = shares.read_share(session, token[:200])
    if share is None:
        raise gone
    try:
        opened = open_plan(workspace, share.plan_id)
        opened.plan.variant(share.variant_id)
    except NotFound:
        raise gone from None
    return opened, share.variant_id
