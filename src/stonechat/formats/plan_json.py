"""The open plan document: JSON with units in every name, a version, and a schema made from these classes.

A plan is kept as a `PlanBody` (all but the recorded course, which is large and never changes) and exported as a
`PlanDocument`. Reading an older version upgrades it step by step; a newer one is refused.
"""

import json
from collections.abc import Callable
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from stonechat.core.kit.sheet import MOST_COLUMNS
from stonechat.core.line.track import Track
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.printing import EMERGENCY
from stonechat.errors import InvalidInput, TooLarge, UnreadableFile
from stonechat.formats.documents.kit import ItemDocument, SheetColumnDocument, upgraded_item
from stonechat.formats.documents.line import LineDocument, RulesDocument, TrackDocument
from stonechat.formats.documents.part import Name, OneOf, Part
from stonechat.formats.documents.rig import upgraded_bike, upgraded_carrier
from stonechat.formats.documents.variant import VariantDocument
from stonechat.text import clean_json

SCHEMA = "stonechat-plan"
VERSION = 5  # the newest; `PlanBody.version` names the same
MOST_BYTES = 24_000_000
T = TypeVar("T", bound=BaseModel)


def _to_version_2(raw: dict[str, Any]) -> dict[str, Any]:
    """Bikes got more measures, carriers a box and their drag by the drawing, things roles and more."""
    try:
        variants = [
            {
                **variant,
                "bike": upgraded_bike(variant["bike"]),
                "carriers": [upgraded_carrier(carrier) for carrier in variant.get("carriers", [])],
            }
            for variant in raw["variants"]
        ]
        items = [upgraded_item(item) for item in raw.get("items", [])]
    except (KeyError, TypeError, ValueError, AttributeError) as exc:
        raise UnreadableFile(
            "The plan is of version 1, but its bikes, carriers or things are not as version 1 had them. "
            "Export it again.",
            subject="variants",
        ) from exc
    return {**raw, "version": 2, "variants": variants, "items": items}


def _to_version_3(raw: dict[str, Any]) -> dict[str, Any]:
    """Smoothing and threshold that nobody had chosen follow the track's own noise."""
    line = raw.get("line")
    if not isinstance(line, dict):
        return {**raw, "version": 3}
    usual = {"smoothing_m": 60.0, "ascent_threshold_m": 5.0}
    chosen = {key: value for key, value in line.items() if key not in usual or value != usual[key]}
    return {**raw, "version": 3, "line": chosen}


def _to_version_4(raw: dict[str, Any]) -> dict[str, Any]:
    """Food weighs and fills what is bought does, where the rider did not say."""
    variants = raw.get("variants")
    if not isinstance(variants, list):
        return {**raw, "version": 4}
    return {**raw, "version": 4, "variants": [_with_food_as_bought(variant) for variant in variants]}


def _with_food_as_bought(variant: Any) -> Any:
    supply = variant.get("supply") if isinstance(variant, dict) else None
    if not isinstance(supply, dict):
        return variant
    usual = {"food_kcal_per_kg": 4_000.0, "food_kcal_per_l": 1_900.0}
    return {**variant, "supply": {key: value for key, value in supply.items() if usual.get(key) != value}}


def _to_version_5(raw: dict[str, Any]) -> dict[str, Any]:
    """A thing may ride elsewhere more than once."""
    variants = raw.get("variants")
    if not isinstance(variants, list):
        return {**raw, "version": 5}
    return {**raw, "version": 5, "variants": [_with_windows(variant) for variant in variants]}


def _with_windows(variant: Any) -> Any:
    repacks = variant.get("repacks") if isinstance(variant, dict) else None
    if not isinstance(repacks, dict):
        return variant
    return {**variant, "repacks": {key: [there] for key, there in repacks.items()}}


_UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {  # from version n to n + 1
    1: _to_version_2,
    2: _to_version_3,
    3: _to_version_4,
    4: _to_version_5,
}


EmergencyWords = Annotated[str, Field(max_length=300)]


