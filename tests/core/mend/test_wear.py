"""Wear: braking by the energy of a slope, lives that add up by condition, lives that vary as lognormal ones drawn."""

import math
from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.mend.rule import MendRule
from stonechat.core.mend.wear import (
    CABLE_KM,
    CHAIN_KM,
    CLEAT_KM,
    GRAVITY,
    ROLLING,
    SPREAD,
    TYRE_KM,
    WALK_KM,
    Ground,
    braked_energy,
    lube_times,
    wear_of,
    worn_through,
)


def ground(
    km: float = 1_000.0, *, grade: float = 0.0, speed: float = 8.0, wet: bool = False, rough: bool = False
) -> Ground:
    count = int(km)
    one = np.ones(count)
    return Ground(
        lengths=1000.0 * one, grades=grade * one, speeds=speed * one, wet=np.full(count, wet),
        rough=np.full(count, rough), muddy=np.full(count, rough), mass=95.0, drag=0.4, days=4.0, hot=False,
        walked=np.zeros(count), gears=0.0, tubeless=True,
    )  # fmt: skip


def test_what_is_braked_is_what_falls_less_air_and_rolling() -> None:
    steep = ground(10.0, grade=-0.10, speed=9.0)
    falls = 95.0 * GRAVITY * 0.10 * 10_000.0
    taken = (95.0 * GRAVITY * ROLLING + 0.5 * 1.15 * 0.4 * 81.0) * 10_000.0
    assert braked_energy(steep).sum() == pytest.approx(falls - taken)
    assert braked_energy(ground(10.0, grade=0.05)).sum() == 0.0
    assert braked_energy(ground(10.0, grade=-0.01, speed=9.0)).sum() == 0.0


def test_lives_add_up_by_condition() -> None:
    share = {line.name: line.used for line in wear_of(ground(900.0))}
    assert share["chain"] == pytest.approx(900.0 / CHAIN_KM["dry"])
    wet = {line.name: line.used for line in wear_of(ground(900.0, wet=True))}
    mud = {line.name: line.used for line in wear_of(ground(900.0, wet=True, rough=True))}
    assert wet["chain"] == pytest.approx(900.0 / CHAIN_KM["wet"]) and mud["chain"] == pytest.approx(900.0 / 700.0)
    assert mud["rear tyre"] == pytest.approx(2.0 * share["rear tyre"]) and mud["chain"] > 1.0
    line = next(line for line in wear_of(ground(900.0)) if line.name == "chain")
    assert line.lasts and line.km == pytest.approx(CHAIN_KM["dry"])


def test_a_wet_race_wants_more_lubricant_and_a_short_one_none() -> None:
    assert lube_times(ground(100.0)) == {"wax": 0.0, "oil": 0.0}
    assert lube_times(ground(1_200.0, wet=True))["wax"] == pytest.approx(1_200.0 / 60.0 - 1.0)


@pytest.mark.parametrize(("before", "used"), [(0.0, 0.5), (0.0, 1.0), (0.6, 0.5), (0.9, 0.3)])
def test_a_part_wears_through_as_often_as_lives_that_are_drawn_say(before: float, used: float) -> None:
    lives = np.exp(np.random.default_rng(7).normal(0.0, math.log(2.0) / 1.645, 400_000))
    alive = lives > before
    worn = float((lives[alive] < before + used).mean())
    assert 1.0 - math.exp(-worn_through(before, used)) == pytest.approx(worn, abs=0.004)
    assert pytest.approx(math.log(2.0)) == SPREAD * 1.645  # nine of ten from half to twice


def test_age_moves_the_km_of_the_swap() -> None:
    old = MendRule(ages={"rear_tyre": 2_800.0, "front_pads": 0.3}, pads="organic")
    new, aged = ({line.key: line for line in wear_of(ground(900.0), rule)} for rule in (None, old))
    assert new["rear_tyre"].km == pytest.approx(TYRE_KM["rear"]) and new["rear_tyre"].lasts
    assert aged["rear_tyre"].km == pytest.approx(TYRE_KM["rear"] - 2_800.0)
    assert not aged["rear_tyre"].lasts and aged["rear_tyre"].lasts_new
    assert aged["front_pads"].before == pytest.approx(0.8) and aged["rear_pads"].before == 0.0
    pads = {line.name for line in wear_of(ground(), old) if "pads" in line.name}
    assert pads == {"front pads, organic", "rear pads, organic"}


def test_gears_by_cable_have_a_cable_and_electronic_ones_a_battery() -> None:
    cable = {line.key for line in wear_of(ground())}
    electronic = {line.key for line in wear_of(replace(ground(), gears=0.4, tubeless=False))}
    assert "cables" in cable and "gear_battery" not in cable and "sealant" in cable
    assert "gear_battery" in electronic and "cables" not in electronic and "sealant" not in electronic


def test_cleats_and_cables_by_hand() -> None:
    half_walked = replace(ground(100.0), walked=np.full(100, 0.5))
    lines = {line.key: line for line in wear_of(half_walked)}
    assert lines["cleats"].used == pytest.approx(50.0 / CLEAT_KM + 50.0 / WALK_KM)
    assert lines["cables"].used == pytest.approx(100.0 / CABLE_KM["dry"])
    wet = {line.key: line for line in wear_of(ground(100.0, wet=True))}
    assert wet["cables"].used == pytest.approx(100.0 / CABLE_KM["wet"])
    charged = wear_of(replace(ground(100.0), gears=0.4), MendRule(ages={"gear_battery": 30.0}))
    battery = next(line for line in charged if line.key == "gear_battery")
    assert battery.before == pytest.approx(0.7) and battery.km == pytest.approx(0.3 * 100.0 / 0.4) and not battery.lasts
