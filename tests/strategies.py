"""Random things, carriers, packing problems and plans for property tests."""

from dataclasses import replace

import numpy as np
from hypothesis import strategies as st

from stonechat.core.kit.facts import FACTS
from stonechat.core.kit.item import CATEGORIES, NEEDS, Item, Pouch, Reaches
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.kit.reach import Often
from stonechat.core.load.eating import fetching
from stonechat.core.load.problem import Choices, Loss, PackingProblem, Prices, Provisions, build_problem
from stonechat.core.load.together.rule import Conditions
from stonechat.core.load.together.ways import WAYS
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import ACCESS_RANK, Carrier
from stonechat.core.rig.geometry import bike_position, rider_position
from stonechat.core.rig.spots import SPOTS
from stonechat.text import clean_text

names = (
    st.text(st.characters(codec="utf-8", exclude_categories=("C",)), min_size=1, max_size=20)
    .map(clean_text)
    .filter(bool)
)


def grams(low: int, high: int) -> st.SearchStrategy[float]:
    """Masses in kg, whole grams."""
    return st.integers(low, high).map(lambda g: g / 1000)


@st.composite
def items(draw: st.DrawFn, key: str) -> Item:
    """A thing."""
    return Item(
        id=key,
        name=draw(names),
        category=draw(st.sampled_from(sorted(CATEGORIES))),
        mass=draw(grams(1, 900)),
        volume=draw(st.integers(0, 3_000)) / 1e6,
        length=draw(st.sampled_from([0.0, 0.0, 0.1, 0.25])),
        quantity=draw(st.integers(1, 3)),
        keep_dry=draw(st.booleans()),
        leaks=draw(st.sampled_from([False, False, True])),
        spoils=draw(st.booleans()),
        access=draw(st.sampled_from(sorted(ACCESS_RANK))),
        reaches=Reaches(per_day=draw(st.integers(0, 80)) / 10),
        need=draw(st.sampled_from(sorted(NEEDS))),
        weighed=draw(st.booleans()),
        note=draw(st.sampled_from(["", "=1+1", "red, small"])),
    )


@st.composite
def owned_items(draw: st.DrawFn, key: str) -> Item:
    """A thing as a rider has it: of a kind or none, worn, fixed or packed, set by hand against what is usual."""
    how = draw(st.sampled_from(["packed", "worn", "fixed", "stowed"]))
    facts = draw(st.sets(st.sampled_from(["kcal", "wh", "lumens"]), max_size=2))
    return replace(
        draw(items(key)),
        name=draw(st.sampled_from(["helmet lamp", "rain jacket", "zorb", "Pumpe", "sun cream", "jersey", "multitool"])),
        kind=draw(st.sampled_from(["", *sorted(KINDS)])),
        worn=how == "worn",
        fixed=draw(st.sampled_from(sorted(SPOTS))) if how in ("fixed", "stowed") else "",
        stowed=how == "stowed",
        fragile=draw(st.booleans()),
        shared=draw(st.booleans()),
        reaches=Reaches(per_day=draw(st.sampled_from([0.0, 0.5])), rain=draw(st.sampled_from([0.0, 2.0]))),
        roles=frozenset(draw(st.sets(st.sampled_from(["plug", "sun", "seen"]), max_size=2))),
        tools=frozenset(draw(st.sets(st.sampled_from(["hex4", "t25"]), max_size=1))),
        facts=tuple((name, 12.5) for name in FACTS if name in facts),
        pouch=draw(st.sampled_from([None, None, Pouch(), Pouch(makes_dry=True)])),
    )


def rounded(item: Item) -> Item:
    """A thing whose figures differ from those written down by no more than their last digits."""
    return replace(item, mass=round(item.mass, 7), volume=round(item.volume, 9), length=round(item.length, 6))


def owned_kits(most: int = 6) -> st.SearchStrategy[tuple[Item, ...]]:
    """Several things as riders have them."""
    return st.integers(0, most).flatmap(lambda n: st.tuples(*(owned_items(f"thing-{k}") for k in range(n))))


def kits(most: int = 12) -> st.SearchStrategy[tuple[Item, ...]]:
    """Several things with ids of their own."""
    return st.integers(0, most).flatmap(lambda n: st.tuples(*(items(f"thing-{k}") for k in range(n))))


