"""Rules of what shares a bag: the sleeping kit, what goes indoors, spares, sets."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Self

from stonechat.core.load.together.rule import Given, Load
from stonechat.core.load.together.shapes import ApartFrom, FewBags, TwoBags
from stonechat.core.rig.places import WORN

BAGS_FOR_CAMP = 3  # bags over which the sleeping kit may be spread (estimate)
INDOORS = {"call": "phone", "pay": "money", "papers": "papers", "power_plug": "charger", "teeth": "wash kit"}
PRECIOUS = frozenset({"call", "pay", "papers"})  # jobs of what a leak would ruin
SPARES = (("front_light", "spare_light", "light"), ("navigate", "navigate_spare", "navigation"))


@dataclass(frozen=True, kw_only=True)
class CampTogether(FewBags):
    """The sleeping kit is not scattered."""

    code = "camp"
    title = "Sleeping kit together"
    reason = "After three nights a fussy routine is dropped."
    unit = "bag"

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Where there is more of it than bags allowed."""
        camp = given.having(lambda part: part.category == "sleep" and part.access == "camp")
        if len(camp) > BAGS_FOR_CAMP:
            everywhere = frozenset(carrier.id for carrier in given.carriers)
            yield cls(words="the sleeping kit is scattered", things=camp, carriers=everywhere, bags=BAGS_FOR_CAMP)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Name the bags."""
        names = sorted(load.carriers[key].name for key in self.used(load))
        words = f"It lies in {len(names)} bags: {', '.join(names)}. Each is opened in the dark."
        return "Sleeping kit scattered", words, ""


@dataclass(frozen=True, kw_only=True)
class OffAsOne(FewBags):
    """What is wanted indoors comes off the bike in one grip, or lies in one bag."""

    code = "indoors"
    title = "Off as one for a stop indoors"
    reason = "Papers, phone and charger go in together."
    unit = "bag"

    jobs: tuple[str, ...]  # what the things do there, in words

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Where there is more than one of them."""
        stay = frozenset(c.id for c in given.carriers if not c.quick_off and c.place not in WORN)
        # one thing for each job, the last in the list of the kit
        doers: dict[str, str] = {}
        for job in INDOORS:
            doing = given.doing(job)
            able = [key for key in given.units if key in doing]
            if able:
                doers[job] = able[-1]
        things = frozenset(doers.values())
        if len(things) > 1:
            yield cls(
                words="things for a stop indoors lie in several bags",
                things=things,
                carriers=stay,
                bags=1,
                jobs=tuple(INDOORS[job] for job in doers),
            )

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Name jobs and bags."""
        names = sorted(load.carriers[key].name for key in self.used(load))
        words = (
            f"{', '.join(self.jobs)} lie in {len(names)} bags that stay on the bike: {', '.join(names)}. "
            "One bag that comes off in one grip saves the round at every stop."
        )
        return "For a stop indoors", words, ""


@dataclass(frozen=True, kw_only=True)
class SparesApart(TwoBags):
    """First and spares do not all ride in one bag: what takes one would take both."""

    code = "apart"
    title = "Spares apart from the first"
    reason = "One lost bag should not take both."

    name: str  # of what there is a spare of

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For light and navigation, where there are both."""
        for first, spare, name in SPARES:
            ones = given.doing(first)
            others = given.doing(spare) - ones
            if ones and others and first not in given.conditions.outside:
                yield cls(words=f"spare {name} rides with the first", ones=ones, others=others, name=name)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Name a pair in that bag."""
        key = self.used(load)[0]
        first, spare = (next(k for k in given.units if k in load.bags[key] & side) for side in (self.ones, self.others))
        words = (
            f"{given.name(spare)} rides in {load.carriers[key].name} with {given.name(first)}: "
            "what takes one takes both. Part them."
        )
        return f"Spare {self.name} beside the first", words, spare


@dataclass(frozen=True, kw_only=True)
class OilApart(ApartFrom):
    """Oil and cream ride with tools or alone: papers, phone, food and insulation outlast no leak."""

    code = "smeared"
    title = "Oil and cream apart from food, papers and phone"
    reason = "A tube that leaks finds the passport."
    gathers = True

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For each thing that may leak; food counts wherever it goes."""
        leaking = given.having(lambda part: part.leaks)
        spoiled = (
            given.having(lambda part: part.category == "papers" or part.spoils or bool(part.roles & PRECIOUS)) - leaking
        )
        for key in sorted(leaking):
            yield cls(words=f"{given.name(key)} rides beside what a leak spoils", thing=key, others=spoiled)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Name what it rides beside."""
        key = self.where(load)
        if not self.spoiled(load):
            return self.title, f"{given.name(self.thing)} rides apart from what it would spoil.", self.thing
        beside = next((given.name(k) for k in given.units if k in load.bags[key] & self.others), "food")
        words = (
            f"{given.name(self.thing)} rides in {load.carriers[key].name} with {beside}: part them, or put it into a "
            "zip bag of its own."
        )
        return f"{given.name(self.thing)} beside {beside}", words, self.thing


def _one_takes_all(given: Given, things: set[str]) -> bool:
    """Tell whether some carrier takes each of some things, and has room and strength for all of them."""
    able = frozenset.intersection(*(given.fits[key] for key in things))
    volume = sum(given.units[key][0].total_volume for key in things)
    mass = sum(given.units[key][0].total_mass for key in things)
    return any(c.id in able and c.capacity >= volume and c.load_limit >= mass for c in given.carriers)


@dataclass(frozen=True, kw_only=True)
class SetsTogether(FewBags):
    """Things that the rider calls a set ride in one bag: a wish of the packing, not a check."""

    code = "sets"
    title = "Sets together"
    reason = "A set is found as one, and packed as one."
    is_check = False

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For each set of which some carrier takes every thing."""
        if not given.conditions.groups:
            return
        sets: dict[str, set[str]] = {}
        for key, parts in given.units.items():
            if parts[0].group:
                sets.setdefault(parts[0].group, set()).add(key)
        everywhere = frozenset(carrier.id for carrier in given.carriers)
        for name, things in sorted(sets.items()):
            if len(things) > 1 and _one_takes_all(given, things):
                words = f"{name} lies in several bags"
                yield cls(words=words, things=frozenset(things), carriers=everywhere, bags=1)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Name the bags."""
        names = sorted(load.carriers[key].name for key in self.used(load))
        return self.title, f"{self.words}: {', '.join(names)}.", ""
