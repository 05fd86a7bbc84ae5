"""What the Load room shows."""

from dataclasses import dataclass

from stonechat.core.kit.bands import mass_band
from stonechat.core.kit.containers import holder_of, units_to_pack
from stonechat.core.kit.item import HOME, Item
from stonechat.core.ledger.price import price_of
from stonechat.core.load.balance import Balance, Bands
from stonechat.core.load.moves import MoveOption
from stonechat.core.rig.carrier import ACCESS_NAMES
from stonechat.render.drawings.rig_side import STATE_WORDS, RigScene, carrier_letters, carrier_state
from stonechat.services.load.places import best_places
from stonechat.web.contexts.load.inside import inside_view
from stonechat.web.contexts.load.more import balance_view, checks_view, prices_view, starts_view, why_view
from stonechat.web.contexts.load.pack import PackView, WishesView, pack_view, whatif_view, wishes_view
from stonechat.web.contexts.rig import leg_name, scene_of
from stonechat.web.contexts.tabs import Part, TabbedView, tabbed
from stonechat.web.desk import Desk


@dataclass(frozen=True, kw_only=True)
class LoadItem:
    """A thing in the list of its place."""

    item: Item
    minutes: float  # min, weight and placing
    pinned: bool
    access: str
    inside: str  # id of the pouch that holds it; it moves with that
    worn: bool  # whether the rider wears it all along this leg


@dataclass(frozen=True, kw_only=True)
class LoadPlace:
    """A carrier with what is in it."""

    id: str
    name: str
    letter: str
    state: str
    words: str
    volume: float  # m³ of things and food
    capacity: float  # m³
    mass: float  # kg
    limit: float  # kg
    water: float  # l
    food: float  # m³
    takes_things: bool
    items: tuple[LoadItem, ...]
    all_pinned: bool
    empty_address: str
    pin_address: str


@dataclass(frozen=True, kw_only=True)
class LooseItem:
    """A thing without a place."""

    item: Item
    access: str
    best: MoveOption | None
    best_name: str


@dataclass(frozen=True, kw_only=True)
class BikeView:
    """The bike with its places."""

    scene: RigScene
    leg_name: str
    per_kg: float  # min/kg on this leg
    per_drag: float  # min per 100 cm² on this leg
    mass: float  # kg
    band: float  # kg, of what is not weighed yet
    balance: Balance
    sway: float
    bands: Bands
    steering: float
    places: tuple[LoadPlace, ...]
    loose: tuple[LooseItem, ...]
    at_home: tuple[Item, ...]
    outside: tuple[Item, ...]  # worn, or fixed on bike and helmet
    since: tuple[str, str] | None  # stop that the leg begins at, from which moves may hold, and its name
    move_address: str
    pin_address: str
    options_address: str
    swap_address: str
    wear_address: str
    food: tuple[tuple[str, float, bool], ...]  # where a packing put it: carrier, m³, and if any gets there on some leg
    food_address: str
    pack: PackView
    wishes: WishesView
    home: str
    focus: str  # id of the thing or carrier that a check speaks of


def load_view(desk: Desk) -> TabbedView:
    """Return what the Load room shows."""
    return tabbed(desk, "load", _PARTS)


