"""The race by the clock as numbers."""

import itertools
import re
from dataclasses import replace

import pytest

from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.nights import rests_of
from stonechat.core.plan.plan import Plan
from stonechat.render.drawings.time_distance import BOTTOM, HEIGHT, LEFT, RIGHT, TOP, WIDTH, TimeDistance, time_distance


def points(path: str) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in re.findall(r"([\d.]+) ([\d.]+)", path)]


@pytest.fixture(scope="module")
def picture(demo_evaluation: Evaluation) -> TimeDistance:
    """The demo race."""
    return time_distance(demo_evaluation.ridden, rests_of(demo_evaluation.ridden))


def test_the_line_runs_from_the_start_to_the_finish_and_never_back(
    picture: TimeDistance, demo_evaluation: Evaluation
) -> None:
    line = points(picture.line)
    assert line[0] == pytest.approx((LEFT, TOP)) and line[-1][1] == pytest.approx(HEIGHT - BOTTOM)
    assert [x for x, _ in line] == sorted(x for x, _ in line) and [y for _, y in line] == sorted(y for _, y in line)
    scale = (WIDTH - LEFT - RIGHT) / (float(demo_evaluation.ridden.timetable.fan[1][-1]) * 1.02)
    assert line[-1][0] == pytest.approx(LEFT + demo_evaluation.ridden.ledger.finish * scale, abs=0.1)


def test_a_rest_is_time_without_way(picture: TimeDistance, demo_evaluation: Evaluation) -> None:
    line = points(picture.line)
    flat = sum(b[0] - a[0] for a, b in itertools.pairwise(line) if b[1] - a[1] < 0.2)
    whole = line[-1][0] - line[0][0]
    ledger = demo_evaluation.ridden.ledger
    # stops are short flats too
    assert flat / whole == pytest.approx(
        (ledger.minutes("nights") + ledger.minutes("stops")) * 60 / ledger.finish, abs=0.08
    )


def test_the_spread_holds_the_line(picture: TimeDistance, demo_evaluation: Evaluation) -> None:
    early, late = demo_evaluation.ridden.timetable.fan
    clocks = demo_evaluation.ridden.ride.clocks
    assert (early <= clocks + 1.0).mean() > 0.99 and (late >= clocks - 1.0).mean() > 0.99


def test_nights_and_doors_lie_within_the_frame_and_names_apart(picture: TimeDistance) -> None:
    for band in (*picture.nights, *(span for door in picture.doors for span in door.spans)):
        assert band.x >= LEFT - 0.1 and band.x + band.width <= WIDTH - RIGHT + 0.1
    labels = [mark.label_y for mark in picture.marks if mark.label_y is not None]
    assert all(b - a >= 14.9 for a, b in itertools.pairwise(labels))
    assert len(picture.nights) == 5


def test_a_shut_stop_is_marked_where_no_bar_is(picture: TimeDistance, demo_evaluation: Evaluation) -> None:
    doors = {round(door.y, 3): door for door in picture.doors}
    waited = {visit.name for visit in demo_evaluation.ridden.timetable.visits if visit.waited > 0.0}
    for mark in picture.marks:
        door = doors.get(round(mark.y, 3))
        if door is not None:
            inside = any(span.x - 0.6 <= mark.x <= span.x + span.width + 0.6 for span in door.spans)
            if mark.name not in waited:
                assert inside != mark.is_shut


def test_a_race_without_rest_has_no_flat(demo: Plan) -> None:
    rhythm = replace(demo.variants[0].rhythm, halt=demo.variants[0].rhythm.rise)
    restless = demo.with_variant(replace(demo.variants[0], rhythm=rhythm))
    line = points(time_distance(evaluate(restless, "a").ridden, ()).line)
    flats = [b[0] - a[0] for a, b in itertools.pairwise(line) if b[1] - a[1] < 0.05]
    assert max(flats, default=0.0) < 12.0


def test_rests_and_stays_lie_on_the_line_for_as_long_as_they_last(
    picture: TimeDistance, demo_evaluation: Evaluation
) -> None:
    ridden = demo_evaluation.ridden
    scale = 1.0 / picture.seconds_per_unit
    assert [block.key for block in picture.rests] == [str(rest.index) for rest in rests_of(ridden)]
    for block, rest in zip(picture.rests, rests_of(ridden), strict=True):
        assert block.width == pytest.approx((rest.ends - rest.begins) * scale)
        assert block.x == pytest.approx(LEFT + rest.begins * scale)
    for block, visit in zip(picture.stays, ridden.timetable.visits, strict=False):
        assert block.x == pytest.approx(LEFT + (visit.elapsed + visit.waited) * scale)
    # cut-offs stand as far right of the rider as there is time left
    margins = [visit.margin for visit in ridden.timetable.visits if visit.margin is not None]
    timed = [visit for visit in ridden.timetable.visits if visit.margin is not None]
    inside = [
        v.elapsed + m for v, m in zip(timed, margins, strict=True) if (v.elapsed + m) * scale < WIDTH - LEFT - RIGHT
    ]
    assert [cut.x for cut in picture.cut_offs] == pytest.approx([LEFT + at * scale for at in inside])
    assert len(inside) >= 2
