"""What the Kit room shows."""

from collections.abc import Callable
from dataclasses import dataclass

from stonechat.core.kit.along import goes_along
from stonechat.core.kit.bands import mass_band
from stonechat.core.kit.containers import holder_of, resolved_places
from stonechat.core.kit.facts import FACTS
from stonechat.core.kit.item import CATEGORIES, HOME, NEEDS, Item
from stonechat.core.kit.jobs import JOBS
from stonechat.core.kit.lexicon.kinds import FIELDS, KINDS
from stonechat.core.kit.lexicon.recognise import recognise
from stonechat.core.kit.reach import reaches_a_day
from stonechat.core.ledger.price import ItemPrice, price_of
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.load.problem import DRAG_STEP
from stonechat.core.rig.carrier import ACCESS_NAMES, Carrier
from stonechat.services.kit.many import choices
from stonechat.web.contexts.kit.bring import bring_view
from stonechat.web.contexts.kit.judge import countdown_view, cut_view, jobs_view, pair_view, shelf_view
from stonechat.web.contexts.kit.weigh import weigh_view
from stonechat.web.contexts.last_time import LastTime, NeverUsedRow, last_times, never_used_rows
from stonechat.web.contexts.tabs import Part, TabbedView, tabbed
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import NEW, UNNAMED, Desk
from stonechat.web.forms.binding import BoundForm, FieldView, start_values
from stonechat.web.forms.kit import ITEM_GROUPS, SETTABLE, ItemForm

NO_PLACE = "no place yet"
SORTS = {"price": "price", "mass": "mass", "volume": "volume", "name": "name", "kind": "kind"}


@dataclass(frozen=True, kw_only=True)
class ItemRow:
    """A thing in the table."""

    item: Item
    kind: str
    title: str  # what it is taken for
    place: str
    carrier_id: str
    is_home: bool
    is_inside: bool
    way: str  # where it joins or leaves on the way
    access: str
    reaches: float  # 1 a day, on a mean day of this race
    need: str
    price: ItemPrice
    bag_share: float  # min of its bag's own mass and wind, by volume
    record: str  # of past races
    edit_address: str
    home_address: str


@dataclass(frozen=True, kw_only=True)
class ManyView:
    """What is shown of the things, and what may be done to many of them at once."""

    address: str
    find_address: str
    find: str
    show: str
    sort: str
    shows: tuple[tuple[str, str], ...]
    hidden: int  # things that are not shown
    unknown: int  # things of which nobody knows what they are
    unknown_address: str
    choices: dict[str, tuple[tuple[str, str], ...]]
    kinds: tuple[str, ...]
    fields: tuple[tuple[str, str], ...]  # others that may be set, with their names


@dataclass(frozen=True, kw_only=True)
class TakenView:
    """What a thing is taken for, and what else it may be."""

    item: Item
    title: str  # empty: not known
    field: str
    others: tuple[str, ...]  # titles, likeliest first


@dataclass(frozen=True, kw_only=True)
class Totals:
    """What goes along, in all."""

    carried: int
    mass: float  # kg
    band: float  # kg, of that
    worn_mass: float  # kg of it worn
    volume: float  # m³ packed
    unweighed: int
    unweighed_mass: float  # kg
    minutes: float  # min
    per_kg: float  # min


@dataclass(frozen=True, kw_only=True)
class WayView:
    """Where the open thing joins and leaves; no address where none is open."""

    address: str
    joins: str
    posts: str
    stops: tuple[tuple[str, str], ...]


@dataclass(frozen=True, kw_only=True)
class ThingsView:
    """The things."""

    rows: Window[ItemRow]
    many: ManyView
    taken: "TakenView | None"  # what the open thing is taken for
    totals: "Totals"
    sorts: tuple[tuple[str, str, str, bool], ...]  # key, name, address, whether in force
    form: BoundForm[ItemForm] | None
    groups: tuple[tuple[str, tuple[FieldView, ...]], ...]
    sure: FieldView | None  # where something is hard to believe
    form_address: str
    drop_address: str
    way: "WayView"
    containers: tuple[str, ...]
    sets: tuple[str, ...]
    jobs: tuple[str, ...]
    editing: str
    new_address: str
    close_address: str
    last: tuple[LastTime, ...]
    never_used: tuple[NeverUsedRow, ...]


def kit_view(desk: Desk) -> TabbedView:
    """Return what the Kit room shows."""
    return tabbed(desk, "kit", _PARTS)


