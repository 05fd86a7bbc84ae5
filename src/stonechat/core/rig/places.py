"""Places on bike and rider where something may hang: all that is known of each, in one list."""

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Place:
    """One place. Sizes and shields are estimates of what is usual; each carrier may have its own."""

    key: str
    name: str
    box: tuple[float, float, float, float]  # m along, across, upright of what is usual, and its capacity in m³
    shield: tuple[float, float, float, float]  # drag coefficient; shield low, default and high
    worn: bool = False  # on the rider
    in_frame: bool = False  # inside the main triangle
    turns: bool = False  # with the bars
    low: float = 0.0  # 1, how far what is heavy rides low here: 1 at the bottom of the frame (estimates)
    sways: bool = False  # behind the saddle
    on_rack: bool = False
    free: bool = False  # may be set forward or up a little
    outer: bool = False  # for what is bulky, by rule of thumb
    by_front_wheel: bool = False  # may meet it
    by_rear_wheel: bool = False
    hides: str = ""  # the light that it may hide
    school: str = ""  # what a rider leaves empty who wants nothing there


ALL: tuple[Place, ...] = (
    Place(key="frame", name="whole main triangle", box=(0.45, 0.055, 0.25, 0.005),
          shield=(0.9, 0.9, 1.0, 1.1), in_frame=True, low=1.0, by_rear_wheel=True, school="frame"),
    Place(key="frame_upper", name="upper main triangle", box=(0.45, 0.055, 0.12, 0.003),
          shield=(0.9, 0.9, 1.0, 1.1), in_frame=True, low=0.5, school="frame"),
    Place(key="frame_lower", name="lower main triangle", box=(0.3, 0.055, 0.2, 0.002),
          shield=(0.9, 0.9, 1.0, 1.1), in_frame=True, low=1.0, by_rear_wheel=True, school="frame"),
    Place(key="top_tube_front", name="top tube, behind the stem", box=(0.212, 0.055, 0.085, 0.001),
          shield=(0.9, 0.7, 0.95, 1.05)),
    Place(key="top_tube_rear", name="top tube, before the saddle", box=(0.17, 0.055, 0.075, 0.0008),
          shield=(0.9, 0.7, 0.95, 1.05)),
    Place(key="stem", name="beside the stem", box=(0.085, 0.09, 0.155, 0.0012),
          shield=(0.9, 0.5, 0.75, 0.95), turns=True, free=True),
    Place(key="bar", name="under the bars", box=(0.164, 0.43, 0.151, 0.009),
          shield=(0.9, 0.45, 0.7, 0.9), turns=True, free=True, outer=True, by_front_wheel=True,
          hides="front light", school="bars"),
    Place(key="bar_front", name="before the bar roll", box=(0.075, 0.2, 0.15, 0.0022),
          shield=(0.9, 0.4, 0.65, 0.9), turns=True, free=True, outer=True, by_front_wheel=True,
          hides="front light", school="bars"),
    Place(key="bar_under", name="under the bar roll", box=(0.075, 0.21, 0.065, 0.0008),
          shield=(0.9, 0.5, 0.75, 0.95), turns=True, free=True, outer=True, by_front_wheel=True, school="bars"),
    Place(key="bar_top", name="on top of the bars", box=(0.11, 0.24, 0.13, 0.0034),
          shield=(0.9, 0.4, 0.65, 0.9), turns=True, free=True, by_front_wheel=True,
          hides="front light", school="bars"),
    Place(key="bar_end", name="over the grips", box=(0.19, 0.11, 0.13, 0.0006),
          shield=(0.9, 0.2, 0.5, 0.75), turns=True, school="bars"),
    Place(key="aero", name="between the aero bars", box=(0.17, 0.075, 0.065, 0.0008),
          shield=(0.9, 0.6, 0.85, 1.05), turns=True, free=True, by_front_wheel=True, school="bars"),
    Place(key="fork", name="fork leg", box=(0.195, 0.105, 0.1, 0.0015),
          shield=(0.9, 0.35, 0.6, 0.8), turns=True, outer=True, school="fork"),
    Place(key="front_guard", name="over the front wheel", box=(0.2, 0.075, 0.075, 0.001),
          shield=(0.9, 0.3, 0.6, 0.85), turns=True, free=True, by_front_wheel=True, school="fork"),
    Place(key="down_tube", name="under the down tube", box=(0.223, 0.085, 0.08, 0.0012),
          shield=(0.9, 0.6, 0.85, 1.0), low=1.0, by_front_wheel=True),
    Place(key="down_store", name="inside the down tube", box=(0.22, 0.034, 0.032, 0.0002),
          shield=(0.9, 1.0, 1.0, 1.0), low=1.0),
    Place(key="seat", name="behind the saddle", box=(0.46, 0.16, 0.26, 0.011),
          shield=(0.9, 0.8, 0.93, 1.05), sways=True, outer=True, by_rear_wheel=True,
          hides="rear light", school="behind"),
    Place(key="seat_top", name="strapped on the seat pack", box=(0.28, 0.11, 0.07, 0.002),
          shield=(0.9, 0.6, 0.85, 1.05), sways=True, free=True, outer=True, by_rear_wheel=True, school="behind"),
    Place(key="rack", name="on the rear rack", box=(0.33, 0.17, 0.16, 0.008),
          shield=(0.9, 0.7, 0.85, 1.0), on_rack=True, free=True, outer=True,
          hides="rear light", school="behind"),
    Place(key="rack_side", name="beside the rear rack", box=(0.2, 0.1, 0.26, 0.005),
          shield=(1.0, 0.3, 0.5, 0.7), on_rack=True, free=True, outer=True, school="behind"),
    Place(key="bottle_down", name="down-tube bosses", box=(0.205, 0.073, 0.073, 0.00075),
          shield=(0.9, 0.9, 1.0, 1.1), low=1.0),
    Place(key="bottle_seat", name="seat-tube bosses", box=(0.198, 0.073, 0.073, 0.00075),
          shield=(0.9, 0.9, 1.0, 1.1), low=1.0, by_rear_wheel=True),
    Place(key="back", name="on the back", box=(0.15, 0.28, 0.42, 0.008),
          shield=(0.9, 0.6, 0.85, 1.05), worn=True, school="back"),
    Place(key="waist", name="round the waist", box=(0.11, 0.26, 0.14, 0.003),
          shield=(0.9, 0.8, 0.95, 1.1), worn=True, school="back"),
    Place(key="shoulder", name="over the shoulder", box=(0.2, 0.3, 0.3, 0.012),
          shield=(1.0, 0.2, 0.5, 0.8), worn=True, school="back"),
    Place(key="body", name="pockets of the clothes", box=(0.06, 0.3, 0.2, 0.0014),
          shield=(0.9, 0.85, 1.0, 1.15), worn=True),
)  # fmt: skip
PLACES = {place.key: place.name for place in ALL}


def where(is_so: Callable[[Place], bool]) -> frozenset[str]:
    """Return the keys of the places that are so.

    Parameters
    ----------
    is_so : callable
        Whether a place is.

    Returns
    -------
    keys : frozenset of str
        Of those.

    Examples
    --------
    >>> sorted(where(lambda place: place.in_frame))
    ['frame', 'frame_lower', 'frame_upper']
    """
    return frozenset(place.key for place in ALL if is_so(place))


WORN = where(lambda place: place.worn)
FRAME_PLACES = where(lambda place: place.in_frame)
TURNING = where(lambda place: place.turns)
