"""Whatever words a plan comes with: what is accepted can be kept, shown, and taken out in every format."""

import json
import random
from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.line.track import trimmed_track
from stonechat.core.plan.plan import Plan
from stonechat.errors import StonechatError
from stonechat.formats.geojson import read_geojson
from stonechat.formats.gpx import read_gpx
from stonechat.formats.kit_csv import read_kit_rows, write_kit_rows, write_kit_sheet
from stonechat.formats.plan_json import read_plan, write_plan
from stonechat.formats.table_file import read_grid
from stonechat.text import clean_text
from tests.faults.damage import WORDS

SHOWN = ("line", "rhythm", "rig", "kit", "load", "supply", "cards")
TEXTS = {"name": 60, "note": 200, "group": 60, "steadied_by": 60}  # fields that hold a person's words
ANY_WORD = st.text(st.characters(exclude_categories=()), min_size=1, max_size=60)


@pytest.fixture(scope="module")
def small(demo: Plan) -> Plan:
    """The demo plan over its first 40 km, with few things."""
    line = replace(demo.line, track=trimmed_track(demo.line.track, 0.0, 40_000.0), stops=demo.line.stops[:3])
    return replace(demo, line=replace(line, spans=()), variants=demo.variants[:1])


def reworded(plan: Plan, words: list[str], chance: random.Random) -> bytes:
    """The plan's document with other words wherever it holds words."""

    def change(part: Any) -> None:
        for key, value in part.items() if isinstance(part, dict) else enumerate(part):
            if isinstance(value, dict | list) and key != "track":
                change(value)
            elif isinstance(value, str) and key in TEXTS:
                part[key] = (chance.choice(words) + chance.choice(words))[: TEXTS[key]] or "x"

    raw = json.loads(write_plan(plan))
    change(raw)
    return json.dumps(raw).encode("utf-8", "surrogatepass")


@pytest.mark.parametrize("seed", range(4))
def test_a_plan_of_odd_words_is_kept_shown_and_taken_out(small: Plan, client: TestClient, seed: int) -> None:
    chance = random.Random(seed)
    words = [word for word in WORDS if clean_text(word)]
    came = client.post("/plans", files={"file": ("p.json", reworded(small, words, chance))}, data={"mine": "yes"})
    assert came.status_code == 303, came.text
    plan = came.headers["location"].partition("?")[0].removesuffix("/line")
    for room in SHOWN:
        assert client.get(f"{plan}/{room}").status_code == 200

    def taken(name: str) -> bytes:
        answer = client.get(f"{plan}/do/{name}")
        assert answer.status_code == 200, name
        return answer.content

    kept = read_plan(taken("plan.json"))
    assert write_plan(kept) == taken("plan.json")  # the same bytes, whatever the database made of the order
    assert [stop.name for stop in kept.line.stops if stop.used] == [
        p.name for p in read_gpx(taken("course.gpx")).waypoints
    ]
    assert read_geojson(taken("course.geojson")).lines[0].points == kept.line.track.heights.size
    assert read_grid(taken("kit.csv")).rows[1:] and read_grid(taken("kit.xlsx")).rows[1:]
    for name in ("cards.pdf", "countdown.pdf"):
        assert taken(name).startswith(b"%PDF")
    assert taken("course.fit") and taken("course.tcx") and taken("timetable.ics") and taken("tables.xlsx")
    for table in ("stops", "surfaces", "weather"):
        assert taken(f"tables/{table}.csv")


@given(words=st.lists(ANY_WORD, min_size=1, max_size=6), seed=st.integers(0, 1000))
@settings(max_examples=25)
def test_any_words_come_back_equal_or_are_refused_with_a_sentence(small: Plan, words: list[str], seed: int) -> None:
    try:
        plan = read_plan(reworded(small, words, random.Random(seed)))
    except StonechatError as exc:
        assert exc.message.endswith(".")
        return
    again = read_plan(write_plan(plan))
    assert again.items == plan.items and again.name == plan.name and again.line.stops == plan.line.stops
    names = [" ".join(item.name.split()) for item in plan.items]
    for table in (write_kit_rows(plan.items), write_kit_sheet(plan.items)):
        if all(names):
            came = read_kit_rows(table) if table[:2] != b"PK" else None
            rows = [row[0] for row in read_grid(table).rows[1:]]
            assert [" ".join(row.split()) for row in rows] == names
            assert came is None or len(came) == len(names)
    assert write_plan(plan) == write_plan(again)
