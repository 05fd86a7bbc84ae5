"""A generic catalogue of carriers to begin with. All figures are estimates of what is usual; each may be edited."""

from dataclasses import dataclass
from typing import Any

from stonechat.core.rig import places
from stonechat.core.rig.carrier import Carrier

SHIELDS = {place.key: place.shield for place in places.ALL}
_GLOVES = {0.0: 1.0, 1.0: 2.0, 2.0: 3.0, 4.0: 4.0, 6.0: 4.0, 10.0: 8.0, 12.0: 8.0}  # s more for each closure (estimate)


@dataclass(frozen=True, kw_only=True)
class Kind:
    """One entry: what it adds to a rig, one carrier or several, and where else each may go."""

    key: str
    name: str
    parts: tuple[Carrier, ...]  # their ids are the endings of the new ones
    note: str = ""  # what it suits, and what it is easily overlooked to take
    alternatives: tuple[str, ...] = ()  # other places it may hang at


def _part(
    place: str, name: str, litres: tuple[float, float], limit: float, grams: float, longest: float,
    size: tuple[int, ...], *, side: str = "centre", dryness: str = "shower", access: str = "off",
    opens: float = 1.0, mouth: float = 0.0, takes: str = "items food", sway: float = 0.0, steady: float = 3.0,
    by: str = "", quick: bool = False,
    loss: str = "low", freezes: str = "open", uses: str = "", computed: bool = False,
    drink: str = "either",
) -> Carrier:  # fmt: skip
    coefficient, low, shield, high = SHIELDS[place]
    length, width, height = (entry / 1e3 for entry in size)
    return Carrier(
        id="", name=name, place=place, side=side, capacity=litres[1] / 1e3, capacity_least=litres[0] / 1e3,
        capacity_by_hand=not computed, load_limit=limit, mass=grams / 1e3, longest=longest / 1e3, mouth=mouth / 1e3,
        length=length, width=width, height=height, dryness=dryness, access=access, open_time=opens,
        gloves_time=_GLOVES[opens], drag_by_hand=False, drag_coefficient=coefficient, shield=shield, shield_low=low,
        shield_high=high, takes=frozenset(takes.split()), sway_lever=sway / 1e3, steadiness=steady, steadied_by=by,
        quick_off=quick, loss=loss, freezes=freezes, uses=frozenset(uses.split()),
        drink=drink,
    )  # fmt: skip


_RIDING, _FOOT = "riding", "foot"
_SEAT: dict[str, Any] = {
    "access": "off",
    "opens": 12.0,
    "dryness": "dry",
    "by": "straps to post and rails",
    "uses": "saddle_rails",
}
_BAR: dict[str, Any] = {
    "access": "off",
    "opens": 12.0,
    "dryness": "dry",
    "by": "two straps and a strut to the head tube",
}
_CAGE: dict[str, Any] = {"access": _FOOT, "opens": 2.0, "takes": "water", "dryness": "dry", "steady": 2.5, "by": "cage"}
_HOLDER: dict[str, Any] = {
    "access": _RIDING,
    "opens": 0.0,
    "takes": "water",
    "dryness": "dry",
    "by": "cage",
    "freezes": "frame",
}

