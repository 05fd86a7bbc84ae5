"""Rules of how things ride together that a packing keeps where it can; the checks judge the same after the ride."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from stonechat.core.kit.item import Item
from stonechat.core.load.balance import USUAL_BANDS, turning_lever
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import FRAME_PLACES, TURNING, WORN, Carrier
from stonechat.core.rig.geometry import carrier_position

UNKEPT = 60.0  # min that stand for a rule not kept: it goes before minutes, and never makes a packing impossible
SOFT = frozenset({"clothes", "sleep"})  # what pads a fragile thing
HARD = frozenset({"tools", "power"})  # what breaks one
QUICK_TO_OPEN = 4.0  # s of closure that a first answer may cost (estimate)
HEAVY = 0.15  # kg, a thing from which its height matters (estimate)
LOW_PLACES = FRAME_PLACES | {"down_tube", "down_store", "bottle_down", "bottle_seat"}
LOW_SHARE = 0.45  # 1, share of heavy tools and power that should ride low in the frame (estimate)
BACK_MOST = 1.5  # kg on the back (estimate)
FREE_LEAST = 0.4  # l that one bag keeps free (estimate)
BAGS_FOR_CAMP = 3  # bags over which the sleeping kit may be spread (estimate)
FREEZES_BELOW = 0.0  # °C
INDOORS = {"call": "phone", "pay": "money", "papers": "papers", "power_plug": "charger", "teeth": "wash kit"}
STRANDS = frozenset(  # jobs whose loss ends a race
    {
        "pay", "papers", "medicine", "hanger", "shift_power", "front_light", "rear_light", "navigate", "sleep_warm",
        "plug", "tube", "pump", "call",
    }
)  # fmt: skip
COLD_SHY = frozenset({"power_store", "treat", "shift_power"})  # jobs of things that frost harms
SPARES = (("front_light", "spare_light", "light"), ("navigate", "navigate_spare", "navigation"))


@dataclass(frozen=True, kw_only=True)
class Rule:
    """One rule over things or carriers, by their ids."""

    code: str  # of the check that judges it
    words: str  # what is not kept, for people


@dataclass(frozen=True, kw_only=True)
class Apart(Rule):
    """None of the ones rides with any of the others."""

    ones: frozenset[str]
    others: frozenset[str]


@dataclass(frozen=True, kw_only=True)
class FewBags(Rule):
    """Things ride in few of some carriers; with one bag and all carriers: together."""

    things: frozenset[str]
    carriers: frozenset[str]  # those that count
    most: int


@dataclass(frozen=True, kw_only=True)
class AtHand(Rule):
    """One of the things rides in one of the carriers."""

    things: frozenset[str]
    carriers: frozenset[str]


@dataclass(frozen=True, kw_only=True)
class Padded(Rule):
    """A thing does not ride with hard ones where nothing soft is."""

    thing: str
    hard: frozenset[str]
    soft: frozenset[str]


@dataclass(frozen=True, kw_only=True)
class LowShare(Rule):
    """A share of a mass rides in some carriers."""

    masses: Mapping[str, float]  # kg by thing
    carriers: frozenset[str]
    least: float  # 1


@dataclass(frozen=True, kw_only=True)
class LeverMost(Rule):
    """Masses times levers, summed over carriers, stay under a limit."""

    levers: Mapping[str, float]  # by carrier: 1 for mass, m² for inertia
    most: float  # what is left of the limit for the load


@dataclass(frozen=True, kw_only=True)
class NotIn(Rule):
    """A thing does not ride in some carriers."""

    thing: str
    carriers: frozenset[str]


@dataclass(frozen=True, kw_only=True)
class RoomLeft(Rule):
    """One of the carriers keeps room."""

    carriers: frozenset[str]
    volume: float  # m³


@dataclass(frozen=True, kw_only=True)
class Conditions:
    """What rules depend on besides things and carriers."""

    coldest: float = 10.0  # °C
    water: Mapping[str, float] = field(default_factory=dict)  # kg by carrier
    has_food: bool = True
    steering: float = USUAL_BANDS.steering  # kg·m² that the load may add to the bars
    groups: bool = True  # whether sets stay together
    off: frozenset[str] = frozenset()  # codes of checks that are switched off


Parts = Mapping[str, tuple[Item, ...]]  # what is in a pouch, the pouch itself first


def riding_rules(
    *, items: tuple[Item, ...], parts: Parts, carriers: tuple[Carrier, ...], bike: Bike, conditions: Conditions
) -> tuple[Rule, ...]:
    """Return the rules of how things ride together, those of checks that are switched off left out.

    Parameters
    ----------
    items : tuple of Item
        Things as they are packed.
    parts : mapping of str to tuple of Item
        What is in a pouch.
    carriers : tuple of Carrier
        Those that may hold them.
    bike : Bike
        For what turns with the bars.
    conditions : Conditions
        Water, food and switches.

    Returns
    -------
    rules : tuple of Rule
        In the order in which their checks are listed; rules that nothing could break are left out.

    Examples
    --------
    >>> riding_rules(items=(), parts={}, carriers=(), bike=Bike(), conditions=Conditions())
    ()
    """
    units = {item.id: parts.get(item.id, (item,)) for item in items if not item.worn}
    named = {item.id: item.name for item in items}
    found = [
        *_first_answer(units, carriers),
        *_not_in(units, named, carriers, conditions),
        *_padding(units, named),
        *_low(units, carriers),
        *_few_bags(units, carriers),
        *_room(carriers, conditions),
        *_on_rider_and_bars(carriers, bike, conditions),
        *_spares(units),
        *(_sets(items, carriers) if conditions.groups else ()),
    ]
    return tuple(rule for rule in found if rule.code not in conditions.off)


def _with_roles(units: Parts, *roles: str) -> frozenset[str]:
    return frozenset(key for key, parts in units.items() if any(part.roles & set(roles) for part in parts))


def _first_answer(units: Parts, carriers: tuple[Carrier, ...]) -> list[Rule]:
    plugs = _with_roles(units, "plug")
    quick = frozenset(c.id for c in carriers if c.open_time <= QUICK_TO_OPEN and "items" in c.takes)
    words = "the first puncture answer is not at hand"
    return [AtHand(code="puncture", words=words, things=plugs, carriers=quick)] if plugs else []


def _not_in(
    units: Parts, named: Mapping[str, str], carriers: tuple[Carrier, ...], conditions: Conditions
) -> list[Rule]:
    """What ends a race is not where things get lost, what frost harms not out in the cold."""
    lossy = frozenset(c.id for c in carriers if c.loss == "high")
    open_air = frozenset(c.id for c in carriers if c.freezes == "open")
    rules: list[Rule] = []
    for key, parts in units.items():
        if lossy and any(p.roles & STRANDS or p.need == "must" for p in parts):
            rules.append(NotIn(code="loss", words=f"{named[key]} may be lost", thing=key, carriers=lossy))
        if open_air and conditions.coldest < FREEZES_BELOW and any(p.roles & COLD_SHY for p in parts):
            rules.append(NotIn(code="frost", words=f"{named[key]} would freeze", thing=key, carriers=open_air))
    return rules


def _padding(units: Parts, named: Mapping[str, str]) -> list[Rule]:
    hard = frozenset(k for k, parts in units.items() if any(p.category in HARD and not p.fragile for p in parts))
    soft = frozenset(k for k, parts in units.items() if any(p.category in SOFT for p in parts))
    return [
        Padded(code="fragile", words=f"{named[key]} rides beside hard things, unpadded", thing=key,
               hard=hard - {key}, soft=soft - {key})
        for key, parts in units.items()
        if len(parts) == 1 and parts[0].fragile and hard - {key}
    ]  # fmt: skip


def _low(units: Parts, carriers: tuple[Carrier, ...]) -> list[Rule]:
    masses = {
        key: sum(p.total_mass for p in parts if p.category in HARD and p.total_mass >= HEAVY)
        for key, parts in units.items()
    }
    masses = {key: mass for key, mass in masses.items() if mass > 0.0}
    low = frozenset(carrier.id for carrier in carriers if carrier.place in LOW_PLACES)
    words = "heavy tools and power do not ride low"
    return [LowShare(code="heavy-low", words=words, masses=masses, carriers=low, least=LOW_SHARE)] if masses else []


def _few_bags(units: Parts, carriers: tuple[Carrier, ...]) -> list[Rule]:
    everywhere = frozenset(carrier.id for carrier in carriers)
    camp = frozenset(k for k, ps in units.items() if any(p.category == "sleep" and p.access == "camp" for p in ps))
    stay = frozenset(carrier.id for carrier in carriers if not carrier.quick_off and carrier.place not in WORN)
    doers = {role: part_unit for role in INDOORS for part_unit in sorted(_with_roles(units, role))}
    rules: list[Rule] = [
        FewBags(code="camp", words="the sleeping kit is scattered", things=camp, carriers=everywhere,
                most=BAGS_FOR_CAMP),
        FewBags(code="indoors", words="things for a stop indoors lie in several bags", carriers=stay, most=1,
                things=frozenset(doers.values())),
    ]  # fmt: skip
    return [rule for rule in rules if isinstance(rule, FewBags) and len(rule.things) > rule.most]


def _room(carriers: tuple[Carrier, ...], conditions: Conditions) -> list[Rule]:
    """Food goes wherever there is room, so only a bag that takes none is sure to keep it."""
    able = frozenset(
        c.id
        for c in carriers
        if "items" in c.takes and not (conditions.has_food and "food" in c.takes) and c.capacity * 1e3 >= FREE_LEAST
    )
    words = f"no bag keeps {FREE_LEAST:.1f} l free"
    return [RoomLeft(code="room-left", words=words, carriers=able, volume=FREE_LEAST / 1e3)] if able else []


def _on_rider_and_bars(carriers: tuple[Carrier, ...], bike: Bike, conditions: Conditions) -> list[Rule]:
    back = {carrier.id: 1.0 for carrier in carriers if carrier.place == "back"}
    bars = {c.id: turning_lever(carrier_position(bike, c), bike) for c in carriers if c.place in TURNING}
    fixed = {c.id: c.mass + conditions.water.get(c.id, 0.0) for c in carriers if c.mounted}
    rules: list[Rule] = []
    for code, words, levers, most in (
        ("back", "too much rides on the back", back, BACK_MOST),
        ("steering", "too much turns with the bars", bars, conditions.steering),
    ):
        left = most - sum(fixed.get(key, 0.0) * lever for key, lever in levers.items())
        if levers and left > 0.0:
            rules.append(LeverMost(code=code, words=words, levers=levers, most=left))
    return rules


def _spares(units: Parts) -> list[Rule]:
    rules: list[Rule] = []
    for first, spare, words in SPARES:
        ones = _with_roles(units, first)
        others = _with_roles(units, spare) - ones
        if ones and others:
            rules.append(Apart(code="apart", words=f"spare {words} rides with the first", ones=ones, others=others))
    return rules


def _sets(items: tuple[Item, ...], carriers: tuple[Carrier, ...]) -> list[Rule]:
    everywhere = frozenset(carrier.id for carrier in carriers)
    sets: dict[str, set[str]] = {}
    for item in items:
        if item.group and not item.worn:
            sets.setdefault(item.group, set()).add(item.id)
    return [
        FewBags(
            code="sets", words=f"{name} lies in several bags", things=frozenset(things), carriers=everywhere, most=1
        )
        for name, things in sorted(sets.items())
        if len(things) > 1
    ]
