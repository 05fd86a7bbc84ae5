"""What the Kit room shows."""

from collections.abc import Callable
from dataclasses import dataclass

from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.ledger.price import ItemPrice, item_price
from stonechat.core.plan.plan import HOME
from stonechat.core.rig.carrier import ACCESS_NAMES
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm, start_values
from stonechat.web.forms.kit import ItemForm

NEW = "new"
SORTS = {"price": "price", "mass": "mass", "volume": "volume", "name": "name", "kind": "kind"}


@dataclass(frozen=True, kw_only=True)
class ItemRow:
    """A thing in the table."""

    item: Item
    kind: str
    place: str
    is_home: bool
    access: str
    need: str
    price: ItemPrice
    edit_address: str
    home_address: str


@dataclass(frozen=True, kw_only=True)
class KitView:
    """The Kit room."""

    rows: tuple[ItemRow, ...]
    carried: int
    mass: float  # kg carried
    worn_mass: float  # kg of it worn
    volume: float  # m³ packed
    unweighed: int
    unweighed_mass: float  # kg
    minutes: float  # min of all that is carried
    per_kg: float  # min
    sorts: tuple[tuple[str, str, str, bool], ...]  # key, name, address, whether in force
    csv_address: str
    import_address: str
    form: BoundForm[ItemForm] | None
    form_address: str
    drop_address: str
    editing: str
    new_address: str
    close_address: str


def kit_view(desk: Desk) -> KitView:
    """Return what the Kit room shows."""
    ridden, plan = desk.evaluation.ridden, desk.opened.plan
    sort, editing = _sort_and_edit(desk.edit)
    rows = sorted((_row(desk, item) for item in plan.items), key=_order(sort))
    carried = ridden.items
    loose = [item for item in carried if not item.weighed]
    return KitView(
        rows=tuple(rows),
        carried=len(carried),
        mass=sum(item.total_mass for item in carried),
        worn_mass=sum(item.total_mass for item in carried if item.worn),
        volume=sum(item.total_volume for item in carried),
        unweighed=len(loose),
        unweighed_mass=sum(item.total_mass for item in loose),
        minutes=sum(row.price.total for row in rows if not row.is_home),
        per_kg=ridden.prices.per_kg,
        sorts=tuple((key, name, desk.at(edit=f"by-{key}"), key == sort) for key, name in SORTS.items()),
        csv_address=desk.do("kit.csv"),
        import_address=desk.do("kit"),
        form=_form(desk, plan.items, editing),
        form_address=desk.do("items", editing or NEW),
        drop_address=desk.do("items", editing, "drop") if editing and editing != NEW else "",
        editing=editing,
        new_address=desk.at(edit=NEW),
        close_address=desk.at(edit=f"by-{sort}"),
    )


def _sort_and_edit(edit: str) -> tuple[str, str]:
    """Split what the address carries: an order of the table (`by-mass`), or what is being edited."""
    if edit.startswith("by-"):
        wanted = edit.removeprefix("by-")
        return (wanted if wanted in SORTS else "price"), ""
    return "price", edit


def _order(sort: str) -> Callable[[ItemRow], tuple[object, ...]]:
    orders: dict[str, Callable[[ItemRow], tuple[object, ...]]] = {
        "price": lambda row: (row.is_home, -row.price.total),
        "mass": lambda row: (row.is_home, -row.item.total_mass),
        "volume": lambda row: (row.is_home, -row.item.total_volume),
        "name": lambda row: (row.item.name.lower(),),
        "kind": lambda row: (row.kind, -row.price.total),
    }
    return orders[sort]


def _row(desk: Desk, item: Item) -> ItemRow:
    ridden, variant = desk.evaluation.ridden, desk.variant
    place = variant.places.get(item.id, "")
    carrier = next((c for c in ridden.carriers if c.id == place), None)
    name = "at home" if place == HOME else carrier.name if carrier else "no place yet"
    return ItemRow(
        item=item,
        kind=CATEGORIES[item.category][0],
        place=name,
        is_home=place == HOME,
        access=ACCESS_NAMES[item.access],
        need=NEEDS[item.need],
        price=item_price(item=item, carrier=carrier, prices=ridden.prices, mass_curve=ridden.mass_curve),
        edit_address=desk.at(edit=item.id),
        home_address=desk.do("move"),
    )


def _form(desk: Desk, items: tuple[Item, ...], editing: str) -> BoundForm[ItemForm] | None:
    if "item" in desk.forms:
        return desk.forms["item"]
    if editing == NEW:
        return start_values(ItemForm, {"quantity": 1, "reaches_per_day": 0.0, "category": "other", "access": "off"})
    found = next((item for item in items if item.id == editing), None)
    return start_values(ItemForm, ItemForm.values(found)) if found else None