CATALOGUE: tuple[Kind, ...] = (
    Kind(key="frame_full", name="full frame bag", note="Takes the bottles' place; thickness is felt at the knees.",
         parts=(_part("frame", "full frame bag", (0, 4.6), 5.0, 290, 460, (450, 58, 260), access=_FOOT, mouth=230,
                      computed=True, freezes="frame", by="straps on three tubes"),)),
    Kind(key="frame_two", name="full frame bag, two compartments", note="Heavy below, at hand above.",
         parts=(_part("frame_upper", "frame bag, upper part", (0, 2.6), 3.0, 200, 420, (420, 58, 120), access=_FOOT,
                      mouth=300, computed=True, freezes="frame", by="straps on three tubes"),
                _part("frame_lower", "frame bag, lower part", (0, 1.6), 3.0, 120, 260, (300, 58, 200), access=_FOOT,
                      mouth=180, computed=True, freezes="frame", by="straps on three tubes"))),
    Kind(key="frame_half", name="half frame bag", note="Leaves room for bottles in short cages.",
         parts=(_part("frame_upper", "half frame bag", (0, 3.0), 4.0, 195, 400, (450, 55, 120), access=_FOOT, mouth=300,
                      computed=True, freezes="frame", by="straps on top and head tube"),)),
    Kind(key="frame_wedge", name="lower frame wedge", note="Low and heavy: tools, spares, a lock.",
         parts=(_part("frame_lower", "frame wedge", (0, 1.4), 3.0, 110, 240, (280, 52, 180), mouth=160, computed=True,
                      freezes="frame", by="straps on seat and down tube"),)),
    Kind(key="bladder", name="bladder in the frame", note="Heavy water low; slow to fill at a tap; the hose freezes.",
         parts=(_part("frame_lower", "frame bladder", (0.1, 1.5), 2.0, 160, 100, (300, 50, 200), access=_RIDING,
                      takes="water", dryness="dry", opens=0.0, freezes="frame", drink="plain",
                      by="frame bag around it"),)),
    Kind(key="top_front", name="top-tube bag, front", note="What is eaten while riding.",
        alternatives=("top_tube_rear",),
         parts=(_part("top_tube_front", "top-tube bag, front", (0.4, 1.1), 1.2, 88, 200, (212, 55, 90), access=_RIDING,
                      mouth=60, uses="steerer", by="strap or bolts behind the stem"),)),
    Kind(key="top_rear", name="top-tube bag, rear", note="May meet the knees when standing.",
         alternatives=("top_tube_front",),
         parts=(_part("top_tube_rear", "top-tube bag, rear", (0.3, 0.8), 1.0, 82, 170, (170, 55, 75), access=_FOOT,
                      mouth=55, by="straps to the seat post"),)),
    Kind(key="top_bolted", name="top-tube bag on bosses", note="No straps to rub; needs the bosses.",
         parts=(_part("top_tube_front", "bolted top-tube bag", (0.4, 1.2), 1.2, 105, 210, (220, 55, 95), access=_RIDING,
                      mouth=60, uses="top_tube", by="two bolts"),)),
    Kind(key="stem_pair", name="stem bags, pair", note="Food or a bottle at hand; they move against the knees uphill.",
         parts=tuple(_part("stem", f"stem bag, {side}", (0.4, 1.1), 1.0, 70, 180, (90, 92, 165), side=side,
                           access=_RIDING, opens=0.0, dryness="open", mouth=90, loss="some", by="three straps")
                     for side in ("left", "right"))),
    Kind(key="stem_one", name="stem bag, one", alternatives=("stem",),
         parts=(_part("stem", "stem bag", (0.4, 1.1), 1.0, 70, 180, (90, 92, 165), side="left", access=_RIDING,
                      opens=0.0, dryness="open", mouth=90, loss="some", by="three straps"),)),
    Kind(key="bar_roll_small", name="bar roll, small", note="Light and soft things only.",
         parts=(_part("bar", "bar roll", (2.5, 5.5), 2.5, 225, 380, (130, 385, 130), uses="bar_middle", **_BAR),)),
    Kind(key="bar_roll", name="bar roll, large", note="Look at the tyre at full travel and at the room for the hands.",
         parts=(_part("bar", "bar roll, large", (5.0, 13.0), 3.0, 330, 520, (175, 520, 175), uses="bar_middle",
             **_BAR),)),
    Kind(key="bar_pouch", name="pouch before the bar roll", note="Comes off for a stop indoors.",
         parts=(_part("bar_front", "bar pouch", (0.8, 2.2), 1.0, 130, 230, (75, 220, 150), access=_FOOT, mouth=180,
                      quick=True, loss="some", by="clips on the roll"),)),
    Kind(key="bar_tool", name="tool roll under the bar roll", note="Watch the tyre at full travel.",
         parts=(_part("bar_under", "tool roll, front", (0.4, 0.9), 0.8, 85, 200, (75, 210, 65), access="off", mouth=200,
                      opens=6.0, dryness="open", loss="some", by="two straps round the roll"),)),
    Kind(key="bar_box", name="bar box", note="At hand and dry; stands in the wind.",
         parts=(_part("bar_top", "bar box", (3.4, 3.4), 2.5, 420, 230, (120, 240, 130), access=_RIDING, mouth=200,
                      quick=True, uses="bar_middle", by="rigid mount", dryness="shower"),)),
    Kind(key="bar_bag", name="bar bag", note="At hand; hides a light on the bars.",
         parts=(_part("bar_front", "bar bag", (1.2, 2.6), 1.5, 180, 240, (95, 240, 130), access=_RIDING, mouth=200,
                      quick=True, by="straps on the bars", uses="bar_middle"),)),
    Kind(key="aero_pod", name="pouch between the aero bars", note="Phone and food before the eyes.",
         parts=(_part("aero", "aero-bar pouch", (0.3, 0.7), 0.6, 75, 170, (170, 75, 62), access=_RIDING, opens=0.0,
                      dryness="open", mouth=60, loss="some", by="straps on both extensions"),)),
    Kind(key="bar_covers", name="bar covers", note="Warm hands in a cold rain; a few things stay in them.",
         parts=tuple(_part("bar_end", f"bar cover, {side}", (0.1, 0.6), 0.4, 95, 120, (190, 115, 135), side=side,
                           access=_RIDING, opens=0.0, dryness="shower", loss="some", freezes="body", by="strap")
                     for side in ("left", "right"))),
    Kind(key="fork_bottles", name="fork cages with bottles, pair", note="Slows the steering; check the bolts daily.",
         parts=tuple(_part("fork", f"fork bottle, {side}", (1.0, 1.0), 1.3, 160, 250, (250, 82, 82), side=side,
                           uses=f"fork_{side}", loss="some", **_CAGE) for side in ("left", "right"))),
    Kind(key="fork_bags", name="fork cages with bags, pair", note="Left and right alike in mass.",
         parts=tuple(_part("fork", f"fork bag, {side}", (1.5, 3.5), 2.0, 210, 280, (270, 120, 110), side=side,
                           opens=10.0, dryness="dry", uses=f"fork_{side}", loss="some", steady=2.0,
                               by="cage and straps")
                     for side in ("left", "right"))),
    Kind(key="guard_shelf", name="mudguard shelf", note="Bears a bottle or a small roll; shakes with the wheel.",
         parts=(_part("front_guard", "mudguard shelf", (0.0, 0.9), 0.8, 140, 220, (220, 75, 75), access="off",
             opens=10.0,
                      dryness="open", loss="high", steady=1.5, by="straps"),)),
    Kind(key="down_bag", name="down-tube bag", note="Mud and the tyre at full travel.", alternatives=("down_tube",),
         parts=(_part("down_tube", "down-tube bag", (0.6, 1.3), 1.6, 120, 210, (220, 85, 80), opens=4.0, dryness="dry",
                      uses="under_down_tube", loss="some", by="cage and straps"),)),
    Kind(key="tool_bottle", name="tool bottle", note="Tools low and dry, where no bottle is missed.",
         alternatives=("bottle_down", "bottle_seat"),
         parts=(_part("down_tube", "tool bottle", (0.9, 0.9), 1.4, 110, 180, (185, 74, 74), opens=4.0, dryness="dry",
                      takes="items", uses="under_down_tube", loss="some", by="cage and strap"),)),
    Kind(key="under_bottle", name="bottle under the down tube", note="Dirty spout: for cooking or with a cap.",
         parts=(_part("down_tube", "bottle under the down tube", (0.75, 0.75), 0.95, 95, 200, (200, 73, 73),
                      uses="under_down_tube", loss="some", **_CAGE),)),
    Kind(key="frame_store", name="store inside the frame", note="Tube, levers and plugs in a roll.",
         parts=(_part("down_store", "in-frame store", (0.4, 0.4), 0.8, 60, 200, (240, 34, 34), opens=2.0, dryness="dry",
                      takes="items", freezes="frame", by="inside the tube"),)),
    Kind(key="bottle_top", name="bottle, top-entry cage", alternatives=("bottle_seat", "bottle_down"),
         note="Needs room above to draw it.",
         parts=(_part("bottle_down", "bottle, down tube", (0.75, 0.75), 0.9, 95, 200, (205, 73, 73), uses="down_tube",
                      **_HOLDER),)),
    Kind(key="bottle_side", name="bottle, side-entry cage", alternatives=("bottle_seat", "bottle_down"),
         note="Comes out under a half frame bag.",
         parts=(_part("bottle_seat", "bottle, seat tube", (0.6, 0.6), 0.75, 90, 180, (178, 73, 73), uses="seat_tube",
                      **_HOLDER),)),
    Kind(key="bottle_low", name="half-litre bottle, side-entry cage", alternatives=("bottle_seat", "bottle_down"),
         note="Fits where a half frame bag leaves no height.",
         parts=(_part("bottle_down", "bottle, half a litre", (0.5, 0.5), 0.65, 80, 140, (152, 73, 73),
                      uses="down_tube", **_HOLDER),)),
    Kind(key="bottle_low_rear", name="half-litre bottle on the seat tube", alternatives=("bottle_seat", "bottle_down"),
         note="Where a small frame leaves no more.",
         parts=(_part("bottle_seat", "bottle, seat tube, half a litre", (0.5, 0.5), 0.65, 80, 140, (152, 73, 73),
                      uses="seat_tube", **_HOLDER),)),
    Kind(key="seat_small", name="seat pack, small", note="Barely sways.",
         parts=(_part("seat", "seat pack, small", (2.0, 5.0), 1.8, 260, 320, (380, 150, 210), sway=200, steady=1.6,
                      **_SEAT),)),
    Kind(key="seat_middle", name="seat pack, middle", note="Light, soft things; heavy ones make it sway.",
         parts=(_part("seat", "seat pack", (5.0, 11.0), 2.6, 345, 400, (460, 160, 260), sway=280, steady=1.3,
             **_SEAT),)),
    Kind(key="seat_large", name="seat pack, large", note="Look at tyre and dropper.",
         parts=(_part("seat", "seat pack, large", (8.0, 16.0), 3.4, 430, 460, (530, 175, 300), sway=320, steady=1.3,
                      **_SEAT),)),
    Kind(key="seat_frame", name="seat pack in a rigid holder", note="Half the sway for 150 g more.",
         parts=(_part("seat", "seat pack in a holder", (5.0, 12.0), 3.0, 520, 420, (460, 165, 260), sway=260,
             steady=2.6,
                      access="off", opens=12.0, dryness="dry", by="rigid holder at the post", uses="saddle_rails",
                      quick=True),)),
    Kind(key="rack_pack", name="rear pack on a light rack", note="Does not sway, and leaves the dropper free.",
         parts=(_part("rack", "rear rack pack", (4.0, 12.0), 5.0, 780, 420, (400, 180, 190), sway=120, steady=3.0,
                      opens=12.0, dryness="dry", by="rack at axle and seat post", quick=True),)),
    Kind(key="rack_sides", name="side mounts of a rear rack, pair", note="Heels and wind; low and steady.",
         parts=tuple(_part("rack_side", f"side bag, {side}", (2.0, 5.0), 3.0, 260, 240, (190, 105, 250), side=side,
                           opens=12.0, dryness="dry", by="rack") for side in ("left", "right"))),
    Kind(key="seat_strap", name="strap-on place on the seat pack",
        note="Needs a second strap; in sight and easily lost.",
         parts=(_part("seat_top", "strapped on the seat pack", (0.0, 2.0), 0.8, 20, 400, (280, 120, 75), opens=10.0,
                      dryness="open", takes="items", loss="high", sway=300, steady=1.2, by="two straps"),)),
    Kind(key="vest", name="hydration vest", note="Cool it is not; first water, first food, papers on the body.",
         parts=(_part("back", "vest, bladder", (0.1, 1.5), 1.6, 230, 200, (90, 240, 330), access=_RIDING, opens=0.0,
                      takes="water", dryness="dry", freezes="body", drink="plain", by="body"),
                _part("back", "vest, pockets", (0.2, 2.0), 1.2, 70, 200, (60, 280, 300), access=_RIDING, opens=1.0,
                      dryness="open", freezes="body", by="body", quick=True))),
    Kind(key="backpack", name="light backpack", note="Felt in back and seat after the first day.",
         parts=(_part("back", "light backpack", (1.0, 9.0), 2.5, 310, 420, (140, 270, 430), access=_FOOT, opens=2.0,
                      dryness="shower", freezes="body", by="body", quick=True),)),
    Kind(key="waist", name="waist pack", note="Off and on with one clip: papers and phone.",
         parts=(_part("waist", "waist pack", (0.5, 2.5), 1.2, 120, 220, (100, 250, 130), access=_FOOT, opens=1.0,
                      dryness="shower", freezes="body", by="belt", quick=True),)),
    Kind(key="jersey", name="jersey pockets", note="Three of them; sweat and rain get in.",
         parts=(_part("body", "jersey pockets", (0.0, 1.4), 1.0, 0, 180, (50, 300, 160), access=_RIDING, opens=0.0,
                      dryness="open", freezes="body", by="body", loss="some", quick=True),)),
    Kind(key="bib", name="bib pockets", note="For what never leaves the body.",
         parts=(_part("body", "bib pockets", (0.0, 0.6), 0.6, 0, 170, (40, 280, 150), access=_RIDING, opens=0.0,
                      dryness="dry", freezes="body", by="body"),)),
    Kind(key="shopping", name="folding shopping bag", note="Over the shoulder; it reaches for the wheel on descents.",
         parts=(_part("shoulder", "folding shopping bag", (0.0, 12.0), 4.0, 24, 400, (200, 300, 300), access=_FOOT,
                      opens=0.0, dryness="open", loss="some", steady=1.0, by="one strap"),)),
)  # fmt: skip
KINDS: dict[str, Kind] = {kind.key: kind for kind in CATALOGUE}
FOLLOWS = {  # what a part's bosses become when it moves to another place
    "bottle_down": "down_tube", "bottle_seat": "seat_tube", "down_tube": "under_down_tube",
}  # fmt: skip


