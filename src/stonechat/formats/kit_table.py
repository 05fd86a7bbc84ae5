"""A kit from any table: rows of things, of sections and of sums told apart; nothing is lost, nothing guessed silently.

A mass that is missing stands in as usual for the kind, where that is known, and is said to.
"""

import math
import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from stonechat.core.kit.facts import FACTS, figure_of
from stonechat.core.kit.item import Carried, Item
from stonechat.core.kit.lexicon.bags import BagWord, bag_of
from stonechat.core.kit.lexicon.kinds import KINDS, Kind
from stonechat.core.kit.lexicon.recognise import recognise
from stonechat.core.kit.lexicon.usual import usual_thing
from stonechat.core.kit.ranges import doubt_of
from stonechat.core.kit.sheet import LONGEST_CELL, LONGEST_HEADER, MOST_CELLS
from stonechat.core.plan.limits import LIMITS
from stonechat.errors import InvalidInput, UnreadableFile
from stonechat.formats.documents.kit import told_item
from stonechat.formats.kit_columns import Column, TableMapping
from stonechat.formats.kit_fields import BY_KEY, IGNORED, KNOWN, NO, NONE, SECTIONS, YES, Field
from stonechat.formats.numbers import UNITS, parse_number, words_from_list
from stonechat.formats.table_file import Grid

MASSES = ("mass_g", "measured_g", "mass_all_g", "claimed_g")
SUM_BAND = 0.02  # 1, by how much a sum of the table may be off before it is said (estimate)
_TOTAL = re.compile(
    r"^(sub|grand|over|base|bag)?[\s-]*(total|sum)\b|\btotal:?$"
    r"|^(base|total|skin.?out|pack|dry|overall|packed) (weight|mass)"
)
_NEAR_SUM = 0.1  # 1, how near a mass without a name is to what stands above it to be its sum (estimate)
_ABOUT = re.compile(r"^(ca\.?|c\.|circa|about|approx\.?|approximately|around|est\.?|~|≈|<|>|≤|≥|max\.?|±)\s*")
_NOT_KNOWN = frozenset({"", "?", "??", "???", "tbd", "tbc", "n/a", "na", "unknown", "-", "–", "—", "0", "x", "todo"})
_OWN = "own "  # before the number of a column that says nothing here
_WEARABLE = frozenset({"worn", "rain", "hands", "feet"})  # fields of the kit
_LONGEST = {"name": 80, "group": 60, "note": 200, "place": 60, "inside": 80}


@dataclass(frozen=True, kw_only=True)
class Aside:
    """A row that was not taken, and why."""

    number: int
    cells: tuple[str, ...]
    sentence: str


@dataclass(frozen=True, kw_only=True)
class KitTable:
    """What a table comes to."""

    items: tuple[Item, ...] = ()  # believable
    doubtful: tuple[tuple[int, Item, str], ...] = ()  # row, thing, what is hard to believe
    aside: tuple[Aside, ...] = ()
    merged: tuple[str, ...] = ()  # names that stood there twice, alike, and were added up
    numbers: tuple[int, ...] = ()  # row of each item
    places: Mapping[str, str] = field(default_factory=dict)  # bag of each thing as the table calls it, by id
    sums: tuple[str, ...] = ()  # what the table's own sums say against the things
    bags: tuple[Item, ...] = ()  # rows that are carriers of the rig, no things
    estimated: frozenset[str] = frozenset()  # ids of those whose mass is the usual one of their kind


@dataclass
class _Reading:
    """What has been read so far."""

    ids: set[str]
    kinds: Mapping[int, str]
    parts_bags: bool = False  # whether bags are told from things
    good: list[tuple[int, Item]] = field(default_factory=list)
    doubtful: list[tuple[int, Item, str]] = field(default_factory=list)
    aside: list[Aside] = field(default_factory=list)
    insides: dict[str, str] = field(default_factory=dict)
    places: dict[str, str] = field(default_factory=dict)
    estimated: set[str] = field(default_factory=set)
    said_worn: set[str] = field(default_factory=set)
    bags: list[Item] = field(default_factory=list)
    sums: list[str] = field(default_factory=list)
    section: str = ""
    whole: float = 0.0  # kg, of all rows so far
    part: float = 0.0  # kg, since the last section or sum