def things_view(desk: Desk) -> ThingsView:
    """Return the things with their prices."""
    ridden, plan = desk.evaluation.ridden, desk.opened.plan
    sort, editing = desk.look.sort if desk.look.sort in SORTS else "price", desk.look.open
    shares = _carrier_shares(desk)
    rows = sorted((_row(desk, item, shares) for item in plan.items), key=_order(sort))
    shown = [row for row in rows if _is_shown(desk, row)]
    form = _form(desk, plan.items, editing)
    return ThingsView(
        last=last_times(desk) if not editing else (),
        never_used=never_used_rows(desk) if not editing else (),
        rows=window(desk, shown, next((k for k, row in enumerate(shown) if row.item.id == editing), 0)),
        totals=_totals(ridden, rows),
        sorts=tuple(
            (key, name, desk.at(sort=key, find=desk.look.find, show=desk.look.show), key == sort)
            for key, name in SORTS.items()
        ),
        form=form,
        groups=_groups(form) if form else (),
        sure=form.named("sure")[0] if form and desk.carry.get("doubted") else None,
        form_address=desk.do("items", editing or UNNAMED),
        drop_address=desk.do("items", editing, "drop") if editing else "",
        way=_way_of(desk, editing),
        containers=tuple(item.name for item in plan.items if item.holds),
        sets=tuple(sorted({item.group for item in plan.items if item.group})),
        jobs=tuple(job.name for job in JOBS.values()),
        editing=editing,
        many=_many(desk, len(rows) - len(shown)),
        taken=_taken_for(next((item for item in plan.items if item.id == editing), None)),
        new_address=desk.at(tab=NEW),
        close_address=desk.at(sort=sort, find=desk.look.find, show=desk.look.show),
    )


def _groups(form: BoundForm[ItemForm]) -> tuple[tuple[str, tuple[FieldView, ...]], ...]:
    """Return the form in groups; of further figures those that such a thing may have, and those that it has."""
    category = next((str(entry.value) for entry in form.named("category")), "other")
    groups = []
    for title, names in ITEM_GROUPS:
        entries = form.named(*names)
        groups.append((title, tuple(e for e in entries if e.name not in FACTS or _may_have(e, category))))
    return tuple((title, entries) for title, entries in groups if entries)


def _may_have(entry: FieldView, category: str) -> bool:
    return category in FACTS[entry.name].of or bool(entry.value) or bool(entry.error)


def _totals(ridden: Ridden, rows: list[ItemRow]) -> Totals:
    """Return what goes along in all, whatever of it is shown."""
    carried = ridden.kit.items
    loose = [item for item in carried if not item.weighed]
    return Totals(
        carried=len(carried),
        mass=sum(item.total_mass for item in carried),
        band=mass_band(carried),
        worn_mass=sum(item.total_mass for item in carried if item.worn),
        volume=sum(item.total_volume for item in carried),
        unweighed=len(loose),
        unweighed_mass=sum(item.total_mass for item in loose),
        # what several things open a bag for together is counted once, as the ledger does
        minutes=sum(row.price.total - row.price.reaching for row in rows if not row.is_home)
        + ridden.ledger.minutes("reach"),
        per_kg=ridden.ledger.prices.per_kg,
    )


def _way_of(desk: Desk, item_id: str) -> WayView:
    stops = desk.evaluation.ridden.way.stops
    return WayView(
        address=desk.do("items", item_id, "way") if item_id else "",
        joins=desk.variant.joins.get(item_id, ""),
        posts=desk.variant.posts.get(item_id, ""),
        stops=tuple((stop.id, f"{stop.name}, km {stop.distance / 1000:.0f}") for stop in stops),
    )


def _is_shown(desk: Desk, row: ItemRow) -> bool:
    """Tell whether a row is among those asked for."""
    item, show = row.item, desk.look.show
    words = f"{item.name} {row.kind} {row.place} {item.group} {item.note} {row.title}".lower()
    if not all(word in words for word in desk.look.find.lower().split()):
        return False
    what, _, key = show.partition(":")
    shown = {
        "unknown": not item.kind,
        "unweighed": not item.weighed,
        "unplaced": item.packed and row.place == NO_PLACE,
        "outside": not item.packed,
        "home": row.is_home,
        "bag": row.carrier_id == key,
        "section": item.category == key,
    }
    return shown.get(what, True)


def _taken_for(item: Item | None) -> TakenView | None:
    if item is None:
        return None
    kind = KINDS.get(item.kind)
    return TakenView(
        item=item,
        title=kind.title if kind else "",
        field=FIELDS[kind.field][0] if kind else "",
        others=tuple(guess.kind.title for guess in recognise(item.name).guesses if guess.kind is not kind),
    )


