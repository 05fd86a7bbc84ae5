"""The command line on an exported plan, without any database."""

import contextlib
import io
import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any
from unittest import mock

import pytest

from stonechat.cli import main
from stonechat.core.load.judge import judge
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan
from stonechat.formats.plan_json import read_plan, write_plan
from stonechat.services.analysis import odds_report

NO_DATABASE = {"STONECHAT_DATABASE_URL": "postgresql://nobody@127.0.0.1:1/none"}


def run(*arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
    """Run the command line in this process: starting another takes seconds."""
    out, err, code = io.StringIO(), io.StringIO(), 0
    with (
        mock.patch.dict(os.environ, {**NO_DATABASE, **environment}),
        mock.patch.object(sys, "argv", ["stonechat", *arguments]),
        contextlib.redirect_stdout(out),
        contextlib.redirect_stderr(err),
    ):
        try:
            main()
        except SystemExit as exc:
            code = exc.code if isinstance(exc.code, int) else int(exc.code is not None)
    return subprocess.CompletedProcess(arguments, code, out.getvalue(), err.getvalue())


def run_apart(*arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
    """Run the command line as a person does, in a process of its own."""
    return subprocess.run(
        [sys.executable, "-m", "stonechat", *arguments],
        capture_output=True, text=True, timeout=120, check=False,
        env={**os.environ, **NO_DATABASE, **environment},
    )  # fmt: skip


def test_a_process_of_its_own_says_the_same(plan_file: Path) -> None:
    apart, here = (go("check", str(plan_file), "--json") for go in (run_apart, run))
    assert (apart.returncode, apart.stderr) == (here.returncode, here.stderr)
    assert apart.stdout == here.stdout
    wrong = run_apart("ride", "nowhere.json")
    assert wrong.returncode == 2 and wrong.stdout == "" and wrong.stderr.count("\n") == 1


@pytest.fixture(scope="module")
def plan_file(demo: Plan, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo plan as a file."""
    file = tmp_path_factory.mktemp("plans") / "plan.json"
    file.write_bytes(write_plan(demo))
    return file


def answer(*arguments: str) -> dict[str, Any]:
    done = run(*arguments, "--json")
    assert done.returncode == 0, done.stderr
    report: dict[str, Any] = json.loads(done.stdout)
    return report


def test_ride_tells_times_prices_and_causes(plan_file: Path, demo: Plan) -> None:
    report, ridden = answer("ride", str(plan_file)), evaluate(demo, "a").ridden
    assert report["finish_h"] == pytest.approx(ridden.ledger.finish / 3600)
    assert report["moving_h"] == pytest.approx(ridden.ledger.moving / 3600)
    assert sum(report["minutes_by_cause"].values()) == pytest.approx(report["finish_h"] * 60)
    assert sum(leg["minutes_per_kg"] for leg in report["legs"]) == pytest.approx(report["minutes_per_kg"])
    assert [stop["name"] for stop in report["stops"]] == [*(s.name for s in demo.line.stops), "Finish"]
    arrivals = [stop["arrival"] for stop in report["stops"]]
    assert arrivals == sorted(arrivals)


def test_load_gives_an_assignment_that_the_judge_confirms(plan_file: Path) -> None:
    report = answer("load", str(plan_file), "--seconds", "10", "--variant", "b")
    plan = read_plan(plan_file.read_bytes())
    problem = packing_problem(plan, plan.variant("b"), evaluate(plan, "b").ridden)
    food = {key: litres / 1e3 for key, litres in report["food_l"].items()}
    verdict = judge(problem, report["assignment"], food=food)
    assert verdict.broken == () and report["broken_rules"] == []
    assert verdict.minutes == pytest.approx(report["objective_min"], abs=1e-6)
    assert report["bound_min"] <= report["objective_min"] + 1e-6 and report["gap"] <= 0.01


def test_supply_reads_like_the_note_on_the_bars(plan_file: Path) -> None:
    report = answer("supply", str(plan_file))
    note = run("supply", str(plan_file)).stdout.splitlines()
    for entry, line in zip(report["stops"], note, strict=False):
        assert line.startswith(f"{entry['name']}: ") and ("ride past" in line) is not entry["used"]
        assert not entry["fills_water"] or f"{entry['water_l']:.1f} l" in line
    assert note[len(report["stops"]) :] == report["short"]
    assert "ride past" not in run("supply", str(plan_file), "--every-stop").stdout


def test_film_tells_every_carrier_on_every_leg(plan_file: Path) -> None:
    report = answer("film", str(plan_file))
    assert len(report["legs"]) == 27 and set(report["deciding_legs"]) == set(report["legs"][0]["carriers"])
    assert "is fullest from" in run("film", str(plan_file)).stdout


def test_check_tells_every_check_with_state_and_margin(plan_file: Path) -> None:
    checks = answer("check", str(plan_file))["checks"]
    assert {"water", "food", "placed", "awake", "sway"} <= {check["code"] for check in checks}
    assert all(check["state"] in ("broken", "tight", "fine") and check["unit"] for check in checks)


def test_without_json_it_speaks_in_lines(plan_file: Path) -> None:
    assert "min per kg" in run("ride", str(plan_file)).stdout
    assert run("check", str(plan_file), "--variant", "b").stdout.startswith("broken  ")


@pytest.mark.parametrize(
    ("arguments", "sentence"),
    [
        (("ride", "/no/such/file.json"), "cannot be read: No such file"),
        (("check", __file__), "not readable as JSON"),
        (("migrate",), "The database does not answer"),
    ],
)
def test_a_mistake_is_one_sentence_on_stderr(arguments: tuple[str, ...], sentence: str) -> None:
    done = run(*arguments)
    assert done.returncode in (1, 2)
    assert sentence in done.stderr and "Traceback" not in done.stderr and done.stdout == ""


def test_an_unknown_variant_is_named(plan_file: Path) -> None:
    done = run("ride", str(plan_file), "--variant", "zz")
    assert done.returncode == 1 and "has no variant zz" in done.stderr


def test_a_bad_setting_is_refused_by_name() -> None:
    done = run("migrate", STONECHAT_PORT="door")
    assert done.returncode == 2 and "STONECHAT_PORT is 'door'" in done.stderr


def test_the_schema_is_printed() -> None:
    assert json.loads(run("schema").stdout)["title"] == "Stonechat plan"


def test_the_spread_of_many_races_lies_about_the_ride(plan_file: Path, demo: Plan) -> None:
    report, ridden = answer("odds", str(plan_file), "--races", "60"), evaluate(demo, "a").ridden
    finish, planned = report["finish_h"], ridden.ledger.finish / 3600
    assert finish["p5"] < finish["p50"] < finish["p95"] and finish["p5"] < planned < finish["p95"]
    assert 0.0 <= report["within_time_limit"] <= 1.0
    timed = {stop["name"] for stop in report["stops"] if stop["before_cut_off"] is not None}
    assert timed == {stop.name for stop in demo.line.stops if stop.cutoff is not None}
    assert odds_report(demo, "a", 60) == report  # the same luck every time


def test_the_ride_tells_of_nights_and_energy(plan_file: Path, demo: Plan) -> None:
    report = answer("ride", str(plan_file))
    assert [night["night"] for night in report["nights"]] == [1, 2, 3, 4]
    rested = report["minutes_by_cause"]["nights"] / 60
    assert sum(leg["rest_h"] for leg in report["legs"]) + sum(s["rested_h"] for s in report["stops"]) == pytest.approx(
        rested
    )
    # work at the pedals over the body's efficiency, and what walking took
    assert report["energy_kcal"] > report["work_mj"] * 1e6 / 4184 / demo.variants[0].rider.gross_efficiency
    assert sum(leg["energy_kcal"] for leg in report["legs"]) == pytest.approx(report["energy_kcal"])


def test_a_kit_table_is_told_row_by_row(tmp_path: Path) -> None:
    file = tmp_path / "kit.csv"
    file.write_text("item,g,bag\nhelmet lamp,110,\nRegenjacke,210,seat pack\nplug,12,\nheavy,much,\n")
    report = json.loads(run("kit", str(file), "--json").stdout)
    lamp, jacket, plug = report["rows"]
    assert lamp["taken_for"]["kind"] == "helmet_light" and lamp["taken_for"]["sure"] > 0.9
    assert lamp["goes_along"] == "on the helmet, else packed" and lamp["roles"] == ["spare_light"]
    assert jacket["taken_for"]["kind"] is None and jacket["place"] == "seat pack"
    assert plug["taken_for"]["kind"] is None
    assert [entry["row"] for entry in report["aside"]] == [5]
    assert "helmet lamp: 110 g, helmet lamp" in run("kit", str(file)).stdout
