"""A kit from any table: kept for a week, looked over, then taken; what is not taken is kept aside."""

from dataclasses import dataclass, replace
from uuid import UUID

from stonechat.core.kit.containers import refuse_loops
from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.recognise import Recognition, recognise
from stonechat.core.kit.sheet import LONGEST_HEADER, MOST_COLUMNS, SheetColumn
from stonechat.core.plan.plan import Plan
from stonechat.db import uploads
from stonechat.errors import InvalidInput
from stonechat.formats.csv_table import write_table
from stonechat.formats.kit_columns import Column, TableMapping, guess_mapping
from stonechat.formats.kit_fields import BY_KEY, SKIP
from stonechat.formats.kit_table import KitTable, item_id, read_kit
from stonechat.formats.numbers import UNITS
from stonechat.formats.table_file import Grid, read_grid
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.kit.sorting import ListedBag, NamedBag, listed_bags, named_bags, sorted_into, with_bags
from stonechat.services.workspace import Workspace

SAME_NAME = {
    "update": "update the thing that is there",
    "add": "add it as another thing",
    "skip": "leave it out",
}
MOST_ITEMS = 5_000


@dataclass(frozen=True, kw_only=True)
class Choices:
    """What the rider chose on looking over; nothing chosen means as guessed."""

    columns: tuple[tuple[str, str], ...] = ()  # field and unit of each column
    header_row: int | None = None
    same_name: str = "update"
    replace_kit: bool = False
    doubtful: frozenset[int] = frozenset()  # rows that are taken although they are hard to believe
    kinds: tuple[tuple[int, str], ...] = ()  # of rows that were not sure: key of KINDS, or empty for none of them
    bags: tuple[tuple[str, str], ...] = ()  # by the table's words: a carrier, to be made, or empty for no place


@dataclass(frozen=True, kw_only=True)
class Look:
    """A table looked over."""

    upload_id: UUID
    name: str
    grid: Grid
    mapping: TableMapping
    table: KitTable | None  # None where the columns do not make a kit
    fault: str  # why not
    choices: Choices
    known: tuple[str, ...] = ()  # names that are in the kit already
    rows: tuple["Row", ...] = ()  # all that may come, in the order of the table
    bags: tuple[NamedBag, ...] = ()
    listed: tuple[ListedBag, ...] = ()  # bags that stand among the things


@dataclass(frozen=True, kw_only=True)
class Row:
    """One thing that may come, and what it is taken for."""

    number: int
    item: Item
    recognition: Recognition
    place: str  # as the table calls it
    is_estimated: bool  # whether its mass is the usual one of its kind
    is_said: bool  # whether the rider said what it is

    @property
    def is_asked(self) -> bool:
        """Whether the rider is asked what it is."""
        return self.recognition.kind is None

    @property
    def is_other(self) -> bool:
        """Whether the rider said that it is a kind which its name does not suggest."""
        return bool(self.item.kind) and self.item.kind not in {guess.kind.key for guess in self.recognition.guesses[:4]}


def stage_table(workspace: Workspace, name: str, data: bytes) -> UUID:
    """Keep a table for a week, once it proves to be one."""
    read_grid(data)
    with workspace.store.transaction() as session:
        return uploads.add_upload(session, name=name[:200] or "table", data=data)


def look_over(workspace: Workspace, opened: OpenPlan, variant_id: str, upload_id: UUID, choices: Choices) -> Look:
    """Return what a kept table would bring, by the columns as guessed or chosen."""
    with workspace.store.transaction() as session:
        upload = uploads.read_upload(session, upload_id)
    grid = read_grid(upload.data)
    mapping = _chosen(guess_mapping(grid), choices)
    table, fault = None, ""
    try:
        table = read_kit(
            grid, mapping, taken=frozenset(item.id for item in opened.plan.items), kinds=dict(choices.kinds)
        )
    except InvalidInput as exc:
        fault = exc.message
    look = Look(
        upload_id=upload_id, name=upload.name, grid=grid, mapping=mapping, table=table, fault=fault, choices=choices
    )
    return look if table is None else _with_table(look, table, opened.plan, variant_id)


