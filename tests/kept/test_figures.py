"""The figures of the twelve plans are what they were.

Made before the rebuild; taken anew on 2026-11-27, when noise and ascent of heights were measured better and ascents
moved by up to 0.15 %, times of the demo by 0.05 % (`tests/core/line/test_heights.py` says why), and when check and
packing began to judge by one rule: margins reach to where a check breaks, or are none, and of two spares one apart is
enough (`tests/core/checks/test_together.py`, `tests/core/load/test_rules.py`). Of legs with equally little to spare the
one that needs most is named since then. Taken anew once more on 2026-11-27, when reaching came to be counted by
occasions, and halts for food, what the body bears and the search among things got minutes of their own: every figure
that hangs on the clock moved with them; and when fetching food was counted by what each leg eats, which moved three
plans by a hundred-thousandth; and when mishaps got minutes and wet and cold days were weighed by the riding on them.
Things that break one rule are one finding since then; what is heavy in the upper triangle counts half as low
(2026-11-28), which moved that finding alone; and the bottle at hand and the lowest are filled first, not the first
of the rig (2026-11-28, `tests/core/supply/test_pour.py`). Food weighs and fills what is bought does since then, by
kind and heat (`tests/core/supply/test_basket.py`, `tests/core/plan/test_buying.py`), and water is kept until tablets
have worked: mass and minutes of every plan moved a little with both. Warmth asleep, at campsites too, is a finding more
(`tests/core/night`, `tests/core/plan/test_warmth.py`). Warmth riding, hands, feet and head are findings since
2026-11-28, the ticks for warm clothes are gone, small pieces count in bed, and what is worn all along a leg takes no
room on it: findings and fills moved, no minutes (`tests/core/night`, `tests/core/plan/test_dressing.py`); batteries
are a finding more (`tests/core/charge`, `tests/core/plan/test_charging.py`), and since leads, lamps and nights are
reckoned with, ten findings in hours, watt-hours and percent stand for the ticks of light and power, and three in odds
for those of repair (`tests/core/mend`): no minutes moved. The body, worn parts, parts no shop has and first answers are
four findings more, and ticks of cream and dressing are gone (`tests/core/plan/test_mending.py`). A load that was never
ridden is one more (`tests/core/checks/test_shaken.py`). A wrapper or banknote is laid into a cut tyre since 2026-11-29
(`tests/core/mend/test_odds.py`): odds of one finding moved.
Their own oracles:
`tests/core/plan/test_evaluate.py`, `tests/core/plan/test_plan_packing.py`.
"""

import gzip
import json
import math
from collections.abc import Iterator
from functools import cache
from typing import Any

import pytest

from stonechat.formats.plan_json import read_plan
from tests.kept.figures import figures_of
from tests.kept.make import FILE

_SAME = 1e-6  # 1, relative; processors differ in the last digits


@cache
def kept() -> list[dict[str, Any]]:
    with gzip.open(FILE) as file:
        found: list[dict[str, Any]] = json.loads(file.read())
    return found


def differences(was: Any, now: Any, where: str = "") -> Iterator[str]:
    """Yield every place where two trees of figures differ."""
    if isinstance(was, dict) and isinstance(now, dict):
        for key in sorted({*was, *now}):
            if (key in was) != (key in now):
                yield f"{where}/{key}: only {'before' if key in was else 'now'}"
            else:
                yield from differences(was[key], now[key], f"{where}/{key}")
    elif isinstance(was, list) and isinstance(now, list) and len(was) == len(now):
        for k, (a, b) in enumerate(zip(was, now, strict=True)):
            yield from differences(a, b, f"{where}/{k}")
    elif isinstance(was, float) and isinstance(now, float | int):
        if not math.isclose(was, now, rel_tol=_SAME, abs_tol=1e-9):
            yield f"{where}: {was} was, {now} is"
    elif was != now:
        yield f"{where}: {was!r} was, {now!r} is"


@pytest.mark.parametrize("number", range(12))
def test_the_figures_are_what_they_were(number: int) -> None:
    entry = kept()[number]
    plan = read_plan(json.dumps(entry["plan"]).encode())
    now = json.loads(json.dumps({v.id: figures_of(plan, v.id) for v in plan.variants}))
    assert list(differences(entry["figures"], now))[:20] == []
