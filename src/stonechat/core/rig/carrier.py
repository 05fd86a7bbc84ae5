"""Carriers: anything that holds load."""

from dataclasses import dataclass

ACCESS_RANK = {"riding": 0, "foot": 1, "off": 2, "camp": 3, "last": 4}
ACCESS_NAMES = {
    "riding": "riding",
    "foot": "foot down",
    "off": "off the bike",
    "camp": "camp",
    "last": "last resort",
}
PLACES = {
    "frame": "whole main triangle",
    "frame_upper": "upper main triangle",
    "frame_lower": "lower main triangle",
    "top_tube_front": "top tube, behind the stem",
    "top_tube_rear": "top tube, before the saddle",
    "stem": "beside the stem",
    "bar": "under the bars",
    "bar_front": "before the bar roll",
    "fork": "fork leg",
    "down_tube": "under the down tube",
    "seat": "behind the saddle",
    "bottle_down": "down-tube bosses",
    "bottle_seat": "seat-tube bosses",
    "body": "worn by the rider",
}
TAKES = {"items": "things", "water": "water", "food": "food"}
SIDES = {"centre": 0.0, "left": 1.0, "right": -1.0}


@dataclass(frozen=True, kw_only=True)
class Carrier:
    """One place that holds load, with what it costs and what it allows. Drag figures are estimates."""

    id: str
    name: str
    place: str  # key of PLACES
    side: str = "centre"  # key of SIDES
    capacity: float  # m³
    load_limit: float  # kg
    mass: float  # kg, empty
    longest: float  # m, longest rigid thing that goes in
    dry: bool = True  # keeps rain out
    access: str = "off"  # riding, foot or off: how the rider gets at it
    open_time: float = 1.0  # s, closure: zip 1, roll 6, strap 10
    drag: float = 0.0  # m², added when mounted and empty
    drag_fill: float = 0.0  # m² per m³ of what is in it
    takes: frozenset[str] = frozenset({"items"})
    sway_lever: float = 0.0  # m behind its hold; 0: does not sway
    steadiness: float = 1.0  # 1, a strap, to 3, rigid
    mounted: bool = True