Cells = Mapping[str, tuple[str, Column]]


def _refuse_mapping(mapping: TableMapping) -> None:
    """Refuse columns that tell no things: without name or mass, or with one field twice."""
    fields = [column.field for column in mapping.columns if column.field]
    if "name" not in fields:
        raise UnreadableFile("No column is the name. Say which column names the things.", subject="name")
    if not set(MASSES) & set(fields):
        raise UnreadableFile("No column is the mass. Say which column holds it.", subject="mass_g")
    doubled = [key for key, count in Counter(fields).items() if count > 1]
    if doubled:
        raise UnreadableFile(f"Two columns are both {BY_KEY[doubled[0]].title}. Skip one.", subject=doubled[0])


def read_kit(
    grid: Grid,
    mapping: TableMapping,
    *,
    taken: frozenset[str] = frozenset(),
    merge: bool = True,
    kinds: Mapping[int, str] | None = None,
) -> KitTable:
    """Return the things of a table; a row that cannot be read is put aside with its reason, none is lost.

    Without merging the table is one of our own: every row is a thing, and rows that are alike stay apart. `kinds` are
    those that the rider chose, by row; an empty one is none that is known.
    """
    _refuse_mapping(mapping)
    so_far = _Reading(ids=set(taken), kinds=kinds or {}, parts_bags=merge)
    names = tuple(column.header for column in mapping.columns)
    for number, row in enumerate(grid.rows[mapping.header_row :], start=mapping.header_row + 1):
        if not any(row) or _repeats(row, names):
            continue
        _read_row(number, row, mapping, so_far, merge=merge)
    return _whole(so_far, merge=merge)


def _read_row(number: int, row: tuple[str, ...], mapping: TableMapping, so_far: _Reading, *, merge: bool) -> None:
    """Read a row: a sum, a heading or a thing."""
    cells = _cells(row, mapping)
    said = _sum_of(number, row, cells, so_far)
    if said is not None:
        _compare_sum(number, cells, said, so_far)
    elif merge and _is_section(row, cells, mapping):
        so_far.section, so_far.part = next(cell for cell in row if cell).strip(" :*-#"), 0.0
    else:
        _take_row(number, row, cells, so_far)


def _own_cells(cells: Cells) -> dict[str, str]:
    """Return the cells of columns that say nothing here."""
    own = [
        (column.header[:LONGEST_HEADER], text)
        for key, (text, column) in cells.items()
        if key.startswith(_OWN) and column.header.lower() not in IGNORED
    ]
    return {header: text[:LONGEST_CELL] for header, text in own[:MOST_CELLS] if header and text}


def _cells(row: Sequence[str], mapping: TableMapping) -> dict[str, tuple[str, Column]]:
    """Return the cells of a row by field; those of columns that say nothing here by their number."""
    found: dict[str, tuple[str, Column]] = {}
    for column in mapping.columns:
        text = row[column.index] if column.index < len(row) else ""
        found[column.field or f"{_OWN}{column.index}"] = (text, column)
    return found


def _repeats(row: Sequence[str], names: Sequence[str]) -> bool:
    """Tell whether a row names the columns once more."""
    said = [(cell, name) for cell, name in zip(row, names, strict=False) if cell]
    return len(said) >= 2 and all(cell.casefold() == name.casefold() for cell, name in said)


def _sum_of(number: int, row: Sequence[str], cells: Cells, so_far: _Reading) -> float | None:
    """Return what a row that sums others up comes to, None where it is no sum. [g]

    It says so, or it has a mass, no name, and is near to what the things above come to.
    """
    name = cells["name"][0].casefold().strip(" :")
    words = name or _first_words(row)
    says_so = _TOTAL.search(words) is not None and (not name or recognise(name).kind is None)
    if name and not says_so:
        return None
    for said in _masses_said(number, cells):
        if says_so or abs(_nearest(so_far, said) - said) < _NEAR_SUM * said:
            return said
    return 0.0 if says_so else None


