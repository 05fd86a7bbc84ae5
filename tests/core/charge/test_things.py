"""What is electric of a kit."""

from dataclasses import replace

import pytest

from stonechat.core.charge.things import NAVIGATING, OUT_OF, battery_of, electrics_of, ports_of, with_draw
from stonechat.core.kit.item import Item
from stonechat.errors import InvalidInput

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


def test_watts_lumens_and_hours_on_a_label_are_what_a_thing_draws() -> None:
    (bright,) = electrics_of([replace(LAMP, facts=(("lumens", 1250.0),))], electronic=False).devices
    assert bright.mode("high") == pytest.approx(10.0) and bright.mode("low") < bright.mode("mid") < bright.mode("high")
    (both,) = electrics_of([replace(LAMP, facts=(("wh", 20.0), ("run_h", 5.0)))], electronic=False).devices
    assert both.dark == pytest.approx(4.0) and both.capacity == 20.0 and both.draw_told
    (hours,) = electrics_of([replace(UNIT, facts=(("run_h", 15.0),))], electronic=False).devices
    assert hours.capacity / hours.riding == pytest.approx(15.0) and hours.is_told
    (unit,) = electrics_of([replace(UNIT, facts=(("wh", 6.0), ("run_h", 20.0)))], electronic=False).devices
    assert unit.riding == pytest.approx(0.3)
    (drawn,) = electrics_of([replace(UNIT, facts=(("watts", 0.8),))], electronic=False).devices
    assert drawn.riding == 0.8


def test_a_bank_has_its_own_voltage_outlets_and_share() -> None:
    facts = (("mah", 10_000.0), ("volts", 7.4), ("ports", 3.0), ("share_out", 90.0), ("passes", 1.0), ("watts", 20.0))
    (bank,) = electrics_of([replace(BANK, facts=facts)], electronic=False).banks
    assert (bank.capacity, bank.ports, bank.keeps, bank.passes, bank.gives) == (74.0, 3, 0.9, True, 20.0)
    (usual,) = electrics_of([BANK], electronic=False).banks
    assert usual.keeps == OUT_OF and not usual.passes and usual.ports == 2


def test_cells_go_to_what_takes_them_and_others_are_named() -> None:
    torch = Item(id="t", name="head torch AAA", kind="head_torch", mass=0.08, volume=0.0)
    cells = Item(id="c", name="AAA lithium cells", kind="batteries", mass=0.008, volume=0.0, quantity=6)
    spare = Item(id="s", name="spare lamp battery", kind="light_battery", mass=0.1, volume=0.0, facts=(("wh", 20.0),))
    gear = Item(id="g", name="shifting battery", kind="shift_battery", mass=0.02, volume=0.0)
    found = electrics_of([torch, cells, spare, gear, LAMP], electronic=True)
    sets = {one.id: (one.cells, one.cell_energy) for one in found.devices}
    assert sets["t"] == (int(6 * 1.6 / 4.0), 4.0) and sets["l"] == (1, 20.0) and sets["bike-shifting"][0] == 1
    assert found.cells_unused == ()
    assert electrics_of([cells, LAMP], electronic=False).cells_unused == ("AAA lithium cells",)


@pytest.mark.parametrize(
    ("name", "ports"), [("wall charger", 1), ("dual charger two ports", 2), ("charger 3 ports 30 W", 3), ("2-port", 2)]
)
def test_outlets_are_read_from_names(name: str, ports: int) -> None:
    wall = Item(id="w", name=name, kind="wall_charger", mass=0.1, volume=0.0)
    assert ports_of(wall, 1) == ports


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


@pytest.mark.parametrize("watts", [0.3, 2.0, 5.0])
@pytest.mark.parametrize("facts", [(), (("run_h", 20.0),), (("wh", 9.0), ("run_h", 20.0)), (("watts", 1.5),)])
@pytest.mark.parametrize("item", [
    LAMP, UNIT, replace(LAMP, kind="rear_light"), replace(LAMP, kind="light_set"), replace(UNIT, kind="tracker"),
    replace(UNIT, kind="watch"), replace(LAMP, quantity=2),
])  # fmt: skip
def test_a_draw_that_is_set_is_what_a_thing_draws_and_its_battery_stays(
    item: Item, facts: tuple[tuple[str, float], ...], watts: float
) -> None:
    item = replace(item, facts=facts)
    (before,) = electrics_of([item], electronic=False).devices
    (after,) = electrics_of([with_draw(item, before, watts)], electronic=False).devices
    assert after.at_work == pytest.approx(watts, rel=1e-3) and after.draw_told
    assert after.capacity == pytest.approx(before.capacity, rel=1e-3)


def test_a_phone_that_navigates_draws_what_is_set_all_in_all() -> None:
    (phone,) = electrics_of([PHONE], electronic=False).devices
    (after,) = electrics_of([with_draw(PHONE, phone, NAVIGATING + 0.7)], electronic=False).devices
    assert after.at_work == pytest.approx(NAVIGATING + 0.7)
    with pytest.raises(InvalidInput, match="cannot draw"):
        with_draw(PHONE, phone, 0.5 * NAVIGATING)