def _many(desk: Desk, hidden: int) -> ManyView:
    bags = ((f"bag:{c.id}", f"in {c.name}") for c in desk.variant.bags)
    sections = ((f"section:{key}", name) for key, (name, _) in CATEGORIES.items())
    plain = (
        ("", "everything"),
        ("unknown", "not known what they are"),
        ("unweighed", "not weighed"),
        ("unplaced", "without a place"),
        ("outside", "worn or fixed"),
        ("home", "left at home"),
    )
    return ManyView(
        address=desk.do("many"),
        find_address=desk.at(),
        find=desk.look.find,
        show=desk.look.show,
        sort=desk.look.sort,
        shows=(*plain, *sections, *bags),
        hidden=hidden,
        unknown=sum(1 for item in desk.opened.plan.items if not item.kind),
        unknown_address=desk.at(show="unknown"),
        choices=choices(desk.variant),
        kinds=tuple(sorted(kind.title for kind in KINDS.values())),
        fields=tuple(SETTABLE.items()),
    )


def _carrier_shares(desk: Desk) -> dict[str, float]:
    """Return the minutes of each carrier's own mass and wind for a cubic metre of what is in it at the start."""
    prices, found = desk.evaluation.ridden.ledger.prices, {}
    for state in desk.evaluation.ridden.film[0].carriers:
        own = state.carrier.mass * prices.per_kg + state.carrier.drag / DRAG_STEP * prices.per_drag
        filled = sum(item.total_volume for item in state.items)
        found[state.carrier.id] = own / filled if filled > 0.0 else 0.0
    return found


def _order(sort: str) -> Callable[[ItemRow], tuple[object, ...]]:
    orders: dict[str, Callable[[ItemRow], tuple[object, ...]]] = {
        "price": lambda row: (row.is_home, -row.price.total),
        "mass": lambda row: (row.is_home, -row.item.total_mass),
        "volume": lambda row: (row.is_home, -row.item.total_volume),
        "name": lambda row: (row.item.name.lower(),),
        "kind": lambda row: (row.kind, -row.price.total),
    }
    return orders[sort]


def _row(desk: Desk, item: Item, shares: dict[str, float]) -> ItemRow:
    ridden = desk.evaluation.ridden
    places = resolved_places(desk.opened.plan.items, desk.variant.places)
    place = places.get(item.id, "")
    carrier = next((c for c in ridden.rig.carriers if c.id == place), None)
    name = _where(item, place, carrier)
    holder = holder_of(item, {entry.id: entry for entry in desk.opened.plan.items})
    price = price_of(item, ridden)
    return ItemRow(
        item=item,
        kind=CATEGORIES[item.category][0],
        title=KINDS[item.kind].title if item.kind in KINDS else "",
        carrier_id=carrier.id if carrier else "",
        place=f"{name}, in {holder.name}" if holder else name,
        is_home=place == HOME,
        is_inside=holder is not None,
        way=_way(desk, item.id),
        access=ACCESS_NAMES[item.access],
        reaches=reaches_a_day(item, ridden.ledger.prices.often),
        need=NEEDS[item.need],
        price=price,
        bag_share=0.0 if item.worn else item.total_volume * shares.get(place, 0.0),
        record=_record(item),
        edit_address=desk.at(open=item.id, sort=desk.look.sort, find=desk.look.find, show=desk.look.show),
        home_address=desk.do("move"),
    )


def _where(item: Item, place: str, carrier: Carrier | None) -> str:
    if place == HOME:
        return "at home"
    if not item.packed:
        return goes_along(item)
    return carrier.name if carrier else NO_PLACE


def _way(desk: Desk, item_id: str) -> str:
    names = {stop.id: stop.name for stop in desk.opened.plan.line.stops}
    joins, posts = desk.variant.joins.get(item_id), desk.variant.posts.get(item_id)
    words = [f"from the drop box at {names.get(joins, joins)}"] if joins else []
    words += [f"posted home at {names.get(posts, posts)}"] if posts else []
    return ", ".join(words)


def _record(item: Item) -> str:
    if not item.record.carried:
        return ""
    words = f"used {item.record.used} of {item.record.carried}"
    words += f", lost {item.record.lost}" if item.record.lost else ""
    return words + (f", broken {item.record.broken}" if item.record.broken else "")


def _form(desk: Desk, items: tuple[Item, ...], editing: str) -> BoundForm[ItemForm] | None:
    if "item" in desk.forms:
        return desk.forms["item"]
    if desk.look.tab == NEW:
        return start_values(ItemForm, {"category": "other", "need": "want"})
    found = next((item for item in items if item.id == editing), None)
    return start_values(ItemForm, ItemForm.values(found, items)) if found else None


_PARTS: dict[str, Part] = {
    "things": ("Things", things_view),
    "weigh": ("Weigh-in", weigh_view),
    "bring": ("In and out", bring_view),
    "cut": ("Cut list", cut_view),
    "jobs": ("Jobs and bolts", jobs_view),
    "countdown": ("Countdown", countdown_view),
    "pair": ("Pair", pair_view),
    "shelf": ("Shelf", shelf_view),
}
