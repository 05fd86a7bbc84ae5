"""A kit from any table: what each column means is guessed, shown, and may be chosen otherwise."""

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from statistics import median
from typing import Any

from stonechat.core.kit.bolts import TOOLS
from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.kit.jobs import JOBS
from stonechat.core.kit.ranges import doubt_of
from stonechat.core.plan.limits import LIMITS
from stonechat.core.rig.carrier import ACCESS_NAMES, ACCESS_RANK
from stonechat.errors import InvalidInput, UnreadableFile
from stonechat.formats.documents.kit import told_item
from stonechat.formats.numbers import UNITS, parse_number, words_from_list
from stonechat.formats.table_file import Grid

_YES = frozenset({"yes", "y", "true", "1", "x", "✓"})
_NO = frozenset({"", "no", "n", "false", "0", "-", "–"})


@dataclass(frozen=True, kw_only=True)
class Field:
    """One thing that a column may mean."""

    key: str
    title: str
    words: str  # pattern of headers that mean it
    unit: str = ""  # unit that it is taken in: g, ml, mm or %
    kind: str = "text"  # text, number, whole, flag or one of a list
    limit: str = ""
    factor: float = 1.0  # from house units to `unit`


FIELDS: tuple[Field, ...] = (
    Field(key="name", title="name", words=r"^(name|item|thing|what|article|gear|description|piece)\b"),
    Field(key="category", title="kind", words=r"^(category|kind|type|section|class)\b", kind="list"),
    Field(key="claimed_g", title="claimed mass", words=r"claim|maker|nominal|catalog", unit="g", kind="number",
          limit="item_content", factor=1e3),
    Field(key="content_g", title="of it used up", words=r"^content|consumable", unit="g", kind="number",
          limit="item_content", factor=1e3),
    Field(key="mass_g", title="mass each", words=r"mass|weight|weighs|^(wt|g|gr|grams|kg|oz|lb|lbs)$", unit="g",
          kind="number", limit="item_mass", factor=1e3),
    Field(key="left_pct", title="left of that", words=r"^left", unit="%", kind="number", limit="share", factor=100.0),
    Field(key="volume_ml", title="volume packed", words=r"volume|litre|^(ml|l|vol)$|size packed", unit="ml",
          kind="number", limit="item_volume", factor=1e6),
    Field(key="room_ml", title="room inside", words=r"^room", unit="ml", kind="number", limit="item_volume",
          factor=1e6),
    Field(key="length_mm", title="longest rigid side", words=r"length|longest", unit="mm", kind="number",
          limit="item_length", factor=1e3),
    Field(key="width_mm", title="second rigid side", words=r"width", unit="mm", kind="number", limit="item_length",
          factor=1e3),
    Field(key="quantity", title="how many", words=r"^(quantity|qty|count|number|pcs|pieces|how many|x|#|n)$",
          kind="whole", limit="quantity"),
    Field(key="keep_dry", title="must stay dry", words=r"keep.?dry|stay dry", kind="flag"),
    Field(key="fragile", title="fragile", words=r"fragile", kind="flag"),
    Field(key="leaks", title="may leak", words=r"^(may )?leak", kind="flag"),
    Field(key="spoils", title="spoiled by leaks", words=r"spoil", kind="flag"),
    Field(key="access", title="needed", words=r"access|^needed$", kind="list"),
    Field(key="reaches_rain", title="more on a wet day", words=r"reaches_rain|rain", kind="number", limit="reaches"),
    Field(key="reaches_cold", title="more on a cold day", words=r"reaches_cold", kind="number", limit="reaches"),
    Field(key="reaches_night", title="more for a night", words=r"reaches_night", kind="number", limit="reaches"),
    Field(key="reaches_puncture", title="for each puncture", words=r"reaches_puncture", kind="number",
          limit="reaches"),
    Field(key="reaches_per_day", title="reached a day", words=r"reach|per day|a day|times", kind="number",
          limit="reaches"),
    Field(key="need", title="need", words=r"^need$|priority|must", kind="list"),
    Field(key="worn", title="worn", words=r"^worn|wear", kind="flag"),
    Field(key="weighed", title="weighed", words=r"weighed|measured\?", kind="flag"),
    Field(key="roles", title="jobs", words=r"^(roles|jobs|does)$", kind="words"),
    Field(key="tools", title="turns", words=r"^(tools|turns)$", kind="words"),
    Field(key="group", title="set", words=r"^(group|set|bundle)$"),
    Field(key="inside", title="inside", words=r"^(inside|container|pouch)$"),
    Field(key="holds", title="holds others", words=r"^holds", kind="flag"),
    Field(key="makes_dry", title="keeps them dry", words=r"makes.?dry|keeps them dry", kind="flag"),
    Field(key="carried_before", title="carried in races", words=r"carried", kind="whole", limit="count"),
    Field(key="used_before", title="used in", words=r"used", kind="whole", limit="count"),
    Field(key="lost_before", title="lost", words=r"^lost", kind="whole", limit="count"),
    Field(key="broken_before", title="broken", words=r"^broken", kind="whole", limit="count"),
    Field(key="note", title="note", words=r"note|comment|remark"),
)  # fmt: skip
BY_KEY = {field.key: field for field in FIELDS}
SKIP = ""  # a column that is not taken
IGNORED = frozenset({"id", "place", "variants", "price_min", "why_aside"})  # ours, written for reading only
_UNIT_WORDS = {
    "g": (("kg", r"\bkg\b|kilo"), ("oz", r"\boz\b|ounce"), ("lb", r"\blbs?\b|pound"), ("g", r"\bgr?\b|gram")),
    "ml": (("in³", r"in³|in3|cubic in"), ("ml", r"\bml\b|millil"), ("l", r"\bl\b|lit(re|er)")),
    "mm": (("mm", r"\bmm\b"), ("cm", r"\bcm\b"), ("in", r"\bin\b|inch"), ("m", r"\bm\b")),
}


