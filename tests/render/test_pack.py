"""What the pack holds: small enough, nothing of the emergency page, nothing that runs but its own script."""

import json
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.late import LateTable
from stonechat.core.plan.plan import Plan
from stonechat.render.documents.pack import pack_data, pack_page

MOST_BYTES = 1_500_000
NAMES = ("</script><img src=x onerror=alert(1)>", "مدينة", "\u202eevil", "👩🏽‍🚒", "x" * 60)


@pytest.fixture(scope="module")
def data(demo: Plan, demo_evaluation: Evaluation, demo_late: LateTable) -> dict[str, Any]:
    plan = replace(demo, emergency={"medicine": "a secret of mine"})
    return pack_data(plan, demo.variants[0], demo_evaluation.ridden, demo_late)


def hostile_data(count: int = 300) -> dict[str, Any]:
    """Return a pack of many stops with names that a page might stumble over."""
    usual = {"offers": ["water"], "past": False, "cut": None, "must": False, "hours": "", "water": 1.0, "kcal": 500}
    stops = [
        {**usual, "name": NAMES[k % len(NAMES)], "km": 4.0 * (k + 1), "arr": 600 * (k + 1),
         "note": NAMES[0], "doors": None}
        for k in range(count)
    ]  # fmt: skip
    nodes, delays = [0], [0.0, 3600.0]
    table = [[[60 * (k + 1) + d * 360 for k in range(count)] for d in range(2)]]
    km = [0.0, 4.0 * count]
    return {
        "format": "stonechat-pack", "version": 1, "plan": "T" * 200, "variant": NAMES[0], "start": 1_800_000_000.0,
        "zones": [[0, 60]], "stops": stops,
        "course": {"km": km, "lat": [46.0, 47.0], "lon": [8.0, 8.0], "up": [0, 0], "s": [0, 600 * count]},
        "legs": [{"km": 0.0, "water": 1.0, "kcal": 500, "wear": ""}],
        "late": {"nodes": nodes, "delays": delays, "jump": 1.5, "arr": table},
        "bags": {"things": [NAMES[0]], "states": [[[NAMES[1], [0]]]], "legs": [0], "amounts": [[[0.0, 0.0]]], "on": []},
        "sheets": [],
    }  # fmt: skip


def test_it_is_small_and_says_nothing_of_the_emergency_page(data: dict[str, Any]) -> None:
    page = pack_page(data)
    assert len(page.html) < MOST_BYTES and b"a secret of mine" not in page.html
    assert json.loads(json.dumps(data))["format"] == "stonechat-pack"


def test_it_holds_the_plan(data: dict[str, Any], demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    assert [stop["name"] for stop in data["stops"]] == [visit.name for visit in ridden.timetable.visits]
    assert data["course"]["km"][-1] == pytest.approx(ridden.way.profile.length / 1e3, abs=0.01)
    assert data["course"]["s"][-1] == pytest.approx(ridden.ride.clocks[-1], abs=1.0)
    held = [k for _, things in data["bags"]["states"][0] for k in things] + data["bags"]["on"]
    assert sorted(held) == sorted({*held}) and len(held) == len(ridden.kit.items)
    for stop, visit in zip(data["stops"], ridden.timetable.visits, strict=True):
        if stop.get("doors") and not visit.passed and visit.waited < 1.0:
            is_open = any(opens <= visit.elapsed < shuts for opens, shuts in stop["doors"])
            assert is_open == visit.is_open, stop["name"]


def test_it_names_all_that_a_stop_offers(data: dict[str, Any], demo_evaluation: Evaluation) -> None:
    offered = [visit.stop.offers if visit.stop else frozenset() for visit in demo_evaluation.ridden.timetable.visits]
    assert [set(stop["offers"]) for stop in data["stops"]] == [set(offers) for offers in offered]


def test_only_its_own_script_runs(data: dict[str, Any]) -> None:
    page = pack_page(hostile_data())
    scripts = re.findall(r"<script[^>]*>", page.html.decode())
    assert len(scripts) == 4 and "'sha256-" in page.policy and "unsafe" not in page.policy
    ours = page.html.decode().replace(Path("src/stonechat/web/static/vendor/qrcode.js").read_text("utf-8"), "")
    assert len(ours) < len(page.html) - 40_000 and "<img" not in ours
    assert "http://" not in ours.replace("http://www.w3.org", "") and "https://" not in ours