CARRIERS = (
    Carrier(id="top", name="top", place="top_tube_front", capacity=0.0012, load_limit=1.2, mass=0.1, longest=0.2,
            access="riding", drag=0.0003),
    Carrier(id="frame", name="frame", place="frame", capacity=0.004, load_limit=3.0, mass=0.2, longest=0.4,
            access="foot", takes=frozenset({"items", "food"})),
    Carrier(id="seat", name="seat", place="seat", capacity=0.008, load_limit=2.6, mass=0.35, longest=0.4,
            open_time=12.0, drag_fill=0.12, sway_lever=0.28, steadiness=1.0),
    Carrier(id="wet", name="wet", place="fork", side="left", capacity=0.003, load_limit=1.5, mass=0.1, longest=0.3,
            dryness="open", access="foot", drag=0.008, takes=frozenset({"items", "food"})),
)  # fmt: skip


@st.composite
def packing_problems(draw: st.DrawFn, most: int = 5) -> PackingProblem:
    """A problem small enough for brute force: 4 carriers, up to `most` things, sometimes food and pins."""
    bike = Bike()
    things = tuple(replace(item, worn=False) for item in draw(kits(most)))
    litres = draw(st.sampled_from([0.0, 0.0, 0.5, 2.0]))
    fixed = ((72.0, *rider_position(bike)), (10.0, *bike_position(bike)))
    pins = {item.id: "frame" for item in things if draw(st.sampled_from([False, False, False, True]))}
    return build_problem(
        items=things,
        carriers=CARRIERS,
        bike=bike,
        prices=Prices(per_kg=25.0, per_drag=10.0, days=float(draw(st.integers(1, 5))), often=Often(wet=0.3)),
        provisions=Provisions(food_mass=litres * 0.5, food_volume=litres / 1000, fixed=fixed),
        pins=pins,
    )


_ROLES = ("plug", "front_light", "spare_light", "power_store", "treat", "pay", "call", "power_plug")


dry_bags = st.sampled_from([0.0, 0.001]).map(lambda room: Pouch(makes_dry=True, room=room))


@st.composite
def choosing_problems(draw: st.DrawFn) -> PackingProblem:
    """A problem small enough for brute force with carriers to mount, things to leave, dry bags and rules."""
    bike = Bike()
    things = []
    for item in draw(kits(4)):
        kind = draw(st.sampled_from(["", "", "chocolate", "power_bank", "contact_lenses", "whistle"]))
        roles = frozenset(draw(st.sets(st.sampled_from(_ROLES), max_size=2)))
        dry_bag = draw(st.sampled_from([False, False, False, True]))
        things.append(
            replace(item, worn=False, roles=roles, kind=kind, fragile=draw(st.booleans()),
                    pouch=draw(dry_bags) if dry_bag else None,
                    group=draw(st.sampled_from(["", "", "set"])))
        )  # fmt: skip
    off = frozenset(draw(st.sets(st.sampled_from(["seat", "wet"]))))
    carriers = tuple(
        replace(c, mounted=c.id not in off, loss="high" if c.id == "wet" else "low",
                freezes={"frame": "frame", "top": "body"}.get(c.id, "open"),
                takes=c.takes - {"food"} if c.id == "wet" else c.takes | {"food"} if c.id == "top" else c.takes)
        for c in CARRIERS
    )  # fmt: skip
    free = frozenset(draw(st.sets(st.sampled_from(["seat", "wet"]))))
    stay = frozenset(t.id for t in things if draw(st.booleans()))
    losses = tuple(
        Loss(name=key, minutes=draw(st.integers(1, 40)) / 2.0, things=frozenset({key}), never_cut=draw(st.booleans()))
        for key in sorted(stay)
        if draw(st.booleans())
    )
    fixed = ((72.0, *rider_position(bike)), (10.0, *bike_position(bike)))
    litres = draw(st.sampled_from([0.0, 0.0, 0.4, 1.5, 3.0]))
    pins = {thing.id: "frame" for thing in things if draw(st.sampled_from([False, False, False, False, True]))}
    return build_problem(
        items=tuple(things),
        carriers=carriers,
        bike=bike,
        prices=Prices(
            per_kg=25.0, per_drag=10.0, days=float(draw(st.integers(1, 5))), hours=draw(st.sampled_from([0.0, 40.0])),
            loose=0.5, often=Often(wet=draw(st.sampled_from([0.0, 0.3])), punctures=0.2),
        ),
        provisions=Provisions(
            fixed=fixed, food_mass=litres * 0.5, food_volume=litres / 1e3,
            water=draw(st.sampled_from([{}, {"wet": 0.7}])), fetching=fetching([litres / 2e3] * 2) if litres else (),
        ),
        pins=pins,
        choices=Choices(
            carriers={key: draw(st.integers(-20, 120)) / 10.0 for key in sorted(free)},
            things={key: draw(st.integers(1, 100)) / 10.0 for key in sorted(stay - set(pins))},
            losses=tuple(loss for loss in losses if not loss.things & set(pins)),
            exclusive=(free,) if len(free) == 2 and draw(st.booleans()) else (),
            twins=(free,) if len(free) == 2 and draw(st.sampled_from([False, False, True])) else (),
        ),
        conditions=Conditions(
            coldest=-2.0, hottest=30.0, groups=True, way=draw(st.sampled_from(sorted(WAYS))),
            frost=draw(st.sampled_from([{}, {-2.0: 0.2}, {-2.0: 3.0}])),
        ),
    )  # fmt: skip


