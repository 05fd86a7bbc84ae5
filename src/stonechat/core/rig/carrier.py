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
TAKES = {"items": "things", "water": "water", "food": "food"}
SIDES = {"centre": 0.0, "left": 1.0, "right": -1.0}
DRYNESS = {"dry": "dry", "shower": "shower-proof", "open": "open"}
LOSSES = {"low": "low", "some": "some", "high": "high"}
FREEZES = {"body": "warmed by the body", "frame": "sheltered in the frame", "open": "out in the cold"}
DRINKS = {"either": "plain or mixed", "plain": "plain water only", "mixed": "mixed drink only"}
USES = {
    "down_tube": "down-tube bosses",
    "seat_tube": "seat-tube bosses",
    "top_tube": "top-tube bosses",
    "under_down_tube": "bosses under the down tube",
    "fork_left": "bosses of the left fork leg",
    "fork_right": "bosses of the right fork leg",
    "rack": "eyelets for a rack",
    "bar_middle": "the middle of the bars",
    "saddle_rails": "the saddle rails",
    "steerer": "the spacers under the stem",
}


@dataclass(frozen=True, kw_only=True)
class Carrier:
    """One place that holds load, with what it costs and what it allows. Drag figures are estimates."""

    id: str
    name: str
    kind: str = "own"  # key of the catalogue, or `own`
    place: str  # key of PLACES
    side: str = "centre"  # key of SIDES
    shift: float = 0.0  # m along its place, from the usual spot
    capacity: float  # m³, full
    capacity_least: float = 0.0  # m³, rolled or folded small
    capacity_by_hand: bool = True  # a frame bag's may come from the drawn triangle instead
    load_limit: float  # kg
    mass: float  # kg, empty
    longest: float  # m, longest rigid thing that goes in
    mouth: float = 0.0  # m, widest rigid thing through its opening; 0: not known
    length: float = 0.0  # m along its place, full; 0: usual for place and capacity
    width: float = 0.0  # m across
    height: float = 0.0  # m upright, or away from the tube
    dryness: str = "dry"  # key of DRYNESS
    access: str = "off"  # riding, foot or off: how the rider gets at it
    open_time: float = 1.0  # s, closure: zip 1, roll 6, strap 10
    gloves_time: float = 0.0  # s more with gloves on
    drag: float = 0.0  # m², added when mounted and empty
    drag_fill: float = 0.0  # m² per m³ of what is in it
    drag_by_hand: bool = True  # drag as typed, not from the drawing
    drag_coefficient: float = 0.9  # 1
    shield: float = 1.0  # 1, share of its wind that the bike and rider would meet without it
    shield_low: float = 0.9  # 1, least: most drag
    shield_high: float = 1.1  # 1, most: least drag; above 1 it smooths the flow
    takes: frozenset[str] = frozenset({"items"})
    sway_lever: float = 0.0  # m behind its hold; 0: does not sway
    steadiness: float = 1.0  # 1, a strap, to 3, rigid
    steadied_by: str = ""  # what holds it still, in words
    quick_off: bool = False  # comes off in one grip
    loss: str = "low"  # key of LOSSES, risk of losing what is in it
    freezes: str = "open"  # key of FREEZES
    drink: str = "either"  # key of DRINKS, what may be in it where it takes water
    uses: frozenset[str] = frozenset()  # keys of USES that it takes up
    mounted: bool = True

    @property
    def strapped(self) -> bool:
        """Whether straps hold it, which rub."""
        return "strap" in self.steadied_by

    @property
    def dry(self) -> bool:
        """Whether it keeps rain out."""
        return self.dryness == "dry"
