"""What a multitool may do is asked where an answer lacks it, and is no lack once it is told."""

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.mend.failures import FAILURES
from stonechat.core.mend.odds import Help, aboard_of, outcomes
from stonechat.core.mend.report import FailureLine, doing, may_do


def line_of(failure: str, *items: Item) -> FailureLine:
    told, aboard = FAILURES[failure], aboard_of(items)
    help_ = Help(reached=0.0, minutes=0.0)
    found = outcomes({failure: 0.1}, {failure: told}, aboard, {failure: help_})
    lacking = tuple(aboard.lacking(answer) for answer in told.answers)
    return FailureLine(failure=told, outcome=found[failure], help=help_, lacking=lacking)


def tool(**own: object) -> Item:
    return Item(id="m", name="multitool", kind="multi_tool", mass=0.14, volume=0.0, **own)  # type: ignore[arg-type]


@pytest.mark.parametrize(("failure", "word"), [("chain", "chain_tool"), ("spoke", "t:spoke")])
def test_what_a_tool_may_do_is_asked_and_taken(failure: str, word: str) -> None:
    before = line_of(failure, tool())
    assert may_do(before, [tool()]) == ((tool(), word),) and not before.answers
    after = line_of(failure, doing(tool(), word))
    assert may_do(after, [doing(tool(), word)]) == () and after.answers
    assert after.outcome.unserved < before.outcome.unserved


def test_nobody_is_asked_without_a_multitool_or_where_nothing_lacks_it() -> None:
    pump = Item(id="p", name="pump", kind="pump", mass=0.1, volume=0.0)
    assert may_do(line_of("chain", pump), [pump]) == ()
    assert may_do(line_of("thorn", tool()), [tool()]) == ()
