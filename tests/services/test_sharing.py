"""Links: random, read-only, gone once taken back, with the plan, or with everything."""

import pytest

from stonechat.errors import InvalidInput, NotFound
from stonechat.services import custody, plans
from stonechat.services.history import OpenPlan
from stonechat.services.sharing import MOST_SHARES, make_share, shared_plan, shares_of, take_back
from stonechat.services.workspace import Workspace


def test_a_link_shows_the_plan_as_it_stands_until_it_is_taken_back(workspace: Workspace, opened: OpenPlan) -> None:
    token, other = (make_share(workspace, opened, "a") for _ in range(2))
    assert token != other and len(token) >= 32
    found, variant_id = shared_plan(workspace, token)
    assert (found.id, variant_id) == (opened.id, "a")
    assert {share.token for share in shares_of(workspace, opened.id, "a")} == {token, other}
    take_back(workspace, opened.id, token)
    for gone in (token, "", "x" * 500, token[:-1]):
        with pytest.raises(NotFound, match="nothing under this link"):
            shared_plan(workspace, gone)
    assert shared_plan(workspace, other)[1] == "a"
    with pytest.raises(NotFound, match="taken back already"):
        take_back(workspace, opened.id, token)


def test_a_plan_has_only_so_many_links(workspace: Workspace, opened: OpenPlan) -> None:
    for _ in range(MOST_SHARES):
        make_share(workspace, opened, "a")
    with pytest.raises(InvalidInput, match="Take one back first"):
        make_share(workspace, opened, "a")


def test_a_link_goes_with_its_plan_and_with_everything(workspace: Workspace, opened: OpenPlan) -> None:
    token = make_share(workspace, opened, "a")
    plans.delete_plan(workspace, opened.id)
    with pytest.raises(NotFound, match="nothing under this link"):
        shared_plan(workspace, token)
    custody.delete_everything(workspace, custody.WORD)
    assert shares_of(workspace, opened.id, "a") == ()