def random_problem(seed: int, count: int) -> PackingProblem:
    """Return a larger problem with the demo's carriers, from a seed."""
    from stonechat.demo.corvane import demo_plan

    random = np.random.default_rng(seed)
    plan = demo_plan()
    chosen = random.choice(len(plan.items), size=count, replace=False)
    things = tuple(plan.items[k] for k in sorted(chosen))
    bike = plan.variants[0].bike
    return build_problem(
        items=things,
        carriers=plan.variants[0].carriers,
        bike=bike,
        prices=Prices(per_kg=25.0, per_drag=10.0, days=4.5),
        provisions=Provisions(
            food_mass=0.6, food_volume=0.0012, fixed=((72.0, *rider_position(bike)), (10.4, *bike_position(bike)))
        ),
        pins={},
    )


def full_problem(seed: int, count: int = 90) -> PackingProblem:
    """Return a problem of full size from a seed: the demo's things with masses, volumes and reaches drawn about theirs.

    16 carriers, all rules of riding together, food; things that have no place in any of them are left out.
    """
    from stonechat.demo.corvane import demo_plan

    random = np.random.default_rng(seed)
    plan, bike = demo_plan(), Bike()
    own = tuple(replace(c, mounted=True) for c in plan.variants[0].carriers)
    more = (
        Carrier(id="vest", name="vest", place="back", capacity=0.003, load_limit=1.4, mass=0.18, longest=0.25,
                access="riding", open_time=2.0, dryness="shower"),
        Carrier(id="fork-roll", name="fork roll", place="fork", side="left", capacity=0.003, load_limit=1.5, mass=0.1,
                longest=0.3, access="foot", open_time=6.0, drag=0.006),
    )  # fmt: skip
    carriers = (*own, *more)[-16:] if len(own) + 2 > 16 else (*own, *more)

    def drawn(item: Item) -> Item:
        mass, volume, reach = random.uniform(0.8, 1.2, 3)
        reaches = replace(item.reaches, per_day=round(item.reaches.per_day * reach, 1))  # as riders type them
        return replace(item, mass=item.mass * mass, volume=item.volume * volume, reaches=reaches)

    chosen = sorted(random.choice(len(plan.items), size=min(count, len(plan.items)), replace=False))
    return build_problem(
        items=tuple(drawn(plan.items[k]) for k in chosen),
        carriers=carriers,
        bike=bike,
        prices=Prices(
            per_kg=25.0,
            per_drag=10.0,
            days=4.5,
            hours=75.0,
            loose=0.4,
            often=Often(wet=0.2, cold=0.8, nights=0.8, punctures=0.2, gloved=0.2),
        ),
        provisions=Provisions(
            food_mass=0.6, food_volume=0.0012, fixed=((72.0, *rider_position(bike)), (10.4, *bike_position(bike)))
        ),
        pins={},
        conditions=Conditions(coldest=-1.0),
    )