def _first_words(row: Sequence[str]) -> str:
    """Return the first cell of a row that has letters."""
    return next((cell.casefold() for cell in row if re.search(r"[a-z]", cell.casefold())), "")


def _masses_said(number: int, cells: Cells) -> Iterator[float]:
    """Yield the masses of a row that can be read, that of all together first. [g]"""
    for key in ("mass_all_g", "measured_g", "mass_g", "claimed_g"):
        try:
            said = _mass(number, cells, key) if key in cells else None
        except InvalidInput:
            continue
        if said is not None:
            yield said


def _nearest(so_far: _Reading, said: float) -> float:
    """Return which of the running sums is nearest to a figure, that of the section or of all. [g]"""
    return 1e3 * min((so_far.part, so_far.whole), key=lambda mass: abs(mass * 1e3 - said))


def _is_section(row: Sequence[str], cells: Cells, mapping: TableMapping) -> bool:
    """Tell whether a row is a heading: one cell is filled, and it names a section or a bag, or looks like a heading."""
    said = [(index, cell.strip()) for index, cell in enumerate(row) if cell]
    masses = {column.index for column in mapping.columns if column.field in MASSES}
    if len(said) != 1 or said[0][0] in masses:
        return False
    index, text = said[0]
    plain = text.casefold().strip(" :*-#")
    if plain in SECTIONS or text.endswith(":") or text.isupper():
        return True
    return not _is_thing(text) and (bag_of(plain) is not None or index == cells["name"][1].index)


def _is_thing(text: str) -> bool:
    """Tell whether words are a thing that is known, such as a frame pump without a mass."""
    kind = recognise(text).kind
    return kind is not None and not kind.is_bag


def _compare_sum(number: int, cells: Cells, said: float, so_far: _Reading) -> None:
    """Hold a sum of the table against its things: of the section, or of all."""
    mine = _nearest(so_far, said)
    if said and abs(mine - said) > max(SUM_BAND * said, 5.0):
        name = cells["name"][0][:40] or "a sum"
        so_far.sums.append(
            f"Row {number}, “{name}”, says {said:,.0f} g; the things read come to {mine:,.0f} g. Something is "
            "missing, counted twice, or in another unit."
        )
    so_far.part = 0.0


def _take_row(number: int, row: tuple[str, ...], cells: Cells, so_far: _Reading) -> None:
    """Read one thing."""
    try:
        item, is_estimated = _item(number, cells, so_far)
    except InvalidInput as exc:
        so_far.aside.append(Aside(number=number, cells=row, sentence=exc.message))
        return
    so_far.insides[item.id] = cells.get("inside", ("",))[0]
    if not is_estimated:  # the table's sums do not know it either
        so_far.whole += item.total_mass
        so_far.part += item.total_mass
    place = cells.get("place", ("",))[0] or (so_far.section if bag_of(so_far.section) is not None else "")
    if place and item.packed:
        so_far.places[item.id] = place[: _LONGEST["place"]]
    if is_estimated:
        so_far.estimated.add(item.id)
    _sort_in(number, item, so_far)


def _sort_in(number: int, item: Item, so_far: _Reading) -> None:
    """Put a thing where it belongs: a bag, hard to believe, or good."""
    doubt = doubt_of(item)
    kind = KINDS.get(item.kind)
    if so_far.parts_bags and kind is not None and kind.is_bag:
        so_far.bags.append(item)
        so_far.places.pop(item.id, None)
    elif doubt:
        so_far.doubtful.append((number, item, doubt))
    else:
        so_far.good.append((number, item))


