"""Pictures along the route: what is drawn lies where the race has it."""

import re
from itertools import pairwise

import pytest

from stonechat.core.charge.report import Charge
from stonechat.core.night.ladder import Ladder
from stonechat.core.night.report import Warmth
from stonechat.core.plan.evaluate import Evaluation
from stonechat.render.drawings.along import Along
from stonechat.render.drawings.charge_line import charge_line
from stonechat.render.drawings.dressed_line import dressed_line
from stonechat.render.drawings.sleeper import sleeper


def test_a_place_is_drawn_by_its_share_of_the_course(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    x = Along(ridden, width=500.0, left=100.0, right=50.0)
    length = ridden.way.profile.length
    assert x(0.0) == 100.0 and x(length) == 450.0 and x(0.5 * length) == pytest.approx(275.0, abs=0.1)
    assert x.stretch(0.0, 1.0) == (100.0, 0.8)  # wide enough to be seen
    dark = sum(width for _, width in x.dark(ridden)) / 350.0
    share = float(ridden.way.profile.lengths[ridden.ride.dark].sum()) / length
    assert dark == pytest.approx(share, abs=0.01)
    marks = x.marks()
    assert marks[0].at == 100.0 and all(b.at > a.at for a, b in pairwise(marks))


@pytest.mark.parametrize("narrow", [False, True])
def test_bands_are_as_long_as_a_piece_is_worn(demo_evaluation: Evaluation, narrow: bool) -> None:
    ridden = demo_evaluation.ridden
    ladder, picture = ridden.report(Ladder), dressed_line(ridden, leg=3, narrow=narrow)
    spells, span = ladder.spells, picture.right - picture.left
    rows = {row.words: row for zone in picture.zones for row in zone.rows}
    told = 0
    for piece in ladder.pieces:
        row = rows.get(f"{piece.garment.name}: worn {piece.hours:.1f} h")
        if row is None:
            continue
        worn = ladder.zones[piece.garment.cut.zone].worn(piece.garment.id)
        length = float((spells.ends - spells.begins)[worn].sum()) / ridden.way.profile.length
        assert sum(width for _, width in row.bars) / span == pytest.approx(length, abs=0.02)
        told += 1
    assert told >= 8
    assert [rest.in_bed for rest in picture.rests] == [rest.in_bed for rest in ridden.report(Warmth).rests]
    assert all(picture.left <= mark.x <= picture.right for mark in picture.rests)
    assert picture.named == () if narrow else len(picture.named) >= 2


def test_batteries_are_drawn_as_full_as_they_are(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    charge, picture = ridden.report(Charge), charge_line(ridden, leg=0)
    lines = [line for line in charge.lines if line.thing.role != "spare"]
    assert len(picture.bands) == len(lines)
    for band, line in zip(picture.bands, lines, strict=True):
        heights = [float(point.split(",")[1]) for point in band.area.split(" ")[1:-1]]
        lowest = (band.bottom - max(heights)) / (band.bottom - band.top)
        assert lowest == pytest.approx(line.lowest, abs=0.06) and bool(band.flat) is line.is_flat


def test_a_sleeper_loses_what_the_arrows_say(demo_evaluation: Evaluation) -> None:
    for rest in demo_evaluation.ridden.report(Warmth).outside:
        picture = sleeper(rest, 1.9)
        watts = [int(re.sub(r"\D", "", arrow.text)) for arrow in picture.arrows]
        lost, breath, made = (int(re.sub(r"\D", "", text)) for text in (picture.lost, picture.breath, picture.made))
        assert sum(watts) + breath == pytest.approx(lost, abs=3) and made == round(46.5 * 1.9)
        # warm enough is losing no more than is made
        assert (lost > made) is (rest.margin < 0.0) or abs(lost - made) <= 1
