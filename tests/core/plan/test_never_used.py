"""Things carried again and again for nothing: said with where to buy them, but never of what must be there."""

from dataclasses import replace
from itertools import pairwise

import pytest

from stonechat.core.kit.item import Item, Record
from stonechat.core.ledger.price import price_of
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.never_used import NeverUsed, never_used
from stonechat.core.plan.plan import Plan


def told(plan: Plan) -> dict[str, NeverUsed]:
    return {one.item.id: one for one in never_used(evaluate(plan, "a").ridden)}


def with_records(plan: Plan, record: Record, **changes: object) -> Plan:
    return replace(plan, items=tuple(replace(item, record=record, **changes) for item in plan.items))  # type: ignore[arg-type]


def test_only_what_was_carried_often_and_never_used_is_told(demo: Plan) -> None:
    everything = told(with_records(demo, Record(carried=4)))
    assert len(everything) > 10
    assert told(with_records(demo, Record(carried=4, used=1))) == {} == told(with_records(demo, Record(carried=1)))
    minutes = [one.minutes for one in everything.values()]
    assert minutes == sorted(minutes, reverse=True)
    ridden = evaluate(with_records(demo, Record(carried=4)), "a").ridden
    for one in everything.values():
        assert one.minutes == pytest.approx(price_of(one.item, ridden).total)


def test_what_must_be_there_and_what_stays_at_home_is_not_told(demo: Plan) -> None:
    assert told(with_records(demo, Record(carried=9), need="must")) == {}
    plan = with_records(demo, Record(carried=4))
    variant = plan.variant("a")
    gone = next(iter(told(plan)))
    left = plan.with_variant(replace(variant, places={**variant.places, gone: "home"}))
    assert gone not in told(left)
    assert not any(one.item.worn or "medicine" in one.item.roles for one in told(plan).values())


def test_the_first_seller_and_the_longest_way_between_two_are_those_of_the_course(demo: Plan) -> None:
    lube = Item(
        id="oil", name="chain oil", mass=0.06, volume=6e-5, kind="chain_lube", roles=frozenset({"lube"}),
        record=Record(carried=4),
    )  # fmt: skip
    variant = demo.variant("a")
    bag = variant.bags[0].id
    plan = replace(demo, items=(*demo.items, lube)).with_variant(
        replace(variant, places={**variant.places, "oil": bag})
    )
    one = told(plan)["oil"]
    shops = sorted((s.distance / 1e3, s.name) for s in demo.line.stops if "bike_shop" in s.offers and s.used)
    length = evaluate(plan, "a").ridden.way.profile.length / 1e3
    ends = [0.0, *(km for km, _ in shops), length]
    assert (one.sold_km, one.sold_at) == shops[0]
    assert one.apart == pytest.approx(max(b - a for a, b in pairwise(ends)))
    assert not one.may_end and any(other.may_end for other in told(with_records(demo, Record(carried=4))).values())
    none = replace(plan, line=replace(plan.line, stops=()))
    assert told(none)["oil"].sold_at == ""