def _whole(so_far: _Reading, *, merge: bool) -> KitTable:
    good: list[tuple[int, Item]] = so_far.good
    merged: list[str] = []
    if merge:
        good, merged = _merged(_one_worn(good, so_far.said_worn), so_far.places)
    everything = [item for _, item in good] + [item for _, item, _ in so_far.doubtful]
    put_inside = _putting_inside(everything, so_far.insides)
    kept = {item.id for item in everything}
    return KitTable(
        items=tuple(put_inside(item) for _, item in good),
        doubtful=tuple((number, put_inside(item), doubt) for number, item, doubt in so_far.doubtful),
        aside=tuple(so_far.aside),
        merged=tuple(merged),
        numbers=tuple(number for number, _ in good),
        places={key: place for key, place in so_far.places.items() if key in kept},
        sums=tuple(so_far.sums),
        bags=tuple(so_far.bags),
        estimated=frozenset(so_far.estimated & kept),
    )


def _putting_inside(items: list[Item], insides: Mapping[str, str]) -> Callable[[Item], Item]:
    """Return what puts a thing into the pouch of its table that it is said to be in."""
    holders = {item.name.lower(): item.id for item in items if item.holds}
    return lambda item: replace(item, container=holders.get(insides.get(item.id, "").lower(), ""))


def _one_worn(rows: list[tuple[int, Item]], said_worn: set[str]) -> list[tuple[int, Item]]:
    """Leave one of each kind on the body: of two jerseys one is packed, unless the table says that both are worn."""
    on: set[str] = set()
    kept = []
    for number, item in rows:
        if item.worn and item.kind in on and item.id not in said_worn:
            spare = usual_thing(item.name, mass=item.mass, kind=item.kind, worn=False)
            item = replace(item, worn=False, access=spare.access, reaches=spare.reaches, roles=spare.jobs,
                           keep_dry=spare.keep_dry, spoils=spare.spoils)  # fmt: skip
        elif item.worn and item.kind:
            on.add(item.kind)
        kept.append((number, item))
    return kept


def _merged(rows: list[tuple[int, Item]], places: Mapping[str, str]) -> tuple[list[tuple[int, Item]], list[str]]:
    """Add up rows that are alike but for how many, in the same bag; rows of one name that differ both stay."""
    seen: dict[tuple[Item, str], int] = {}
    kept: list[tuple[int, Item]] = []
    merged = []
    most = int(LIMITS["quantity"].high)
    for number, item in rows:
        like = (replace(item, id="", quantity=1), places.get(item.id, ""))
        k = seen.setdefault(like, len(kept))
        if k == len(kept) or kept[k][1].quantity + item.quantity > most:
            kept.append((number, item))
        else:
            first, other = kept[k]
            kept[k] = (first, replace(other, quantity=other.quantity + item.quantity))
            merged.append(item.name)
    return kept, merged


def item_id(name: str, taken: set[str]) -> str:
    """Return a short id for a name that is not taken yet, and take it."""
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "thing"
    candidate, number = stem, 2
    while candidate in taken:
        candidate, number = f"{stem}-{number}", number + 1
    taken.add(candidate)
    return candidate


_COUNTED = (
    re.compile(r"^(?P<n>\d{1,3})\s*(?:x|×|pcs\.?|pieces of)\s+(?P<name>\D.*)$", re.IGNORECASE),
    re.compile(r"^(?P<n>\d{1,2})\s+(?P<name>[a-z].*s\b.*)$", re.IGNORECASE),
    re.compile(r"^(?P<name>.*\D)\s*[(,]?\s*(?:x|×)\s?(?P<n>\d{1,3})\)?$", re.IGNORECASE),
    re.compile(r"^(?P<name>.*\D)\s*[(,]\s*(?P<n>\d{1,3})\s?(?:x|×|pcs\.?|pieces|pairs)?\)?$", re.IGNORECASE),
    re.compile(r"^(?P<name>.*\D)\s+(?P<n>\d{1,3})\s?(?:x|×|pcs\.?)$", re.IGNORECASE),
)