def _with_table(look: Look, table: KitTable, plan: Plan, variant_id: str) -> Look:
    """Return the same with what its table brings."""
    names = {item.name.lower() for item in plan.items}
    come = (*table.items, *(item for _, item, _ in table.doubtful))
    variant = plan.variant(variant_id)
    return replace(
        look,
        known=tuple(item.name for item in come if item.name.lower() in names),
        rows=_rows(table, frozenset(dict(look.choices.kinds))),
        listed=listed_bags(table.bags, variant),
        bags=named_bags(table.places, variant, dict(look.choices.bags)),
    )


def _rows(table: KitTable, said: frozenset[int]) -> tuple[Row, ...]:
    numbered = [*zip(table.numbers, table.items, strict=True), *((number, item) for number, item, _ in table.doubtful)]
    return tuple(
        Row(
            number=number,
            item=item,
            recognition=recognise(item.name),
            place=table.places.get(item.id, ""),
            is_estimated=item.id in table.estimated,
            is_said=number in said,
        )
        for number, item in sorted(numbered, key=lambda entry: entry[0])
    )


def _chosen(guessed: TableMapping, choices: Choices) -> TableMapping:
    """Return the mapping with what the rider chose; a unit that does not go with its field is the field's own."""
    if not choices.columns:
        return guessed
    columns = []
    for column, (field, unit) in zip(guessed.columns, choices.columns, strict=False):
        known = BY_KEY.get(field)
        own = known.unit if known else ""
        columns.append(
            Column(
                index=column.index,
                header=column.header,
                field=field if known else SKIP,
                unit=unit if unit in UNITS.get(own, {}) else own,
                sample=column.sample,
            )
        )
    header = guessed.header_row if choices.header_row is None else choices.header_row
    return TableMapping(header_row=max(0, min(header, 200)), columns=tuple(columns))


@dataclass(frozen=True, kw_only=True)
class Brought:
    """What came in."""

    opened: OpenPlan
    added: int
    updated: int
    skipped: int
    aside: int
    refused: tuple[str, ...]  # what did not go into the bag that the table names
    upload_id: UUID | None  # rows put aside wait there


def bring_in(
    workspace: Workspace, opened: OpenPlan, variant_id: str, upload_id: UUID, choices: Choices, *, revision: int
) -> Brought:
    """Take a table into the kit, and its things into the bags that it names; rows not taken wait aside with reasons."""
    look = look_over(workspace, opened, variant_id, upload_id, choices)
    table = look.table
    if table is None:
        raise InvalidInput(look.fault, subject="columns")
    if choices.same_name not in SAME_NAME:
        raise InvalidInput("Say what to do with names that are there already.", subject="same_name")
    believed = [item for number, item, _ in table.doubtful if number in choices.doubtful]
    if not (table.items or believed or table.bags):
        raise InvalidInput("No row of this table can be taken. Mend its columns or its cells.", subject="columns")
    counts = {"added": 0, "updated": 0, "skipped": 0}
    refused: list[str] = []

    def change(plan: Plan) -> Plan:
        counts.update(added=0, updated=0, skipped=0)
        before = plan.variant(variant_id)
        rig, no_carriers = with_bags(before, table.bags)
        coming = (*table.items, *believed, *no_carriers)
        items, renamed = _joined(() if choices.replace_kit else plan.items, coming, choices.same_name, counts)
        if len(items) > MOST_ITEMS:
            raise InvalidInput(f"A kit has at most {MOST_ITEMS:,} things. Bring in fewer.", subject="file")
        refuse_loops(items)
        ids = {item.id for item in items}
        variants = tuple(
            replace(
                variant,
                places={key: place for key, place in variant.places.items() if key in ids},
                pins=variant.pins & ids,
                joins={key: stop for key, stop in variant.joins.items() if key in ids},
                posts={key: stop for key, stop in variant.posts.items() if key in ids},
            )
            for variant in (rig if v.id == rig.id else v for v in plan.variants)
        )
        places = {renamed[key]: words for key, words in table.places.items() if key in renamed}
        hung = frozenset(c.id for c in rig.carriers) - {c.id for c in before.carriers}
        mine, not_in = sorted_into(
            next(v for v in variants if v.id == variant_id), items, places, dict(choices.bags), hung=hung
        )
        refused[:] = not_in
        sheet = plan.sheet if plan.sheet and not choices.replace_kit else _sheet_of(look.mapping)
        return replace(plan, items=items, sheet=sheet, variants=tuple(mine if v.id == mine.id else v for v in variants))

    label = f"brought in {len(table.items) + len(believed)} things from {look.name[:60]}"
    after = change_plan(workspace, opened.id, revision=revision, label=label, change=change)
    aside = _keep_aside(workspace, look, choices)
    return Brought(
        opened=after, aside=len(aside), refused=tuple(refused), upload_id=upload_id if aside else None, **counts
    )


