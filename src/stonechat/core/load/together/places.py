"""Rules of where single things ride: the first answer to a puncture, what may be lost, frost, padding, weight low."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Self

from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import marks_of
from stonechat.core.load.together.rule import Given, Load
from stonechat.core.load.together.shapes import AtHand, LowShare, NotIn, Padded
from stonechat.core.rig.places import ALL

SOFT = frozenset({"clothes", "sleep"})  # what pads a fragile thing
HARD = frozenset({"tools", "power"})  # what breaks one
GREASY = frozenset({"tools", "power"})  # what may ride among tools; all else oil and grit spoil
TOOL_PLACES = frozenset({"down_tube", "down_store", "bottle_down", "bottle_seat"})  # where tools belong
QUICK_TO_OPEN = 4.0  # s of closure that a first answer may cost (estimate)
HEAVY = 0.15  # kg, a thing from which its height matters (estimate)
LOWNESS = {place.key: place.low for place in ALL}  # 1, how far what is heavy rides low there
LOW_SHARE = 0.45  # 1, share of heavy tools and power that should ride low in the frame (estimate)
LOW_BAND = 20.0  # %, below that share from which it is broken (estimate)
FREEZES_BELOW = {"treat": 0.0, "power_store": -5.0, "shift_power": -5.0}  # °C that harm a job's things (estimates)
# °C that harm a thing of a kind that is marked so, by its category: batteries of devices, fluids of tools, lenses
HARMED_BELOW = {"power": -5.0, "navigation": -10.0, "tools": -15.0, "hygiene": 0.0}  # (estimates)
COLD_THROUGH = 0.5  # h out in the cold after which a small thing is as cold as the air (estimate)
MELTS_ABOVE = 25.0  # °C of the air at which chocolate on the body runs (estimate)
STRANDS = frozenset(  # jobs whose loss ends a race
    {
        "pay", "papers", "medicine", "hanger", "shift_power", "front_light", "rear_light", "navigate", "sleep_warm",
        "plug", "tube", "pump", "call",
    }
)  # fmt: skip


def harmed_below(item: Item) -> float | None:
    """Return the temperature below which frost harms a thing.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    limit : float or None
        By its jobs, else by its kind; None where frost does nothing to it. [°C]

    Examples
    --------
    >>> harmed_below(Item(id="f", name="filter", roles=frozenset({"treat"}), mass=0.1, volume=0.0001))
    0.0
    """
    jobs = [FREEZES_BELOW[job] for job in item.roles if job in FREEZES_BELOW]
    if jobs:
        return max(jobs)
    return HARMED_BELOW.get(item.category) if "freezes" in marks_of(item.kind) else None


@dataclass(frozen=True, kw_only=True)
class FirstAnswer(AtHand):
    """One answer to a puncture is quick to get at."""

    code = "puncture"
    title = "First puncture answer at hand"
    reason = "A plug within a minute saves the air that a tube would cost half an hour."
    says_fine = True

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Where something answers one."""
        plugs = given.doing("plug")
        quick = frozenset(c.id for c in given.carriers if c.open_time <= QUICK_TO_OPEN and "items" in c.takes)
        if plugs:
            yield cls(words="the first puncture answer is not at hand", things=plugs, carriers=quick)

    def concerns(self, load: Load) -> bool:
        """Where one has a place."""
        return any(bag & self.things for bag in load.bags.values())

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Name the answer that is quickest to get at."""
        riding = [(thing, load.carriers[key]) for key, bag in load.bags.items() for thing in sorted(bag & self.things)]
        thing, carrier = min(riding, key=lambda pair: pair[1].open_time)
        name = given.name(thing)
        words = f"{name} in {carrier.name} is at hand."
        if carrier.id not in self.carriers:
            words = f"{name} in {carrier.name}: {carrier.open_time:.0f} s to open. Air leaks faster than that."
        return "First puncture answer", words, thing


@dataclass(frozen=True, kw_only=True)
class NotLost(NotIn):
    """What ends a race when it is lost is not where things get lost."""

    code = "loss"
    title = "Nothing that ends the race outside"
    reason = "What gets lost sits outside, loose or in sight."
    gives = 0.0

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For each such thing, where a carrier loses things."""
        lossy = frozenset(c.id for c in given.carriers if c.loss == "high")
        for key in sorted(given.having(lambda part: bool(part.roles & STRANDS) or part.need == "must")):
            if lossy:
                yield cls(words=f"{given.name(key)} may be lost", thing=key, carriers=lossy)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say what holds it."""
        carrier = load.carriers[self.where(load)]
        words = (
            f"It rides in {carrier.name}, outside and held by {carrier.steadied_by or 'little'}. "
            "Its loss can end the race: move it inside."
        )
        return f"{given.name(self.thing)} may be lost", words, self.thing


@dataclass(frozen=True, kw_only=True)
class NoGoodPlace(NotIn):
    """Every place that there is for a thing breaks one of the rules that one look tells: said, and not impossible."""

    title = "No good place"
    reason = "A rig without a dry or a near place is packed all the same, and told."
    is_check = False

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say what it breaks."""
        return self.title, f"{self.words}.", self.thing

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Never by a kit alone: a packing problem finds them."""
        return iter(())


@dataclass(frozen=True, kw_only=True)
class NowhereDry(NoGoodPlace):
    """No place keeps it dry."""

    code = "dry"


@dataclass(frozen=True, kw_only=True)
class NowhereNear(NoGoodPlace):
    """No place is as near at hand as it is needed."""

    code = "reachable"


@dataclass(frozen=True, kw_only=True)
class NowhereInSight(NoGoodPlace):
    """No place sees the sky."""

    code = "sky"


NOWHERE: dict[str, type[NoGoodPlace]] = {kind.code: kind for kind in (NowhereDry, NowhereNear, NowhereInSight)}


@dataclass(frozen=True, kw_only=True)
class NotFrozen(NotIn):
    """What frost harms is not out in the cold for long."""

    code = "frost"
    title = "Frost"
    reason = "Batteries, filter and water fail below freezing."
    gathers = True

    coldest: float  # °C
    hours: float  # h below what harms it

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For each thing that is harmed, where the race is below its limit for long enough."""
        open_air = frozenset(c.id for c in given.carriers if c.freezes == "open")
        for key, parts in sorted(given.units.items()) if open_air else ():
            limits = [limit for part in parts if (limit := harmed_below(part)) is not None]
            hours = given.conditions.hours_below(max(limits)) if limits else 0.0
            if hours >= COLD_THROUGH:
                words = f"{given.name(key)} would freeze"
                yield cls(words=words, thing=key, carriers=open_air, coldest=given.conditions.coldest, hours=hours)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say how cold, for how long, and where it rides."""
        name, carrier = given.name(self.thing), load.carriers[self.where(load)]
        lasting = f", {self.hours:.0f} h of it too cold for this" if math.isfinite(self.hours) else ""
        words = (
            f"Down to {self.coldest:.0f} °C{lasting}, and it rides out in the cold in {carrier.name}. "
            "Batteries lose a fifth and more, filters burst: into the frame or onto the body for the night."
        )
        return f"Frost: {name}", words, self.thing


@dataclass(frozen=True, kw_only=True)
class NotMelted(NotIn):
    """What melts is not warmed by the body on a hot day."""

    code = "heat"
    title = "Heat"
    reason = "Chocolate and cheese on the body run on a hot day."
    gathers = True

    hottest: float  # °C

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For each thing that melts, on a hot race."""
        warm, hottest = frozenset(c.id for c in given.carriers if c.freezes == "body"), given.conditions.hottest
        if hottest < MELTS_ABOVE or not warm:
            return
        for key in sorted(given.having(lambda part: "melts" in marks_of(part.kind))):
            yield cls(words=f"{given.name(key)} would melt", thing=key, carriers=warm, hottest=hottest)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say how hot, and where it rides."""
        carrier = load.carriers[self.where(load)]
        words = (
            f"Up to {self.hottest:.0f} °C, and it rides on the body in {carrier.name}. Into the frame, out of the sun."
        )
        return f"Heat: {given.name(self.thing)}", words, self.thing


@dataclass(frozen=True, kw_only=True)
class CleanApart(NotIn):
    """What touches skin, food or papers does not ride where tools belong."""

    code = "clean"
    title = "Clean things apart from tools"
    reason = "Oil and grit find the toothbrush."
    gathers = True

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For each clean thing, where a carrier is for tools and something greasy rides along."""
        for_tools = frozenset(c.id for c in given.carriers if c.place in TOOL_PLACES)
        if not for_tools or not given.having(lambda part: part.category == "tools"):
            return
        for key in sorted(given.having(lambda part: part.category not in GREASY)):
            yield cls(words=f"{given.name(key)} would ride among the tools", thing=key, carriers=for_tools)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say where."""
        carrier = load.carriers[self.where(load)]
        words = f"It rides in {carrier.name}, where tools belong: oil and grit come along. Put it elsewhere."
        return f"{given.name(self.thing)} among the tools", words, self.thing


@dataclass(frozen=True, kw_only=True)
class FragilePadded(Padded):
    """What breaks has something soft around it where hard things ride."""

    code = "fragile"
    title = "Fragile things padded"
    reason = "Glass beside tools breaks at the first kerb."

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For each fragile thing; a pouch pads what is in it."""
        hard = given.having(lambda part: part.category in HARD and not part.fragile)
        soft = given.having(lambda part: part.category in SOFT)
        for key, parts in given.units.items():
            if len(parts) == 1 and parts[0].fragile and hard - {key}:
                words = f"{given.name(key)} rides beside hard things, unpadded"
                yield cls(words=words, thing=key, hard=hard - {key}, soft=soft - {key})

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say beside what."""
        key = next(key for key, bag in load.bags.items() if self.thing in bag)
        beside = given.name(next(other for other in given.units if other in load.bags[key] & self.hard))
        words = f"Both ride in {load.carriers[key].name}, nothing soft between them. Wrap it in clothes, or part them."
        return f"{given.name(self.thing)} beside {beside}", words, self.thing


@dataclass(frozen=True, kw_only=True)
class HeavyLow(LowShare):
    """Heavy tools and power ride low in the frame."""

    code = "heavy-low"
    title = "Heavy things low in the frame"
    reason = "Weight high or far out steers the rider."
    unit = "%"
    gives = LOW_BAND
    says_fine = True

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Where there is something heavy."""
        masses = {
            key: sum(p.total_mass for p in parts if p.category in HARD and p.total_mass >= HEAVY)
            for key, parts in given.units.items()
        }
        masses = {key: mass for key, mass in masses.items() if mass > 0.0}
        low = {carrier.id: LOWNESS[carrier.place] for carrier in given.carriers}
        if masses:
            yield cls(words="heavy tools and power do not ride low", masses=masses, counts=low, least=LOW_SHARE)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say how much, and the heaviest that does not."""
        riding = self.riding(load)
        high = [thing for thing, key in riding.items() if self.counts[key] < 1.0]
        worst = max(high, key=lambda thing: (1.0 - self.counts[riding[thing]]) * self.masses[thing], default="")
        half = any(0.0 < self.counts[key] < 1.0 for key in riding.values())
        words = (
            f"{self.counted(load):.2f} of {sum(self.masses[thing] for thing in riding):.2f} kg of heavy tools and "
            "power ride low in the frame" + (", the upper triangle counted half" if half else "")
        )
        words += f"; {given.name(worst)} could ride lower." if worst else "."
        return "Heavy things low", words, worst