def counted_name(text: str) -> tuple[str, int]:
    """Return a name without its count, and the count: 2x tubes, tubes (2), tubes x2."""
    for pattern in _COUNTED:
        match = pattern.match(text.strip())
        if match and 1 <= int(match["n"]) <= LIMITS["quantity"].high and re.search(r"[^\W\d]{3}", match["name"]):
            return match["name"].strip(" ,("), int(match["n"])
    return text, 1


def _item(number: int, cells: Cells, so_far: _Reading) -> tuple[Item, bool]:
    """Return the thing of a row, and whether its mass stands in for one that is not known."""
    name = cells["name"][0][:80].strip()
    if not name:
        raise UnreadableFile(f"Row {number}: the name is missing.", subject="name")
    outside = {"inside", "place", "name", *MASSES}
    told = {key: _told(number, cells, BY_KEY[key]) for key in cells if key in BY_KEY and key not in outside}
    short, count = counted_name(name) if "quantity" not in cells or not cells["quantity"][0] else (name, 1)
    told["kind"] = so_far.kinds.get(number, told.pop("kind_of_thing", None))
    kind = KINDS.get(told["kind"]) if told["kind"] is not None else recognise(name).kind
    told |= _sectioned(so_far.section, cells, told, kind)
    masses = _masses(number, cells, count=count, quantity=told.get("quantity"), kind=kind)
    if count > 1 and "quantity" not in masses:  # the count is part of the name: a multitool with 17 functions
        short = name
    told |= masses
    is_estimated = told.get("mass_g") is None
    if is_estimated:
        told["mass_g"] = _usual_mass(number, cells, kind)
    told["content_g"] = min(told.get("content_g") or 0.0, told["mass_g"])
    told["cells"] = _own_cells(cells)
    told["facts"] = {key: told.pop(key) for key in FACTS if told.get(key) is not None}
    item = told_item({**told, "name": short}, item_id(short, so_far.ids)).core()
    if told.get("worn"):
        so_far.said_worn.add(item.id)
    return item, is_estimated


def _usual_mass(number: int, cells: Cells, kind: Kind | None) -> float:
    """Return the mass that is usual of a kind, for one that is missing; refused where it is of none. [g]"""
    if kind is None:
        where = _where(number, cells, next(key for key in MASSES if key in cells))
        raise UnreadableFile(f"{where}: the mass of {cells['name'][0].strip()[:40]} is missing.", subject="mass_g")
    return round(kind.mass.usual * 1e3, 1)


def _sectioned(section: str, cells: Cells, told: Mapping[str, Any], kind: Kind | None) -> dict[str, Any]:
    """Return what the section of a row or its bag adds: kind of thing, worn, fixed."""
    found: dict[str, Any] = {}
    if told.get("category") is None and section and kind is None:
        found["category"] = SECTIONS.get(section.casefold())
    if told.get("worn") is not None or told.get("fixed") is not None:
        return found
    if any(cell[0].strip().casefold() == "worn" for key, cell in cells.items() if key != "name"):
        return {**found, "worn": True}
    return found | _by_bag(cells.get("place", ("",))[0] or section, kind)


def _by_bag(words: str, kind: Kind | None) -> dict[str, Any]:
    """Return how a thing goes along by the bag that it is said to be in."""
    match bag_of(words):
        case Carried.WORN:  # a phone on me is in a pocket
            return {"worn": kind is None or kind.carried is Carried.WORN or kind.field in _WEARABLE}
        case Carried.FIXED:
            return {"worn": False, "fixed": kind.spot if kind is not None and kind.spot else "frame"}
        case BagWord():
            return {"worn": False, "fixed": ""}
        case _:
            return {}


