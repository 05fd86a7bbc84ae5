"""The plan document: there and back, its schema, older and newer ones, damaged ones."""

import json
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import jsonschema
import pytest
from hypothesis import given, settings

from stonechat.core.kit.item import HOME, Item
from stonechat.core.line.stops import Stop
from stonechat.core.plan.plan import Plan
from stonechat.errors import StonechatError, UnreadableFile
from stonechat.formats.plan_json import json_schema, read_plan, write_plan
from tests.strategies import kits


def same(a: Plan, b: Plan) -> bool:
    """Compare plans; courses by their points."""
    tracks = [
        (p.line.track.latitudes.tolist(), p.line.track.longitudes.tolist(), p.line.track.heights.tolist())
        for p in (a, b)
    ]
    return tracks[0] == tracks[1] and replace(a, line=replace(a.line, track=b.line.track)) == b


def short(plan: Plan) -> Plan:
    """Return the plan over the first 200 points of its course."""
    track = plan.line.track
    cut = replace(
        track, latitudes=track.latitudes[:200], longitudes=track.longitudes[:200], heights=track.heights[:200]
    )
    return replace(plan, line=replace(plan.line, track=cut))


def test_the_demo_plan_comes_back_equal(demo: Plan) -> None:
    assert same(read_plan(write_plan(demo)), demo)


@given(kits())
@settings(max_examples=20)
def test_any_kit_comes_back_equal(kit: tuple[Item, ...]) -> None:
    from stonechat.demo.corvane import demo_plan

    base = short(demo_plan())
    places = {item.id: ("seat" if k % 3 else HOME) for k, item in enumerate(kit)}
    variant = replace(base.variants[0], places=places, pins=frozenset(places))
    plan = replace(base, items=kit, variants=(variant,))
    again = read_plan(write_plan(plan))
    assert [replace(i, mass=round(i.mass, 9), volume=round(i.volume, 12)) for i in again.items] == [
        replace(i, mass=round(i.mass, 9), volume=round(i.volume, 12)) for i in kit
    ]
    assert again.variants == plan.variants


def test_hours_past_midnight_come_back(demo: Plan) -> None:
    bar = Stop(id="bar", name="Bar", distance=1_000.0, hours=(((18 * 3600.0, 26 * 3600.0),),) * 7)
    plan = replace(demo, line=replace(demo.line, stops=(bar,)))
    assert read_plan(write_plan(plan)).line.stops == (bar,)


def test_an_exported_plan_keeps_to_the_published_schema(demo: Plan) -> None:
    schema = json_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    validator = jsonschema.Draft202012Validator(schema)
    document = json.loads(write_plan(demo))
    assert list(validator.iter_errors(document)) == []
    document["items"][0]["mass_g"] = -1
    assert next(validator.iter_errors(document)).absolute_path[-1] == "mass_g"


def damaged(plan: Plan, **changes: object) -> bytes:
    document = json.loads(write_plan(plan))
    for path, value in changes.items():
        *way, last = path.split("__")
        part = document
        for step in way:
            part = part[int(step) if step.isdigit() else step]
        part[int(last) if last.isdigit() else last] = value
    return json.dumps(document).encode()


@pytest.mark.parametrize(
    ("changes", "sentence"),
    [
        ({"version": 99}, "version 99; this program reads up to 5. Update the program"),
        ({"version": "1"}, "states no version"),
        ({"format": "other"}, "is JSON but no plan"),
        ({"variants": []}, "cannot be read at variants"),
        ({"items__0__mass_g": -3}, "cannot be read at items.0.mass_g: .* .given: -3."),
        ({"items__0__mass_g": 3_000_000}, "items.0.mass_g"),
        ({"items__1__id": "rain-jacket"}, "two things share an id"),
        ({"variants__0__rhythm__zone": "Nowhere"}, "no time zone"),
        ({"variants__0__rhythm__rise": "25:00"}, "variants.0.rhythm.rise"),
        ({"line__stops__0__hours": [[]]}, "seven weekdays"),
        ({"line__surfaces__0__surface": "ice"}, "is no surface"),
        ({"track__lat_deg": [45.0, 45.001]}, "differ in length"),
        ({"surprise": 1}, "cannot be read at surprise"),
    ],
)
def test_a_damaged_plan_is_refused_at_its_place(demo: Plan, changes: dict[str, object], sentence: str) -> None:
    with pytest.raises(StonechatError, match=sentence):
        read_plan(damaged(short(demo), **changes))


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (b"", "not readable as JSON"),
        (b"{", "line 1, column 2"),
        (b"[]", "no plan"),
        (b'"x"', "no plan"),
        (b"[" * 200_000, "not readable"),
    ],
)
def test_what_is_no_json_is_refused(data: bytes, sentence: str) -> None:
    with pytest.raises(StonechatError, match=sentence):
        read_plan(data)


Place = tuple[str | int, ...]


def choices_of(schema: Any, part: Any, value: Any, path: Place = ()) -> Iterator[tuple[Place, list[str]]]:
    """Yield every place of a document for which the published schema names the choices."""
    part = schema["$defs"][part["$ref"].rpartition("/")[2]] if "$ref" in part else part
    if "enum" in part:
        yield path, part["enum"]
    for option in part.get("anyOf", []):
        yield from choices_of(schema, option, value, path)
    if isinstance(value, dict):
        for name, inner in part.get("properties", {}).items():
            if name in value and name != "track":
                yield from choices_of(schema, inner, value[name], (*path, name))
    if isinstance(value, list) and value and "items" in part:
        yield from choices_of(schema, part["items"], value[0], (*path, 0))


def with_value(raw: Any, path: tuple[Any, ...], value: str) -> bytes:
    changed = json.loads(json.dumps(raw))
    place = changed
    for key in path[:-1]:
        place = place[key]
    place[path[-1]] = value
    return json.dumps(changed).encode()


def test_the_schema_and_the_program_agree_on_every_choice(demo: Plan) -> None:
    few = replace(short(demo), variants=demo.variants[:1], items=demo.items[:2])
    raw, schema = json.loads(write_plan(few)), json_schema()
    validator = jsonschema.Draft202012Validator(schema)
    places = dict(choices_of(schema, schema, raw))
    assert len(places) > 25
    for path, known in places.items():
        for choice in known:
            data = with_value(raw, path, choice)
            assert validator.is_valid(json.loads(data))
            read_plan(data)
        wrong = with_value(raw, path, "no such choice")
        assert not validator.is_valid(json.loads(wrong))
        with pytest.raises(UnreadableFile):
            read_plan(wrong)
