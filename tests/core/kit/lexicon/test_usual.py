"""A thing as usual for its kind: how it goes along, how large it packs, and what a spare one is."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.kit.lexicon.usual import LARGEST, usual_thing


@pytest.mark.parametrize(
    ("name", "mass", "worn", "fixed", "packed"),
    [
        ("helmet", 0.27, True, "", False),
        ("front light", 0.15, False, "bars", False),
        ("rear light", 0.05, False, "seatpost", False),
        ("helmet lamp", 0.1, False, "helmet", True),
        ("bib shorts", 0.2, True, "", False),
        ("spare bib shorts", 0.2, False, "", True),
        ("rain jacket", 0.2, False, "", True),
        ("tracker", 0.1, False, "bag", False),
        ("bell", 0.03, False, "bars", False),
    ],
)
def test_it_is_worn_fixed_or_packed_as_riders_have_it(
    name: str, mass: float, worn: bool, fixed: str, packed: bool
) -> None:
    usual = usual_thing(name, mass=mass)
    assert (usual.worn, usual.fixed) == (worn, fixed)
    assert packed == (not worn and (not fixed or usual.stowed))


def test_several_of_what_is_worn_are_not_all_worn() -> None:
    assert usual_thing("jersey", mass=0.15).worn and not usual_thing("jersey", mass=0.15, quantity=2).worn


def test_a_spare_of_what_is_worn_is_a_change_of_clothes_and_what_is_worn_is_none() -> None:
    assert usual_thing("spare bib shorts", mass=0.2).jobs == {"change"}
    assert usual_thing("spare sunglasses", mass=0.03).jobs == {"eyes"}  # no change of clothes
    assert usual_thing("socks", mass=0.05).jobs == {"change"}
    assert usual_thing("socks", mass=0.05, worn=True).jobs == set()


def test_what_is_said_to_be_no_kind_or_another_is_taken_so() -> None:
    assert usual_thing("helmet", mass=0.3, kind="").kind == ""
    assert usual_thing("Regenjacke", mass=0.2, kind="rain_jacket").jobs == KINDS["rain_jacket"].jobs
    assert usual_thing("Regenjacke", mass=0.2, category="clothes").category == "clothes"


@given(st.sampled_from(sorted(KINDS)), st.floats(0.001, 5.0))
def test_a_guessed_volume_grows_with_the_mass_and_stays_in_reason(key: str, mass: float) -> None:
    kind = KINDS[key]
    less, more = (usual_thing("x", mass=m, kind=key).volume for m in (mass, 2.0 * mass))
    assert 0.0 < less <= more <= max(LARGEST, 2.5 * kind.volume.usual)
    if kind.volume.usual:
        assert usual_thing("x", mass=kind.mass.usual, kind=key).volume == pytest.approx(kind.volume.usual)