def _masses(number: int, cells: Cells, *, count: int, quantity: int | None, kind: Kind | None) -> dict[str, Any]:
    """Return mass each, claimed mass, count, and whether it is weighed, from the columns that tell them."""
    said = {key: _mass(number, cells, key) for key in MASSES if key in cells}
    each, pieces = said.get("mass_g"), 1
    if each is not None:
        each, pieces = _pieces(cells["mass_g"][0], each)
    measured, claimed, together = (said.get(key) for key in ("measured_g", "claimed_g", "mass_all_g"))
    mass = measured if measured is not None else each
    many = quantity or max(pieces, 1)
    if mass is None and together is not None:
        many = max(many, count)
        mass = together / many
    elif mass is None:
        mass = claimed
    elif count > 1 and many == 1:
        mass, many = _of_count(mass, count, kind)
    found = {
        "weighed": True if measured is not None else None,
        "mass_g": round(mass, 4) if mass is not None else None,
        "claimed_g": claimed if claimed != mass else None,
        "quantity": many if many > 1 or quantity else None,
    }
    return {key: value for key, value in found.items() if value is not None}


def _pieces(text: str, mass: float) -> tuple[float, int]:
    """Return mass each and how many of a cell such as 2 x 60 g."""
    match = re.match(r"^(\d{1,3})\s*[x×]\s*[\d.,]+", text.strip())
    return (mass, int(match[1])) if match else (mass, 1)


def _of_count(mass: float, count: int, kind: Kind | None) -> tuple[float, int]:
    """Return mass each and how many where the name tells a count: each or together, whichever is usual of the kind."""
    if kind is None:
        return mass / count, count  # a row is weighed as it stands
    apart, alone = (abs(math.log(value / 1e3 / kind.mass.usual)) for value in (mass / count, mass))
    return (mass, count) if alone < apart else (mass / count, count)


def _mass(number: int, cells: Cells, key: str) -> float | None:
    """Return a mass as people write it: about, a range, so many of so much; None where none is told. [g]"""
    text, column = cells[key]
    plain = _ABOUT.sub("", text.strip().casefold()).rstrip("?! ")
    plain = re.sub(r"\s*(each|ea\.?|per piece|pp|est\.?|approx\.?|gramm?)$", "", plain)
    if plain in _NOT_KNOWN:
        return None
    if plain.startswith("="):
        raise UnreadableFile(
            f"{_where(number, cells, key)}: {text[:20]} is a formula that was never computed. Save its value.",
            subject=key,
        )
    span = re.match(r"^([\d.,]+)\s*(?:-|–|to)\s*([\d.,]+)\s*([a-z]*)$", plain)
    several = re.match(r"^\d{1,3}\s*[x×]\s*([\d.,]+\s*[a-z]*)$", plain)
    if span:
        low, high = (figure_of(span[k]) for k in (1, 2))
        plain = f"{(low + high) / 2:g} {span[3]}".strip()
    elif several:
        plain = several[1]
    value = _number(number, {**cells, key: (plain, column)}, key)
    return value or None


def _told(number: int, cells: Cells, entry: Field) -> Any:
    """Return what a cell tells of a field, None where it tells nothing."""
    match entry.kind:
        case "number":
            return _number(number, cells, entry.key)
        case "whole":
            text, column = cells[entry.key]
            bare = re.sub(r"\s*(x|×|pcs?\.?|pieces?|pairs?|prs?|off|units?)\.?$", "", text.strip().lower())
            value = _number(number, {**cells, entry.key: (bare, column)}, entry.key)
            return None if value is None else int(value)
        case "flag":
            return _flag(number, cells, entry.key)
        case "fact":
            return _fact(number, cells, entry.key)
        case "words":
            if cells[entry.key][0].strip().lower() == NONE:
                return []
            return sorted(_words(number, cells, entry.key, KNOWN[entry.key])) if cells[entry.key][0] else None
        case "list":
            return _listed(number, cells, entry.key, KNOWN[entry.key])
    return cells[entry.key][0][: _LONGEST[entry.key]]


def _where(number: int, cells: Cells, key: str) -> str:
    column = cells[key][1]
    return f"Row {number}, column {column.header or BY_KEY[key].title}"


