"""How sure a total is: against drawing claims at random."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.kit.bands import CLAIM_BAND, mass_band
from stonechat.core.kit.item import Item
from stonechat.core.kit.ranges import doubt_of


def test_nine_totals_in_ten_lie_within_the_band() -> None:
    masses = [0.5, 0.2, 0.35, 0.06, 0.06]
    kit = [Item(id=str(k), name=str(k), mass=m, volume=0.0, quantity=1 + k % 2) for k, m in enumerate(masses)]
    random = np.random.default_rng(1)
    drawn = sum(i.quantity * i.mass * (1 + CLAIM_BAND * random.standard_normal(40_000)) for i in kit)
    inside = np.abs(drawn - sum(i.total_mass for i in kit)) <= mass_band(kit)
    assert inside.mean() == pytest.approx(0.90, abs=0.01)


def test_weighing_narrows_the_band_to_the_scales_own() -> None:
    item = Item(id="a", name="a", mass=1.0, volume=0.0)
    assert mass_band([replace(item, weighed=True)]) == pytest.approx(1.645 * 0.001)
    assert mass_band([]) == 0.0


@pytest.mark.parametrize(
    ("category", "grams", "ml", "believed"),
    [
        ("hygiene", 34, 45, True),
        ("hygiene", 34_000 / 2.5, 45, False),  # a toothbrush of 13 kg
        ("clothes", 0.6, 10, False),  # socks in kg taken for g
        ("tools", 178, 95, True),
        ("sleep", 540, 3_800, True),
        ("power", 212, 14, False),  # a bank denser than lead
        ("sleep", 540, 39_000, False),  # a quilt of 39 l
    ],
)
def test_a_slipped_unit_is_doubted(category: str, grams: float, ml: float, believed: bool) -> None:
    item = Item(id="x", name="x", category=category, mass=grams / 1e3, volume=ml / 1e6)
    assert (doubt_of(item) == "") == believed
    if not believed:
        assert doubt_of(item).endswith("A slipped unit?")