def bike_view(desk: Desk) -> BikeView:
    """Return the bike with what rides where."""
    ridden, variant = desk.evaluation.ridden, desk.variant
    leg, load = ridden.timetable.legs[desk.leg], ridden.film[desk.leg]
    best = best_places(desk.opened, desk.variant_id) if ridden.unplaced else {}
    names = {carrier.id: carrier.name for carrier in ridden.rig.carriers}
    fed = {state.carrier.id for load in ridden.film for state in load.carriers if state.food > 0.0}
    return BikeView(
        scene=scene_of(desk),
        leg_name=leg_name(desk),
        per_kg=leg.minutes_per_kg,
        per_drag=leg.minutes_per_drag,
        mass=load.mass,
        band=mass_band(ridden.kit.items),
        balance=load.balance,
        sway=load.sway,
        bands=ridden.rig.bands,
        steering=load.steering,
        places=_places(desk),
        food=tuple(
            (c.name, variant.food_in[c.id], c.id in fed) for c in ridden.rig.carriers if c.id in variant.food_in
        ),
        food_address=desk.do("food"),
        loose=tuple(
            _loose(item, best.get(item.id), names)
            for item in ridden.unplaced
            if holder_of(item, {other.id: other for other in ridden.kit.items}) is None
        ),
        at_home=tuple(item for item in units_to_pack(desk.opened.plan.items) if variant.places.get(item.id) == HOME),
        outside=tuple(item for item in ridden.kit.items if not item.packed),
        since=_since(desk),
        move_address=desk.do("move"),
        pin_address=desk.do("pin"),
        options_address=desk.do("options"),
        swap_address=desk.do("swap"),
        wear_address=desk.do("wear"),
        pack=pack_view(desk),
        wishes=wishes_view(desk),
        home=HOME,
        focus=desk.look.open,
    )


def _since(desk: Desk) -> tuple[str, str] | None:
    visit = desk.evaluation.ridden.timetable.visits[desk.leg - 1] if desk.leg else None
    return (visit.stop.id, visit.stop.name) if visit and visit.stop else None


def _loose(item: Item, best: MoveOption | None, names: dict[str, str]) -> LooseItem:
    return LooseItem(
        item=item,
        access=ACCESS_NAMES[item.access],
        best=best,
        best_name=names[best.carrier_id] if best else "fits nowhere as it is",
    )


def _load_item(desk: Desk, item: Item, inside: str, *, worn: bool) -> LoadItem:
    ridden = desk.evaluation.ridden
    price = price_of(item, ridden)
    return LoadItem(
        item=item,
        minutes=price.total,
        pinned=item.id in desk.variant.pins,
        access=ACCESS_NAMES[item.access],
        inside=inside,
        worn=worn,
    )


def _places(desk: Desk) -> tuple[LoadPlace, ...]:
    ridden = desk.evaluation.ridden
    letters = carrier_letters(desk.variant.carriers)
    by_id = {item.id: item for item in ridden.kit.items}
    holding = {item.id: holder_of(item, by_id) for item in ridden.kit.items}
    holders = {key: holder.id for key, holder in holding.items() if holder is not None}
    places = []
    for state in ridden.film[desk.leg].carriers:
        carrier = state.carrier
        verdict = carrier_state(state)
        items = tuple(
            _load_item(desk, item, holders.get(item.id, ""), worn=item.id in state.worn) for item in state.items
        )
        places.append(
            LoadPlace(
                id=carrier.id,
                name=carrier.name,
                letter=letters.get(carrier.id, ""),
                state=verdict,
                words=STATE_WORDS[verdict],
                volume=state.volume,
                capacity=carrier.capacity,
                mass=state.mass,
                limit=carrier.load_limit,
                water=state.water,
                food=state.food,
                takes_things="items" in carrier.takes,
                items=_with_contents(items),
                all_pinned=bool(items) and all(entry.pinned for entry in items if not entry.inside),
                empty_address=desk.do("carriers", carrier.id, "empty"),
                pin_address=desk.do("carriers", carrier.id, "pin"),
            )
        )
    return tuple(sorted(places, key=lambda place: not place.takes_things))


def _with_contents(items: tuple[LoadItem, ...]) -> tuple[LoadItem, ...]:
    """Return things dearest first, each pouch followed by what it holds."""
    ordered: list[LoadItem] = []
    for entry in sorted((e for e in items if not e.inside), key=lambda e: -e.minutes):
        ordered.append(entry)
        ordered += sorted((e for e in items if e.inside == entry.item.id), key=lambda e: -e.minutes)
    return tuple(ordered)


_PARTS: dict[str, Part] = {
    "bike": ("On the bike", bike_view),
    "prices": ("The price of every move", prices_view),
    "starts": ("Rules of thumb", starts_view),
    "whatif": ("What if", whatif_view),
    "inside": ("Inside the bags", inside_view),
    "balance": ("Balance", balance_view),
    "checks": ("Checks", checks_view),
    "why": ("", why_view),
}
