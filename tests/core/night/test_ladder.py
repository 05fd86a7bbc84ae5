"""The clothing ladder: the best way through outfits, and what a rider would nod at."""

from dataclasses import replace
from itertools import pairwise, product

import numpy as np
import pytest

from stonechat.core.kit.item import Item
from stonechat.core.night.garments import CUTS, GRANTED, Outfit, garments_of, outfits_of
from stonechat.core.night.lacking import cold_descents, remedies_for
from stonechat.core.night.ladder import DESCENT, RIDING, Ladder, Spells, _path, _swaps, ladder_of
from stonechat.core.night.riding import Going
from stonechat.core.plan.warm_worth import expected_short

KINDS = (
    "base_layer", "arm_warmers", "leg_warmers", "gilet", "rain_jacket", "rain_trousers", "down_jacket", "gloves_long",
    "gloves_warm", "gloves_rain", "beanie", "neck_tube", "overshoes", "socks_warm",
)  # fmt: skip


def kit(*kinds: str) -> tuple[Item, ...]:
    return tuple(Item(id=kind, name=kind, category="clothes", kind=kind, mass=0.2, volume=0.001) for kind in kinds)


def spells(temps: list[float], *, kinds: list[str] | None = None, minutes: float = 60.0, wet: bool = False) -> Spells:
    count = len(temps)
    told = kinds or [RIDING] * count
    down = np.array([kind == DESCENT for kind in told])
    return Spells(
        begins=np.arange(count) * 1e4,
        ends=np.arange(1, count + 1) * 1e4,
        clocks=np.arange(count) * 60.0 * minutes,
        lengths=np.where(down, 900.0, 60.0 * minutes),
        kinds=tuple(told),
        going=Going(
            temps=np.array(temps),
            speeds=np.where(down, 13.0, 6.0),
            heats=np.where(down, 110.0, 330.0),
            works=np.where(down, 0.0, 72.0),
            humidities=np.full(count, 0.8),
        ),
        wet=np.full(count, wet),
        halts=np.zeros(count, dtype=bool),
        effort=330.0,
    )


def dressed(temps: list[float], *kinds: str, **more: object) -> Ladder:
    garments, spares = garments_of(kit(*kinds))
    return ladder_of(spells(temps, **more), (*garments, *GRANTED), spares, ())  # type: ignore[arg-type]


def on(ladder: Ladder, spell: int) -> set[str]:
    return {p.id for zone in ladder.zones.values() for p in zone.outfits[int(zone.chosen[spell])].pieces}


def test_the_way_through_outfits_is_the_best_of_all() -> None:
    rng = np.random.default_rng(5)
    outfits = outfits_of(garments_of(kit("gilet", "rain_jacket"))[0], "trunk")
    swap = _swaps(outfits)
    for _ in range(20):
        here = replace(spells([5.0] * 4), halts=rng.random(4) < 0.5, wet=rng.random(4) < 0.5)
        margins = rng.normal(0.0, 6.0, (len(outfits), 4))
        excess = np.maximum(rng.normal(0.0, 6.0, margins.shape), 0.0)
        hours = here.lengths / 3600.0
        shells = np.array([any(p.id == "rain_jacket" for p in outfit.pieces) for outfit in outfits])

        def cost(way: tuple[int, ...]) -> float:
            total = 0.35 * swap[0, way[0]]
            for k, outfit in enumerate(way):
                short = max(0.0, -margins[outfit, k])  # noqa: B023
                spare = max(0.0, -margins[:, k].max()) + 1.0  # noqa: B023
                total += hours[k] * (1.5 * short + 12.0 * max(0.0, short - spare) + 0.1 * excess[outfit, k])  # noqa: B023
                total += hours[k] * 0.02 * len(outfits[outfit].pieces)  # noqa: B023
                total += hours[k] * 0.25 * float(shells[outfit] and not here.wet[k])  # noqa: B023
            for k, (one, other) in enumerate(pairwise(way), start=1):
                if swap[one, other] > 0.0:
                    total += swap[one, other] * (0.35 if here.halts[k] else 1.0)  # noqa: B023
                    total += 0.0 if here.halts[k] else 0.4  # noqa: B023
            return float(total)

        found = _path(outfits, margins, excess, here)
        best = min(cost(way) for way in product(range(len(outfits)), repeat=4))
        assert cost(tuple(found.tolist())) == pytest.approx(best)


