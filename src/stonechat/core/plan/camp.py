"""The order of camp: what is done in what order where one sleeps outside, with minutes, and where the things lie."""

from collections.abc import Callable
from dataclasses import dataclass

from stonechat.core.kit.item import Item
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.bedding import BY_MASS
from stonechat.core.night.report import RestWarmth

_SHELTER_MINUTES = {"tent": 8.0, "tarp": 7.0, "bivvy": 2.0, "foil_bivvy": 1.0}  # estimates


@dataclass(frozen=True, kw_only=True)
class CampStep:
    """One thing that is done."""

    words: str
    things: tuple[tuple[str, str], ...]  # name and where it lies; empty: worn or at hand
    minutes: float  # min (estimate)


def camp_order(ridden: Ridden, rest: RestWarmth) -> tuple[tuple[CampStep, ...], tuple[CampStep, ...]]:
    """Return the evening and the morning of a rest outside.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    rest : RestWarmth
        Where it rests.

    Returns
    -------
    evening, morning : tuple of CampStep
        In order. Warmth goes on before anything else: a body that has stopped cools at once.
    """
    lies = {item.id: state.carrier.name for state in ridden.film[rest.leg].carriers for item in state.items}

    def step(words: str, minutes: float, wanted: Callable[[Item], bool]) -> CampStep | None:
        things = tuple((item.name, lies.get(item.id, "")) for item in rest.items if item.packed and wanted(item))
        return CampStep(words=words, things=things, minutes=minutes) if things else None

    kinds = {item.kind for item in rest.items}
    shelter = max((_SHELTER_MINUTES[kind] for kind in kinds & set(_SHELTER_MINUTES)), default=0.0)
    evening = (
        step("Put on what is warm, before anything else", 1.0, lambda i: i.kind in _WARM),
        step("Shelter up, out of the wind", shelter, lambda i: i.kind in _SHELTER_MINUTES or i.kind in _PITCHING),
        step("Mat and bag out, so that they loft", 3.0, lambda i: i.kind in _LYING or i.kind in _BAGS),
        step("Eat, drink, fill for the morning", 8.0, lambda i: i.kind in _COOKING or i.category == "food"),
        step("Batteries into the bag with you, all on charge", 2.0, lambda i: i.category == "power"),
        step("Teeth, skin, feet", 4.0, lambda i: i.category == "hygiene"),
        step("Out of what is damp, into what is dry", 3.0, lambda i: i.kind in _DRY),
        step("Ears, eyes, alarm", 1.0, lambda i: i.kind in _SLEEPING),
    )
    morning = (
        CampStep(words="Warm things stay on until you ride; pack what you lie on last", things=(), minutes=1.0),
        step("Back into what you ride in", 3.0, lambda i: i.kind in _DRY),
        step("Bag and mat away", 4.0, lambda i: i.kind in _LYING or i.kind in _BAGS),
        step("Shelter down; shake the dew off", 0.7 * shelter, lambda i: i.kind in _SHELTER_MINUTES),
        step("Ride off in it until you are warm, then put it away", 1.5, lambda i: i.kind in _WARM),
    )
    return tuple(s for s in evening if s is not None), tuple(s for s in morning if s is not None)


_WARM = frozenset({"down_suit", "down_jacket", "synthetic_jacket", "fleece", "beanie", "balaclava"})
_BAGS = frozenset(BY_MASS) - _WARM
_PITCHING = frozenset({"tent_pegs", "tent_poles", "guy_lines", "ground_sheet"})
_LYING = frozenset({"mat_inflatable", "mat_foam", "sit_pad", "pad_pump", "sleep_liner", "overquilt", "pillow"})
_COOKING = frozenset({"stove", "pot", "gas", "lighter", "spoon"})
_DRY = frozenset({"sleep_shirt", "sleep_socks", "base_layer", "base_bottoms", "t_shirt", "down_trousers"})
_SLEEPING = frozenset({"ear_plugs", "eye_mask"})