def places_for(carrier: Carrier) -> tuple[str, ...]:
    """Return every place at which a carrier of its kind may hang.

    Parameters
    ----------
    carrier : Carrier
        One of a rig; of the rider's own kind it stays where it is.

    Returns
    -------
    places : tuple of str
        Keys of PLACES, its own first.

    Examples
    --------
    >>> bottle = KINDS["bottle_top"].parts[0]
    >>> from dataclasses import replace
    >>> places_for(replace(bottle, kind="bottle_top"))
    ('bottle_down', 'bottle_seat')
    """
    kind = KINDS.get(carrier.kind)
    usual = () if kind is None else (*(part.place for part in kind.parts), *kind.alternatives)
    return tuple(dict.fromkeys((carrier.place, *usual)))


def uses_at(carrier: Carrier, place: str) -> frozenset[str]:
    """Return what a carrier takes up at another place.

    Parameters
    ----------
    carrier : Carrier
        The carrier where it is now.
    place : str
        Where it goes.

    Returns
    -------
    uses : frozenset of str
        Keys of USES: the bosses there in place of those here.

    Examples
    --------
    >>> sorted(uses_at(KINDS["bottle_top"].parts[0], "bottle_seat"))
    ['seat_tube']
    """
    if place == carrier.place or carrier.place not in FOLLOWS or place not in FOLLOWS:
        return carrier.uses
    return (carrier.uses - {FOLLOWS[carrier.place]}) | {FOLLOWS[place]}