def test_a_hot_day_wears_nothing_more_and_a_freezing_one_what_there_is() -> None:
    hot = dressed([30.0, 34.0, 30.0], *KINDS)
    assert all(on(hot, k) == {g.id for g in GRANTED} for k in range(3)) and hot.changes == ()
    cold = dressed([-8.0] * 3, *KINDS)
    assert {"leg_warmers", "overshoes", "beanie"} <= on(cold, 1)
    assert on(cold, 1) & {"gloves_warm"} and on(cold, 1) & {"rain_jacket", "down_jacket", "gilet"}


def test_a_summer_pass_puts_a_shell_on_for_the_descent_and_takes_it_off_after() -> None:
    ladder = dressed([17.0, 9.0, 17.0, 17.0], *KINDS, kinds=[RIDING, DESCENT, RIDING, RIDING])
    shells = {"gilet", "rain_jacket"}
    assert not on(ladder, 0) & shells and on(ladder, 1) & shells and not on(ladder, 3) & shells


def test_rain_at_eight_degrees_is_ridden_in_a_rain_jacket_and_warm_rain_is_not() -> None:
    assert "rain_jacket" in on(dressed([8.0] * 3, *KINDS, wet=True), 1)
    assert "rain_jacket" not in on(dressed([26.0] * 3, *KINDS, wet=True), 1)
    # down soaks: under a shell or not at all
    worn = on(dressed([-4.0] * 3, *KINDS, wet=True), 1)
    assert "down_jacket" not in worn or "rain_jacket" in worn


def test_what_works_wet_is_worn_in_the_rain_for_longer() -> None:
    """A vest that keeps nine tenths when wet is, soaked, exactly nine tenths as warm; the usual one six tenths."""
    usual = kit("gilet")[0]
    for told, share in (((), 0.6), ((("wet_keeps", 90.0),), 0.9)):
        (outfit,) = outfits_of(garments_of([replace(usual, facts=told)])[0], "trunk")[-1:]
        assert outfit.pieces and outfit.soaked == pytest.approx(share * outfit.insulation)


def test_layers_go_over_one_another_and_of_a_kind_one_is_worn() -> None:
    garments, spares = garments_of((*kit(*KINDS), *(replace(i, id="second") for i in kit("gilet"))))
    assert spares == ("second",)
    for zone in ("trunk", "hands", "feet", "legs", "head"):
        for outfit in outfits_of((*garments, *GRANTED), zone):
            groups = [piece.cut.group for piece in outfit.pieces if piece.cut.group]
            assert len(groups) == len(set(groups))
            assert [piece.cut.layer for piece in outfit.pieces] == sorted(piece.cut.layer for piece in outfit.pieces)
    boots = garments_of(kit("winter_boots", "overshoes"))[0]
    assert not any({"winter_boots", "overshoes"} <= {p.id for p in o.pieces} for o in outfits_of(boots, "feet"))
    mitts = outfits_of(garments_of(kit("gloves_long", "gloves_rain"))[0], "hands")
    assert any([p.id for p in outfit.pieces] == ["gloves_long", "gloves_rain"] for outfit in mitts)


def test_more_worn_is_never_colder_on_any_stretch() -> None:
    some, more = (dressed([2.0, -5.0], *kinds, kinds=[RIDING, DESCENT]) for kinds in (KINDS[:5], KINDS))
    for zone in some.zones:
        assert (more.zones[zone].margins.max(axis=0) >= some.zones[zone].margins.max(axis=0) - 1e-9).all()


def test_a_piece_says_when_it_is_the_only_answer_and_what_is_lacking_is_named() -> None:
    ladder = dressed([2.0, 2.0], "gloves_long", "leg_warmers")
    bare = dressed([2.0, 2.0], "leg_warmers")
    assert bare.zones["hands"].margin.max() < ladder.zones["hands"].margin.max()
    named = remedies_for(bare, "hands", 0)
    assert named and all(way.margin > bare.zones["hands"].margin[0] for way in named)
    assert {way.kind for way in named} <= {kind for kind, cut in CUTS.items() if cut.zone == "hands"}
    piece = next(p for p in dressed([7.0] * 3, "gloves_long").pieces if p.garment.id == "gloves_long")
    assert piece.hours == pytest.approx(3.0) and piece.only == pytest.approx(3.0) and piece.changes == 1