class PlanBody(Part):
    """All of a plan but its recorded course."""

    version: Literal[5] = 5
    name: Name
    line: LineDocument
    rules: RulesDocument = RulesDocument()
    items: list[ItemDocument] = Field([], max_length=5_000)
    partner: Annotated[str, Field(max_length=40)] = ""
    sheet: list[SheetColumnDocument] = Field([], max_length=MOST_COLUMNS)
    emergency: dict[Annotated[str, OneOf(EMERGENCY, "entry of the emergency page")], EmergencyWords] = Field({})
    variants: list[VariantDocument] = Field(min_length=1, max_length=24)

    @model_validator(mode="after")
    def _ids_differ(self) -> "PlanBody":
        for what, ids in (
            ("things", [item.id for item in self.items]),
            ("variants", [variant.id for variant in self.variants]),
            ("stops", [stop.id for stop in self.line.stops]),
        ):
            if len(set(ids)) != len(ids):
                raise ValueError(f"two {what} share an id")
        return self

    @classmethod
    def of(cls, plan: Plan) -> "PlanBody":
        """Return the body of a plan."""
        return cls(
            name=plan.name,
            line=LineDocument.of(plan.line),
            rules=RulesDocument.of(plan.rules),
            items=[ItemDocument.of(item) for item in plan.items],
            partner=plan.partner,
            sheet=[SheetColumnDocument.of(column) for column in plan.sheet],
            emergency=dict(plan.emergency),
            variants=[VariantDocument.of(variant) for variant in plan.variants],
        )

    def core(self, track: Track) -> Plan:
        """Return the plan over its recorded course."""
        return Plan(
            name=self.name,
            line=self.line.core(track),
            rules=self.rules.core(),
            items=tuple(item.core() for item in self.items),
            partner=self.partner,
            sheet=tuple(column.core() for column in self.sheet),
            emergency=dict(self.emergency),
            variants=tuple(variant.core() for variant in self.variants),
        )


class PlanDocument(PlanBody):
    """A whole plan, as it is exported."""

    model_config = ConfigDict(title="Stonechat plan")
    format: Literal["stonechat-plan"] = SCHEMA  # type: ignore[assignment]
    track: TrackDocument


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of the plan document."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **PlanDocument.model_json_schema()}


def write_plan(plan: Plan) -> bytes:
    """Return a plan as JSON; reading it gives an equal plan."""
    body = PlanBody.of(plan).model_dump(mode="json")
    document = PlanDocument.model_validate({**body, "format": SCHEMA, "track": TrackDocument.of(plan.line.track)})
    return json.dumps(_in_order(document, document.model_dump(mode="json")), indent=1, ensure_ascii=False).encode()


def _in_order(document: BaseModel, dumped: dict[str, Any]) -> dict[str, Any]:
    """Return a dumped document with its fields as they are declared, and what is kept by id in the order of the ids.

    So the same plan gives the same bytes, whatever the database made of the order.
    """
    for name in type(document).model_fields:
        value = getattr(document, name)
        if isinstance(value, BaseModel):
            dumped[name] = _in_order(value, dumped[name])
        elif isinstance(value, dict):
            dumped[name] = dict(sorted(dumped[name].items()))
        elif isinstance(value, list) and value and isinstance(value[0], BaseModel):
            dumped[name] = [_in_order(*pair) for pair in zip(value, dumped[name], strict=True)]
    return dumped


def read_plan(data: bytes) -> Plan:
    """Return the plan of a JSON document, or refuse it with the place that is wrong."""
    if len(data) > MOST_BYTES:
        raise TooLarge(f"The plan has {len(data) / 1e6:.0f} MB; {MOST_BYTES / 1e6:.0f} MB is the most.")
    try:
        raw = clean_json(json.loads(data))
    except (ValueError, RecursionError) as exc:
        where = f": line {exc.lineno}, column {exc.colno}" if isinstance(exc, json.JSONDecodeError) else ""
        raise UnreadableFile(f"The file is not readable as JSON{where}. Export the plan again.") from exc
    if not isinstance(raw, dict) or raw.get("format") != SCHEMA:
        raise UnreadableFile(f"The file is JSON but no plan: its format is not “{SCHEMA}”. Choose an exported plan.")
    document = validated(PlanDocument, upgraded(raw))
    try:
        return PlanBody.model_validate(document.model_dump(exclude={"track", "format"})).core(document.track.core())
    except InvalidInput as exc:
        raise UnreadableFile(f"The plan's course cannot be used. {exc.message}") from exc


def upgraded(raw: dict[str, Any]) -> dict[str, Any]:
    """Return a body or document brought up to this version; a newer one is refused."""
    version = raw.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise UnreadableFile("The plan states no version. Export it again.", subject="version")
    if version > VERSION:
        raise UnreadableFile(
            f"The plan has version {version}; this program reads up to {VERSION}. Update the program, then bring "
            "the plan in.",
            subject="version",
        )
    while version < VERSION:
        raw = _UPGRADES[version](raw)
        version += 1
    return raw


def validated(model: type[T], raw: dict[str, Any]) -> T:
    """Return the validated document, or refuse it with the first place that is wrong."""
    try:
        return model.model_validate(raw)
    except ValidationError as exc:
        item = exc.errors(include_url=False)[0]
        place = ".".join(str(part) for part in item["loc"]) or "the plan"
        message = item["msg"].removeprefix("Value error, ")
        given = item["input"]
        shown = f" (given: {str(given)[:40]})" if isinstance(given, str | int | float) else ""
        raise UnreadableFile(
            f"The plan cannot be read at {place}: {message}{shown}. Correct it there and bring it in again.",
            subject=place,
        ) from exc
