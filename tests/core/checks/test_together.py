"""Checks of how things ride together, each provoked and mended by one move."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from stonechat.core.kit.item import HOME, Item
from stonechat.core.load.judge import judge
from stonechat.core.load.together import RULES
from stonechat.core.load.together.rule import Riding, Rule
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.evaluate import evaluate, with_places
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan, Variant

Change = Callable[[Variant], Variant]


def found(plan: Plan, code: str, change: Change = lambda variant: variant) -> list[Finding]:
    changed = plan.with_variant(change(plan.variants[0]))
    return [f for f in evaluate(changed, "a").findings if f.code == code and f.state != "fine"]


def moved(**places: str) -> Change:
    return lambda variant: with_places(variant, {key.replace("_", "-"): place for key, place in places.items()})


def bag(key: str, **changes: object) -> Change:
    return lambda v: replace(v, carriers=tuple(replace(c, **changes) if c.id == key else c for c in v.carriers))


def warm(plan: Plan) -> Plan:
    days = tuple(replace(day, temp_low=14.0, temp_high=26.0) for day in plan.line.weather.days)
    return replace(plan, line=replace(plan.line, weather=replace(plan.line.weather, days=days)))


@pytest.mark.parametrize(
    ("code", "provoke", "words"),
    [
        ("puncture", moved(plug_kit="seat"), "12 s to open"),
        ("fragile", moved(reading_glasses="tool"), "nothing soft between them"),
        ("frost", moved(power_bank_10_ah="seat"), "out in the cold"),
    ],
)
def test_a_warning_comes_with_its_cause(demo: Plan, code: str, provoke: Change, words: str) -> None:
    assert any(words in f.sentence and f.state == "tight" for f in found(demo, code, provoke))


def test_a_first_light_in_a_bag_has_its_spare_elsewhere(demo: Plan) -> None:
    # on the bars it is in no bag, and apart from any spare
    both = moved(front_light="top-front", helmet_light="top-front")
    assert not any(finding.subject == "helmet-light" for finding in found(demo, "apart", both))
    items = tuple(replace(item, fixed="") if item.id == "front-light" else item for item in demo.items)
    packed = [f for f in found(replace(demo, items=items), "apart", both) if f.subject == "helmet-light"]
    assert any("what takes one takes both" in finding.sentence for finding in packed)


def test_a_plug_in_the_frame_bag_is_at_hand(demo: Plan) -> None:
    assert found(demo, "puncture") == []


def test_glass_among_clothes_or_in_a_pouch_is_padded(demo: Plan) -> None:
    assert not any(f.subject == "reading-glasses" for f in found(demo, "fragile", moved(reading_glasses="seat")))
    items = tuple(replace(i, container="wash-pouch") if i.id == "reading-glasses" else i for i in demo.items)
    pouched = replace(demo, items=items)
    assert not any(f.subject == "reading-glasses" for f in found(pouched, "fragile", moved(wash_pouch="tool")))


def test_spares_in_a_bag_of_their_own_are_apart(demo: Plan) -> None:
    apart = moved(phone="pouch", paper_notes="bib", helmet_light="seat")
    assert found(demo, "apart", apart) == []


def test_without_frost_nothing_freezes(demo: Plan) -> None:
    assert found(warm(demo), "frost") == []


def test_the_sleeping_kit_in_four_bags_is_scattered(demo: Plan) -> None:
    four = moved(quilt_comfort_3_c="bar", bivvy_bag="pouch", inflatable_mat="seat", sleep_socks="frame")
    assert found(demo, "camp", four) and found(demo, "camp") == []


def test_what_comes_off_in_one_grip_is_no_round(demo: Plan) -> None:
    before = found(demo, "indoors")
    assert before and "3 bags" in before[0].sentence
    one, other = (bag(key, quick_off=True) for key in ("top-front", "top-rear"))
    assert "2 bags" in found(demo, "indoors", one)[0].sentence
    assert found(demo, "indoors", lambda variant: other(one(variant))) == []


def test_a_thing_that_no_race_hangs_on_may_ride_outside_with_a_warning(demo: Plan) -> None:
    loose = found(demo, "loss", lambda v: bag("pouch", loss="high")(v))
    states = {f.subject: f.state for f in loose}
    assert states and all(
        state == ("broken" if next(i for i in demo.items if i.id == key).need == "must" else "tight")
        for key, state in states.items()
    )


_JOBS = ("plug", "front_light", "spare_light", "power_store", "treat", "pay", "call", "power_plug", "navigate")


@st.composite
def loads(draw: st.DrawFn, plan: Plan) -> Plan:
    """The demo's plan with jobs, needs and places drawn anew, and bags that lose, freeze or come off."""

    def drawn(item: Item) -> Item:
        return replace(
            item,
            roles=frozenset(draw(st.sets(st.sampled_from(_JOBS), max_size=1))),
            fragile=draw(st.sampled_from([False, False, True])),
            leaks=draw(st.sampled_from([False, False, False, True])),
            need=draw(st.sampled_from(["maybe", "want", "must"])),
            category=draw(st.sampled_from(["tools", "clothes", "sleep", "power", "other"])),
        )

    variant = plan.variants[0]
    chosen = frozenset(
        draw(st.sets(st.sampled_from([i.id for i in plan.items if not i.worn]), min_size=4, max_size=14))
    )
    items = tuple(drawn(item) if item.id in chosen else item for item in plan.items)
    carriers = tuple(
        replace(c, loss=draw(st.sampled_from(["low", "high"])), freezes=draw(st.sampled_from(["open", "frame"])),
                quick_off=draw(st.booleans()),
                place=draw(st.sampled_from([c.place, "back"])) if "water" in c.takes else c.place)
        for c in variant.carriers
    )  # fmt: skip
    bags = [c.id for c in carriers if c.mounted and "items" in c.takes]
    home = {i.id: HOME for i in items if i.id not in chosen and not i.worn and not i.container}
    places = {**variant.places, **home, **{key: draw(st.sampled_from(bags)) for key in chosen}}
    changed = replace(variant, carriers=carriers, places=places, joins={}, posts={})
    return replace(plan, items=items, variants=(changed,))


@settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))
@given(data=st.data())
def test_what_a_packing_does_not_keep_is_what_the_checks_find(demo: Plan, data: st.DataObject) -> None:
    plan = data.draw(loads(demo))
    variant = plan.variants[0]
    ridden = evaluate(plan, variant.id).ridden
    verdict = judge(packing_problem(plan, variant, ridden), ridden.kit.places)
    riding, heaviest = ridden.riding, int(np.argmax(ridden.provisions.food.leaving))
    packed = replace(riding, loads=(riding.loads[heaviest],))

    def not_fine(at: Riding) -> set[str]:
        said = [f for kind in RULES if kind.is_check for f in kind.findings(of_kind(kind, at), at)]
        return {f.code for f in said if f.state != "fine"}

    unkept = {rule.code for rule in verdict.unkept if rule.is_check}
    assert unkept == not_fine(packed)
    assert unkept <= not_fine(riding) <= {f.code for f in evaluate(plan, variant.id).findings if f.state != "fine"}


def of_kind(kind: type[Rule], riding: Riding) -> list[Rule]:
    return [rule for rule in riding.rules if isinstance(rule, kind)]


def test_things_that_break_one_rule_are_one_line(demo: Plan) -> None:
    among_tools = found(demo, "clean", moved(sleep_socks="tool", spare_socks="tool", phone="tool"))
    assert len(among_tools) == 1 and among_tools[0].title.endswith("and 2 more")
    assert "The same holds for" in among_tools[0].sentence and among_tools[0].sentence.count("socks") >= 1
