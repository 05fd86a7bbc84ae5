"""What riders call their bags, and which carriers are meant by it."""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from stonechat.core.kit.item import Carried
from stonechat.core.rig.carrier import Carrier


@dataclass(frozen=True, kw_only=True)
class BagWord:
    """One kind of bag by its words."""

    words: str  # pattern, from the beginning of a word
    places: tuple[str, ...]  # keys of PLACES it may be, likeliest first
    make: str  # key of the catalogue's kind that is made where there is none


_BAGS = (  # the first that fits counts
    BagWord(words=r"tool (bottle|keg|can|case)", places=("bottle_seat", "bottle_down", "down_tube"),
            make="tool_bottle"),
    BagWord(words=r"top.?tube.*(rear|back)|rear top.?tube|jerry", places=("top_tube_rear",), make="top_rear"),
    BagWord(words=r"top.?tube|bento|tank", places=("top_tube_front", "top_tube_rear"), make="top_front"),
    BagWord(words=r"aero|tri.?bar|between the bars", places=("aero",), make="aero_pod"),
    BagWord(words=r"stem|feed|snack|food pouch", places=("stem",), make="stem_pair"),
    BagWord(words=r"(bar|front|accessory|roll).*pouch|pouch.*(bar|front)", places=("bar_front", "bar_top"),
            make="bar_pouch"),
    BagWord(words=r"down.?tube|under.*frame", places=("down_tube",), make="down_bag"),
    BagWord(words=r"fork|cage bag|cargo cage", places=("fork",), make="fork_bags"),
    BagWord(words=r"half.*frame|frame.*half|upper frame", places=("frame_upper", "frame"), make="frame_half"),
    BagWord(words=r"wedge|lower frame", places=("frame_lower", "frame"), make="frame_wedge"),
    BagWord(words=r"frame|triangle", places=("frame", "frame_upper", "frame_lower"), make="frame_half"),
    BagWord(words=r"seat|saddle|tail|rear bag|back bag|behind", places=("seat", "rack", "seat_top"),
            make="seat_middle"),
    BagWord(words=r"pannier|side bag", places=("rack_side",), make="rack_sides"),
    BagWord(words=r"rack|trunk", places=("rack", "rack_side"), make="rack_pack"),
    BagWord(words=r"bar roll|handlebar|bar bag|front (bag|roll|pack)|bar pack|harness|^bars?$|^front$",
            places=("bar", "bar_top", "bar_front"), make="bar_roll_small"),
    BagWord(words=r"vest\b|back.?pack|rucksack|day ?pack|hydration|on (my )?back", places=("back",), make="vest"),
    BagWord(words=r"hip|bum|waist|fanny|belt", places=("waist",), make="waist"),
    BagWord(words=r"bib pocket", places=("body",), make="bib"),
    BagWord(words=r"jersey|pocket", places=("body",), make="jersey"),
    BagWord(words=r"rear|^back$", places=("seat", "rack"), make="seat_middle"),
    BagWord(words=r"bottle|cage", places=("bottle_down", "bottle_seat"), make="bottle_top"),
)  # fmt: skip
_WORN = re.compile(r"^(worn|wearing|wear|on (me|body|rider|person)|body|rider|clothes worn|on the body|me)\b|\bworn\b")
_FIXED = re.compile(r"^(on (the )?bike|bike|fixed|mounted|attached|on frame|bicycle|clamped|installed)$")


def bag_of(words: str) -> BagWord | Carried | None:
    """Return which bag is meant.

    Parameters
    ----------
    words : str
        From a column of places or the heading of a section.

    Returns
    -------
    bag : BagWord, Carried or None
        A kind of bag; how it goes along where it is in none; None where it is not known.

    Examples
    --------
    >>> bag_of("Saddle bag 14 l").make, bag_of("on me").value, bag_of("Sleep system") is None
    ('seat_middle', 'worn', True)
    """
    plain = re.sub(r"[_\-]", " ", words.casefold()).strip(" :.")
    if _WORN.search(plain):
        return Carried.WORN
    if _FIXED.search(plain):
        return Carried.FIXED
    return next((bag for bag in _BAGS if re.search(rf"\b(?:{bag.words})", plain)), None)


def carrier_for(words: str, carriers: Iterable[Carrier]) -> Carrier | None:
    """Return the carrier of a rig that is meant by a name.

    Parameters
    ----------
    words : str
        What the rider calls it.
    carriers : iterable of Carrier
        Those of the rig that hold things.

    Returns
    -------
    carrier : Carrier or None
        One of that very name, else the largest of those that hang where such a bag hangs; left before right.
    """
    able = [carrier for carrier in carriers if carrier.mounted and "items" in carrier.takes]
    by_name = {carrier.name.casefold(): carrier for carrier in reversed(able)}
    if words.casefold().strip() in by_name:
        return by_name[words.casefold().strip()]
    bag = bag_of(words)
    if bag is Carried.WORN:  # what is on me and is not clothes is in a pocket
        bag = next(entry for entry in _BAGS if entry.make == "jersey")
    return _hung_where(bag, words, able) if isinstance(bag, BagWord) else None


def _hung_where(bag: BagWord, words: str, able: list[Carrier]) -> Carrier | None:
    """Return the largest carrier in the first of a bag's places where one hangs, on the side that is named."""
    side = next((side for side in ("left", "right") if re.search(rf"\b{side}\b", words.casefold())), "")
    for place in bag.places:
        here = [carrier for carrier in able if carrier.place == place and side in ("", carrier.side)]
        if here:
            return max(here, key=lambda carrier: carrier.capacity)
    return None
