"""What is electric of a kit."""

from dataclasses import replace

import pytest

from stonechat.core.charge.things import NAVIGATING, battery_of, electrics_of
from stonechat.core.kit.item import Item

BANK = Item(id="b", name="bank", kind="power_bank", mass=0.2, volume=0.0, facts=(("mah", 10_000.0),))
LAMP = Item(id="l", name="front light", kind="front_light", mass=0.15, volume=0.0)
PHONE = Item(id="p", name="phone", kind="phone", mass=0.2, volume=0.0)
UNIT = Item(id="u", name="unit", kind="gps_unit", mass=0.1, volume=0.0)


def test_labels_come_before_what_is_usual() -> None:
    assert battery_of(BANK) == pytest.approx(37.0) and battery_of(replace(BANK, quantity=2)) == pytest.approx(74.0)
    assert battery_of(replace(BANK, facts=(("mah", 10_000.0), ("wh", 36.0)))) == 36.0
    (lamp,) = electrics_of([LAMP], electronic=False).devices
    (told,) = electrics_of([replace(LAMP, facts=(("run_h", 4.0),))], electronic=False).devices
    assert told.capacity == pytest.approx(4.0 * lamp.dark) and told.is_told and not lamp.is_told


def test_a_phone_navigates_where_nothing_else_does() -> None:
    alone, beside = electrics_of([PHONE], electronic=False), electrics_of([PHONE, UNIT], electronic=False)
    draw = {one.id: one.riding for one in (*alone.devices, *beside.devices)}
    assert alone.devices[0].riding == pytest.approx(NAVIGATING) and draw["u"] > 0.0
    assert next(one for one in beside.devices if one.id == "p").riding == 0.0


def test_electronic_gears_have_a_battery_and_walls_and_banks_are_no_devices() -> None:
    wall = Item(id="w", name="charger", kind="wall_charger", mass=0.1, volume=0.0)
    found = electrics_of([BANK, wall, LAMP], electronic=True)
    assert [one.role for one in found.devices] == ["light", "shifting"]
    assert [one.id for one in found.banks] == ["b"] and found.wall > 0.0