@dataclass(frozen=True, kw_only=True)
class Column:
    """What one column is taken for."""

    index: int
    header: str
    field: str  # key of FIELDS, or SKIP
    unit: str = ""
    sample: str = ""


@dataclass(frozen=True, kw_only=True)
class TableMapping:
    """How a table is read."""

    header_row: int  # number of the row that names the columns; 0: none does
    columns: tuple[Column, ...]


def guess_mapping(grid: Grid) -> TableMapping:
    """Return what the columns of a table most likely mean, from its header and what stands below it."""
    header = _header_row(grid)
    names = grid.rows[header - 1] if header else ()
    width = max((len(row) for row in grid.rows), default=0)
    body = grid.rows[header:]
    taken: set[str] = set()
    columns = []
    for index in range(width):
        name = names[index] if index < len(names) else ""
        cells = _filled(body, index)
        field = _field_of(name) if name else SKIP
        if field in taken:
            field = SKIP
        taken |= {field} - {SKIP}
        columns.append(Column(index=index, header=name, field=field, sample=cells[0] if cells else ""))
    if not header:
        columns = _by_content(columns, body)
    return TableMapping(header_row=header, columns=tuple(_with_unit(column, body) for column in columns))


def _header_row(grid: Grid) -> int:
    for number, row in enumerate(grid.rows[:12], start=1):
        known = {_field_of(cell) for cell in row if cell} - {SKIP}
        if ("name" in known and len(known) >= 2) or len(known) >= 3:
            return number
    return 0


def _plain(header: str) -> str:
    return re.sub(r"[\[\](){}:]", " ", header.lower().replace("_", " ")).strip()


def _field_of(header: str) -> str:
    exact = header.strip().lower()
    if exact in BY_KEY:
        return exact
    if exact in IGNORED or len(exact) > 40:
        return SKIP
    plain = _plain(header)
    return next((field.key for field in FIELDS if re.search(field.words, plain)), SKIP)


def _filled(body: tuple[tuple[str, ...], ...], index: int) -> list[str]:
    """Return the cells of a column that hold something."""
    return [row[index] for row in body if index < len(row) and row[index]]


def _by_content(columns: list[Column], body: tuple[tuple[str, ...], ...]) -> list[Column]:
    """Take the first column of words for the name and the first of figures for the mass."""
    named = weighed = False
    found = []
    for column in columns:
        cells = _filled(body, column.index)
        figures = sum(1 for cell in cells if re.match(r"^[\d.,]+\s*\D{0,5}$", cell))
        if not named and cells and figures < 0.3 * len(cells):
            found.append(replace(column, field="name"))
            named = True
        elif not weighed and cells and figures > 0.7 * len(cells):
            found.append(replace(column, field="mass_g"))
            weighed = True
        else:
            found.append(column)
    return found


def _with_unit(column: Column, body: tuple[tuple[str, ...], ...]) -> Column:
    """Return a column with its unit: by its header, else by what the figures are like."""
    field = BY_KEY.get(column.field)
    if field is None or field.unit not in _UNIT_WORDS:
        return replace(column, unit=field.unit if field else "")
    plain = _plain(column.header)
    for unit, words in _UNIT_WORDS[field.unit]:
        if re.search(words, plain):
            return replace(column, unit=unit)
    values = [_figure(row[column.index]) for row in body if column.index < len(row)]
    known = [value for value in values if value]
    if known and field.unit == "g" and median(known) < 1.5:
        return replace(column, unit="kg")
    if known and field.unit == "ml" and median(known) < 12.0:
        return replace(column, unit="l")
    return replace(column, unit=field.unit)