def _sheet_of(mapping: TableMapping) -> tuple[SheetColumn, ...]:
    """Return the columns of a table, to go out again as it came in."""
    return tuple(
        SheetColumn(header=column.header[:LONGEST_HEADER], field=column.field, unit=column.unit)
        for column in mapping.columns[:MOST_COLUMNS]
    )


def _joined(
    present: tuple[Item, ...], coming: tuple[Item, ...], same_name: str, counts: dict[str, int]
) -> tuple[tuple[Item, ...], dict[str, str]]:
    """Return the kit with what comes, and under which id each of those is in it."""
    by_name: dict[str, str] = {}
    for item in present:
        by_name.setdefault(item.name.lower(), item.id)
    items = {item.id: item for item in present}
    taken = set(items)
    renamed: dict[str, str] = {}
    for item in coming:
        there = by_name.get(item.name.lower()) if same_name in ("skip", "update") else None
        if there is not None and same_name == "skip":
            counts["skipped"] += 1
        elif there is not None:
            renamed[item.id] = there
            items[there] = replace(item, id=there)
            counts["updated"] += 1
        else:
            new = item.id if item.id not in taken else item_id(item.name, taken)
            taken.add(new)
            renamed[item.id] = new
            items[new] = replace(item, id=new)
            counts["added"] += 1
    joined = (replace(item, container=renamed.get(item.container, item.container)) for item in items.values())
    return tuple(joined), renamed


def _keep_aside(workspace: Workspace, look: Look, choices: Choices) -> tuple[tuple[str, ...], ...]:
    """Put the rows that were not taken in the upload's place, each with its reason; with none it is thrown away."""
    table = look.table
    reasons = {entry.number: entry.sentence for entry in table.aside} if table else {}
    doubtful = table.doubtful if table else ()
    reasons |= {number: doubt for number, _, doubt in doubtful if number not in choices.doubtful}
    header = tuple(column.header or f"column {column.index + 1}" for column in look.mapping.columns)
    width = len(header)
    rows = []
    for number in sorted(reasons):
        cells = look.grid.rows[number - 1]
        rows.append((*cells, *("",) * (width - len(cells)), reasons[number])[: width + 1])
    with workspace.store.transaction() as session:
        if rows:
            uploads.replace_upload(session, look.upload_id, write_table((*header, "why_aside"), rows))
        else:
            uploads.drop_upload(session, look.upload_id)
    return tuple(rows)


def table_bytes(workspace: Workspace, upload_id: UUID) -> bytes:
    """Return a kept table, such as the rows put aside."""
    with workspace.store.transaction() as session:
        return uploads.read_upload(session, upload_id).data