def _number(number: int, cells: Cells, key: str) -> float | None:
    """Return a figure in its field's unit, or None where the cell is empty."""
    if key not in cells or not cells[key][0]:
        return None
    text, column = cells[key]
    entry = BY_KEY[key]
    # a bare figure is in the column's unit; one with a unit of its own says so itself
    plain = text.rstrip("% ") if entry.unit == "%" else text
    bare = re.fullmatch(r"[+\-−]?[\d.,' \u00a0\u2009\u202f]+", plain.strip()) is not None
    try:
        value = parse_number(plain, unit="" if bare else entry.unit)
    except InvalidInput as exc:
        raise UnreadableFile(f"{_where(number, cells, key)}: {exc.message}", subject=key) from exc
    if bare and column.unit and column.unit != entry.unit:
        value *= UNITS[entry.unit][column.unit]
    is_turned = not bare or column.unit != entry.unit
    _refuse_beyond(value, entry, _where(number, cells, key), text=text, name=cells["name"][0], is_turned=is_turned)
    return round(value, 6)


def _refuse_beyond(value: float, entry: Field, where: str, *, text: str, name: str, is_turned: bool) -> None:
    """Refuse a figure that is outside what its field may be."""
    low, high = (bound * entry.factor for bound in LIMITS[entry.limit])
    if entry.kind == "whole" and not float(value).is_integer():
        raise UnreadableFile(f"{where}: {text[:20]} is no whole number.", subject=entry.key)
    if not low <= value <= high:
        shown = f" = {value:,.0f} {entry.unit}" if is_turned else ""
        raise UnreadableFile(
            f"{where}: {text[:20]}{shown} is outside {low:g} to {high:g} {entry.unit}".rstrip()
            + f" ({name[:40]}). Check the unit.",
            subject=entry.key,
        )


def _fact(number: int, cells: Cells, key: str) -> float | None:
    """Return a further figure; what is no figure or out of range is refused."""
    text = cells[key][0].strip()
    if text.casefold() in _NOT_KNOWN - {"0"}:
        return None
    fact = FACTS[key]
    match = re.match(r"^(?:r|ca\.?|~|≈)?\s*([+\-−]?[\d.,]*\d)\s*([^\d\s]*)$", text.casefold())
    if match is None or match[2] not in fact.units:
        raise UnreadableFile(f"{_where(number, cells, key)}: “{text[:20]}” is no figure in {fact.unit}.", subject=key)
    value = figure_of(match[1].replace("−", "-")) * (1000.0 if key == "mah" and match[2] == "ah" else 1.0)
    if not fact.low <= value <= fact.high:
        raise UnreadableFile(
            f"{_where(number, cells, key)}: {text[:20]} is outside {fact.low:g} to {fact.high:g} {fact.unit}.",
            subject=key,
        )
    return value


def _flag(number: int, cells: Cells, key: str) -> bool | None:
    text = cells[key][0].strip().lower()
    if key == "worn" and not text:
        return None  # nothing said: as is usual for the kind
    if text in YES or text in NO:
        return text in YES
    raise UnreadableFile(f"{_where(number, cells, key)}: write yes or no, not “{text[:20]}”.", subject=key)


def _listed(number: int, cells: Cells, key: str, known: Mapping[str, str]) -> str | None:
    if not cells[key][0]:
        return None
    text = cells[key][0].lower()
    if text in known:
        return known[text]
    if key in ("category", "need"):
        return None  # other people's words for these are their own; the thing itself is what counts
    listed = ", ".join([name for name in dict.fromkeys(known.values()) if name][:24])
    raise UnreadableFile(
        f"{_where(number, cells, key)}: “{text[:20]}” is not one of {listed}.",
        subject=key,
    )


def _words(number: int, cells: Cells, key: str, known: Mapping[str, str]) -> frozenset[str]:
    try:
        return words_from_list(cells[key][0], known, BY_KEY[key].title.rstrip("s"))
    except InvalidInput as exc:
        raise UnreadableFile(f"{_where(number, cells, key)}: {exc.message}", subject=key) from exc