def _figure(text: str) -> float | None:
    try:
        return parse_number(text) if text else None
    except InvalidInput:
        return None


@dataclass(frozen=True, kw_only=True)
class Aside:
    """A row that was not taken, and why."""

    number: int
    cells: tuple[str, ...]
    sentence: str


@dataclass(frozen=True, kw_only=True)
class KitTable:
    """What a table comes to."""

    items: tuple[Item, ...]  # believable
    doubtful: tuple[tuple[int, Item, str], ...]  # row, thing, what is hard to believe
    aside: tuple[Aside, ...]
    merged: tuple[str, ...]  # names that stood there twice, alike, and were added up
    numbers: tuple[int, ...]  # row of each item


def _refuse_mapping(mapping: TableMapping) -> None:
    """Refuse columns that tell no things: without name or mass, or with one field twice."""
    fields = [column.field for column in mapping.columns if column.field]
    if "name" not in fields:
        raise UnreadableFile("No column is the name. Say which column names the things.", subject="name")
    if "mass_g" not in fields:
        raise UnreadableFile("No column is the mass. Say which column holds it.", subject="mass_g")
    doubled = [key for key, count in Counter(fields).items() if count > 1]
    if doubled:
        raise UnreadableFile(f"Two columns are both {BY_KEY[doubled[0]].title}. Skip one.", subject=doubled[0])


def read_kit(grid: Grid, mapping: TableMapping, *, taken: frozenset[str] = frozenset(), merge: bool = True) -> KitTable:
    """Return the things of a table; a row that cannot be read is put aside with its reason, none is lost."""
    _refuse_mapping(mapping)
    good: list[tuple[int, Item]] = []
    doubtful, aside = [], []
    insides: dict[str, str] = {}
    ids = set(taken)
    for number, row in enumerate(grid.rows[mapping.header_row :], start=mapping.header_row + 1):
        if not any(row):
            continue
        cells = {c.field: (row[c.index] if c.index < len(row) else "", c) for c in mapping.columns if c.field}
        try:
            item = _item(number, cells, ids)
        except InvalidInput as exc:
            aside.append(Aside(number=number, cells=row, sentence=exc.message))
            continue
        insides[item.id] = cells.get("inside", ("",))[0]
        doubt = doubt_of(item)
        if doubt:
            doubtful.append((number, item, doubt))
        else:
            good.append((number, item))
    good, merged = _merged(good) if merge else (good, [])
    everything = [item for _, item in good] + [item for _, item, _ in doubtful]
    holders = {item.name.lower(): item.id for item in everything if item.holds}

    def put_inside(item: Item) -> Item:
        return replace(item, container=holders.get(insides.get(item.id, "").lower(), ""))

    return KitTable(
        items=tuple(put_inside(item) for _, item in good),
        doubtful=tuple((number, put_inside(item), doubt) for number, item, doubt in doubtful),
        aside=tuple(aside),
        merged=tuple(merged),
        numbers=tuple(number for number, _ in good),
    )


def _merged(rows: list[tuple[int, Item]]) -> tuple[list[tuple[int, Item]], list[str]]:
    """Add up rows that are alike but for how many; rows of one name that differ both stay."""
    seen: dict[Item, int] = {}
    kept: list[tuple[int, Item]] = []
    merged = []
    most = int(LIMITS["quantity"].high)
    for number, item in rows:
        like = replace(item, id="", quantity=1)
        k = seen.setdefault(like, len(kept))
        if k == len(kept) or kept[k][1].quantity + item.quantity > most:
            kept.append((number, item))
        else:
            first, other = kept[k]
            kept[k] = (first, replace(other, quantity=other.quantity + item.quantity))
            merged.append(item.name)
    return kept, merged


Cells = Mapping[str, tuple[str, Column]]


def item_id(name: str, taken: set[str]) -> str:
    """Return a short id for a name that is not taken yet, and take it."""
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "thing"
    candidate, number = stem, 2
    while candidate in taken:
        candidate, number = f"{stem}-{number}", number + 1
    taken.add(candidate)
    return candidate


def _item(number: int, cells: Cells, ids: set[str]) -> Item:
    """Return the thing of a row."""
    name = cells["name"][0][:80]
    if not name:
        raise UnreadableFile(f"Row {number}: the name is missing.", subject="name")
    told = {key: _told(number, cells, BY_KEY[key]) for key in cells if key != "inside"}
    if told["mass_g"] is None:
        where = _where(number, cells, "mass_g")
        raise UnreadableFile(f"{where}: the mass of {name[:40]} is missing.", subject="mass_g")
    told["content_g"] = min(told.get("content_g") or 0.0, told["mass_g"])
    return told_item({**told, "name": name}, item_id(name, ids)).core()


