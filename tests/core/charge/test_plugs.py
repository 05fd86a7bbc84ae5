"""Plugs, leads and the graph of what feeds what."""

from itertools import product

import pytest

from stonechat.core.charge.graph import graph_of
from stonechat.core.charge.plugs import Plug, leads_of, plug_of, plugs_in, reaches
from stonechat.core.charge.things import electrics_of
from stonechat.core.kit.item import Item


def thing(name: str, kind: str, quantity: int = 1) -> Item:
    return Item(id=name.replace(" ", "-"), name=name, kind=kind, mass=0.05, volume=0.0, quantity=quantity)


@pytest.mark.parametrize(
    ("name", "found"),
    [
        ("charging cable", ()),
        ("USB-C cable", (Plug.USB_C,)),
        ("usb c cable", (Plug.USB_C,)),
        ("cable A to C", (Plug.USB_A, Plug.USB_C)),
        ("cable USB-A to micro", (Plug.USB_A, Plug.MICRO)),
        ("USB-C to USB-C lead", (Plug.USB_C, Plug.USB_C)),
        ("micro usb lead", (Plug.MICRO,)),
        ("cache battery", ()),
        ("vitamin c", ()),
    ],
)
def test_plugs_are_read_from_names(name: str, found: tuple[Plug, ...]) -> None:
    assert plugs_in(name) == found


def test_what_is_not_said_fits_any_of_the_family_and_a_watch_its_own_lead_only() -> None:
    (cable,) = leads_of([thing("cable", "cable")])
    for outlet, inlet in product((Plug.ANY, Plug.USB_A, Plug.USB_C), (Plug.ANY, Plug.USB_C, Plug.MICRO)):
        assert cable.fits(outlet, inlet)
    assert not cable.fits(Plug.ANY, Plug.WATCH)
    (own,) = leads_of([thing("watch lead", "watch_charger")])
    assert own.fits(Plug.ANY, Plug.WATCH) and not own.fits(Plug.ANY, Plug.USB_C)
    assert plug_of("watch", "watch") is Plug.WATCH


def test_a_lead_reaches_either_way_round_and_an_adapter_turns_an_end() -> None:
    (micro,) = leads_of([thing("cable USB-A to micro", "cable")])
    assert micro.fits(Plug.USB_A, Plug.MICRO) and micro.fits(Plug.MICRO, Plug.USB_A)
    assert not micro.fits(Plug.USB_C, Plug.MICRO) and not micro.fits(Plug.USB_A, Plug.USB_C)
    with_adapter = leads_of([thing("cable USB-A to micro", "cable"), thing("adapter micro to USB-C", "cable_adapter")])
    assert reaches(with_adapter, Plug.USB_A, Plug.USB_C) == (True, False)  # the cable, with the adapter at its end
    assert reaches(with_adapter, Plug.USB_A, Plug.MINI) == (False, False)


def test_the_graph_says_what_feeds_what_and_what_nothing_reaches() -> None:
    kit = [
        thing("power bank USB-A", "power_bank"),
        thing("wall charger USB-C", "wall_charger"),
        thing("front light micro usb", "front_light"),
        thing("phone USB-C", "phone"),
        thing("watch", "watch"),
    ]
    graph = graph_of(electrics_of([*kit, thing("cable USB-A to micro", "cable")], electronic=False))
    assert [(feed.source.name, feed.device.name) for feed in graph.feeds] == [
        ("power bank USB-A", "front light micro usb")
    ]
    assert {one.name for one in graph.unfed} == {"phone USB-C", "watch", "power bank USB-A"}
    more = graph_of(electrics_of([*kit, thing("cables USB-C", "cable", 2), thing("watch lead", "watch_charger")],
                                 electronic=False))  # fmt: skip
    assert ("wall charger USB-C", "phone USB-C") in [(feed.source.name, feed.device.name) for feed in more.feeds]
    assert all(one.name != "watch" for one in more.unfed)
    assert all(0.0 < feed.power <= feed.source.gives for feed in more.feeds)


def test_without_leads_in_the_kit_each_battery_is_taken_to_have_one_and_without_a_source_that_is_said() -> None:
    assumed = electrics_of([thing("bank", "power_bank"), thing("phone", "phone")], electronic=False)
    assert assumed.assumes_leads and graph_of(assumed).unfed == () and len(graph_of(assumed).feeds) == 1
    alone = graph_of(electrics_of([thing("phone", "phone")], electronic=False))
    assert alone.no_source and alone.feeds == ()