def test_a_kit_without_clothes_is_ridden_in_what_everybody_rides_in() -> None:
    ladder = dressed([20.0])
    assert on(ladder, 0) == {garment.id for garment in GRANTED}


def test_swaps_count_each_piece_that_differs() -> None:
    outfits = outfits_of(garments_of(kit("gilet", "rain_jacket"))[0], "trunk")
    swap = _swaps(outfits)
    assert (swap == swap.T).all() and (np.diag(swap) == 0.0).all()
    both = next(k for k, o in enumerate(outfits) if len(o.pieces) == 2)
    none = next(k for k, o in enumerate(outfits) if not o.pieces)
    assert swap[none, both] == pytest.approx(CUTS["gilet"].minutes + CUTS["rain_jacket"].minutes)
    assert _swaps((Outfit(pieces=(), insulation=0.0, air=50.0, sheds_rain=False, soaked=0.0),)).shape == (1, 1)


def test_what_is_expected_to_lack_is_what_a_million_draws_lack() -> None:
    rng = np.random.default_rng(1)
    for margin in (-6.0, -1.0, 0.0, 2.0, 7.0):
        drawn = np.maximum(-(margin + 3.0 * rng.standard_normal(400_000)), 0.0).mean()
        assert float(expected_short(np.array([margin]))[0]) == pytest.approx(float(drawn), abs=0.01)


def test_heat_packs_are_for_where_gloves_are_not_enough() -> None:
    mild, hard = (dressed([temp] * 3, "gloves_long", "heat_packs") for temp in (9.0, -3.0))
    assert "heat_packs" not in on(mild, 1) and {"gloves_long", "heat_packs"} <= on(hard, 1)


def test_what_is_worn_at_the_start_comes_off_in_the_heat_but_not_the_shorts() -> None:
    worn = tuple(replace(item, worn=True) for item in kit("arm_warmers", "gilet", "bib_shorts", "jersey"))
    garments, _ = garments_of(worn)
    ladder = ladder_of(spells([6.0, 33.0, 33.0]), (*garments, *GRANTED[2:]), (), ())
    assert {"arm_warmers", "gilet"} & on(ladder, 0) and not {"arm_warmers", "gilet"} & on(ladder, 1)
    assert {"bib_shorts", "jersey"} <= on(ladder, 1)


def test_a_shelf_of_jackets_is_thinned_to_those_that_differ_and_keeps_the_extremes() -> None:
    many = [
        replace(garments_of(kit(kind))[0][0], id=f"{kind}-{k}", insulation=0.01 * (k + 1))
        for kind in ("jersey", "base_layer", "arm_warmers", "gilet", "wind_jacket", "down_jacket", "rain_jacket")
        for k in range(5)
    ]
    found = outfits_of(many, "trunk")
    assert 50 < len(found) <= 300
    warmth = [outfit.insulation for outfit in found]
    assert max(warmth) >= 7 * 0.04 and min(warmth) == 0.0


def test_cold_descents_close_together_are_one_warning() -> None:
    # 10 km a stretch: two descents 10 km apart, one 40 km on, a mild one, and riding that is colder than all
    kinds = [RIDING, DESCENT, RIDING, DESCENT, *[RIDING] * 4, DESCENT, DESCENT]
    temps = [-9.0, -4.0, -9.0, -6.0, *[5.0] * 4, -3.0, 19.0]
    ladder = dressed(temps, "gloves_long", "base_layer", kinds=kinds)
    found, margins = cold_descents(ladder), ladder.zones["hands"].margin
    assert [(one.begins / 1e3, one.ends / 1e3, one.count) for one in found] == [(10.0, 40.0, 2), (80.0, 90.0, 1)]
    assert [one.coldest for one in found] == [-6.0, -3.0]
    assert [one.margin for one in found] == [min(margins[1], margins[3]), margins[8]]
    assert cold_descents(dressed([18.0, 17.0], "gloves_warm", kinds=[RIDING, DESCENT])) == ()