def _told(number: int, cells: Cells, field: Field) -> Any:
    """Return what a cell tells of a field, None where it tells nothing."""
    match field.kind:
        case "number":
            return _number(number, cells, field.key)
        case "whole":
            value = _number(number, cells, field.key)
            return None if value is None else int(value)
        case "flag":
            return _flag(number, cells, field.key)
        case "words":
            return sorted(_words(number, cells, field.key, _KNOWN[field.key]))
        case "list":
            return _listed(number, cells, field.key, _KNOWN[field.key])
    return cells[field.key][0][: _LONGEST[field.key]]


_LONGEST = {"name": 80, "group": 60, "note": 200}
_ACCESS_WORDS = {**{key: key for key in ACCESS_RANK}, **{name: key for key, name in ACCESS_NAMES.items()}}
_CATEGORY_WORDS = {
    **{name: key for key, (name, _) in CATEGORIES.items()},
    "sleeping": "sleep", "shelter": "sleep", "clothing": "clothes", "tool": "tools", "repair": "tools",
    "spares": "tools", "electronics": "power", "lights": "power", "light": "power", "electric": "power",
    "health": "hygiene", "medical": "hygiene", "wash": "hygiene", "documents": "papers", "misc": "other",
    "nutrition": "food", "kitchen": "other",
}  # fmt: skip
_KNOWN: Mapping[str, Mapping[str, str]] = {
    "category": {**{key: key for key in CATEGORIES}, **_CATEGORY_WORDS},
    "access": _ACCESS_WORDS,
    "need": {key: key for key in NEEDS},
    "roles": {**{key: key for key in JOBS}, **{job.name: key for key, job in JOBS.items()}},
    "tools": {**{key: key for key in TOOLS}, **{title.lower(): key for key, title in TOOLS.items()}},
}


def _where(number: int, cells: Cells, key: str) -> str:
    column = cells[key][1]
    return f"Row {number}, column {column.header or BY_KEY[key].title}"


def _number(number: int, cells: Cells, key: str) -> float | None:
    """Return a figure in its field's unit, or None where the cell is empty."""
    if key not in cells or not cells[key][0]:
        return None
    text, column = cells[key]
    field = BY_KEY[key]
    try:
        plain = text.rstrip("% ") if field.unit == "%" else text
        # a bare figure is in the column's unit; one with a unit of its own says so itself
        bare = re.fullmatch(r"[+\-−]?[\d.,' \u00a0\u2009\u202f]+", plain.strip()) is not None
        value = parse_number(plain, unit="" if bare else field.unit)
        if bare and column.unit and column.unit != field.unit:
            value *= UNITS[field.unit][column.unit]
    except InvalidInput as exc:
        raise UnreadableFile(f"{_where(number, cells, key)}: {exc.message}", subject=key) from exc
    low, high = (bound * field.factor for bound in LIMITS[field.limit])
    if field.kind == "whole" and not float(value).is_integer():
        raise UnreadableFile(f"{_where(number, cells, key)}: {text[:20]} is no whole number.", subject=key)
    if not low <= value <= high:
        shown = f" = {value:,.0f} {field.unit}" if not bare or column.unit != field.unit else ""
        raise UnreadableFile(
            f"{_where(number, cells, key)}: {text[:20]}{shown} is outside {low:g} to {high:g} {field.unit}".rstrip()
            + f" ({cells['name'][0][:40]}). Check the unit.",
            subject=key,
        )
    return round(value, 6)


def _flag(number: int, cells: Cells, key: str) -> bool:
    text = cells[key][0].lower()
    if text in _YES or text in _NO:
        return text in _YES
    raise UnreadableFile(f"{_where(number, cells, key)}: write yes or no, not “{text[:20]}”.", subject=key)


def _listed(number: int, cells: Cells, key: str, known: Mapping[str, str]) -> str | None:
    if not cells[key][0]:
        return None
    text = cells[key][0].lower()
    if text in known:
        return known[text]
    if key == "category":
        return "other"  # other people's sections are their own; the thing itself is what counts
    raise UnreadableFile(
        f"{_where(number, cells, key)}: “{text[:20]}” is not one of {', '.join(dict.fromkeys(known.values()))}.",
        subject=key,
    )


def _words(number: int, cells: Cells, key: str, known: Mapping[str, str]) -> frozenset[str]:
    try:
        return words_from_list(cells[key][0], known, BY_KEY[key].title.rstrip("s"))
    except InvalidInput as exc:
        raise UnreadableFile(f"{_where(number, cells, key)}: {exc.message}", subject=key) from exc
