"""Shapes that rules of riding together have: what the solver's rows and the judgement of a load look like."""

from abc import ABC
from collections.abc import Mapping
from dataclasses import dataclass

from stonechat.core.load.together.rule import Load, Rows, Rule

_LITRES = 1e3  # in a m³; volumes enter the model in litres
_CRUMBS = 1e-6  # m³ of food in a carrier below which it is none


@dataclass(frozen=True, kw_only=True)
class TwoBags(Rule, ABC):
    """Where one of the ones and one of the others ride, they all do not share one bag."""

    ones: frozenset[str]
    others: frozenset[str]

    def used(self, load: Load) -> list[str]:
        """Return the carriers that hold any of them."""
        return [key for key, bag in load.bags.items() if bag & (self.ones | self.others)]

    def rows(self, rows: Rows) -> None:
        """A switch a carrier says that some are there; each pair that goes along wants two."""
        used = []
        for carrier in rows.carriers:
            things = sorted(self.ones | self.others)
            here = [rows.places(k)[carrier.id] for k in things if carrier.id in rows.places(k)]
            if here:
                used.append(rows.switch())
                rows.least({**dict.fromkeys(here, 1.0), used[-1]: -1.0}, 0.0)
        for one in sorted(self.ones):
            for other in sorted(self.others):
                along = [*rows.places(one).values(), *rows.places(other).values()]
                rows.least({**dict.fromkeys(used, 1.0), **dict.fromkeys(along, -1.0), rows.unkept: 1.0}, 0.0)

    def slack(self, load: Load) -> float:
        """Nothing to hold against a load without both."""
        riding = frozenset[str]().union(*load.bags.values())
        if not riding & self.ones or not riding & self.others:
            return 0.0
        return float(len(self.used(load)) - 2)


@dataclass(frozen=True, kw_only=True)
class Separated(Rule, ABC):
    """No bag holds one of the ones beside one of the others."""

    ones: frozenset[str]
    others: frozenset[str]

    def mixed(self, load: Load) -> list[str]:
        """Return the carriers that hold both."""
        return [key for key, bag in load.bags.items() if bag & self.ones and bag & self.others]

    def rows(self, rows: Rows) -> None:
        """A switch a carrier says which side it is on."""
        for carrier in rows.carriers:
            ones, others = (
                [rows.places(k)[carrier.id] for k in sorted(side) if carrier.id in rows.places(k)]
                for side in (self.ones, self.others)
            )
            if not ones or not others:
                continue
            side = rows.switch()
            for column in ones:
                rows.most({column: 1.0, side: -1.0}, 0.0)
            for column in others:
                rows.most({column: 1.0, side: 1.0, rows.unkept: -1.0}, 1.0)

    def slack(self, load: Load) -> float:
        """Bags amiss, or none."""
        return -float(len(self.mixed(load)))


@dataclass(frozen=True, kw_only=True)
class OneSide(Rule, ABC):
    """Things ride in some carriers or in some others, not in both; carriers of neither side do not count."""

    things: frozenset[str]
    one: frozenset[str]
    other: frozenset[str]

    def rows(self, rows: Rows) -> None:
        """A switch says which side it is."""
        side = rows.switch()
        for key in sorted(self.things):
            for carrier, column in rows.places(key).items():
                if carrier in self.one:
                    rows.most({column: 1.0, side: -1.0}, 0.0)
                elif carrier in self.other:
                    rows.most({column: 1.0, side: 1.0, rows.unkept: -1.0}, 1.0)

    def slack(self, load: Load) -> float:
        """One side too many, or none."""
        used = {key for key, bag in load.bags.items() if bag & self.things}
        return -1.0 if used & self.one and used & self.other else 0.0


@dataclass(frozen=True, kw_only=True)
class ApartFrom(Rule, ABC):
    """A thing does not ride beside any of the others, nor beside food."""

    thing: str
    others: frozenset[str]

    def where(self, load: Load) -> str:
        """Return the carrier that holds the thing; empty where none does."""
        return next((key for key, bag in load.bags.items() if self.thing in bag), "")

    def spoiled(self, load: Load) -> bool:
        """Whether any of the others, or food, is there."""
        key = self.where(load)
        return bool(key) and (bool(load.bags[key] & self.others) or load.food.get(key, 0.0) > _CRUMBS)

    def rows(self, rows: Rows) -> None:
        """Where others are is told by a switch that all such rules share."""
        for carrier, column in rows.places(self.thing).items():
            beside = rows.holds(carrier, self.others, food=True)
            if beside is not None:
                rows.most({column: 1.0, beside: 1.0, rows.unkept: -1.0}, 1.0)

    def slack(self, load: Load) -> float:
        """One thing amiss, or none."""
        return -1.0 if self.spoiled(load) else 0.0


@dataclass(frozen=True, kw_only=True)
class FewBags(Rule, ABC):
    """Things ride in few of some carriers; with one bag and all carriers: together."""

    things: frozenset[str]
    carriers: frozenset[str]  # those that count
    bags: int  # at most

    def used(self, load: Load) -> list[str]:
        """Return the carriers that hold some of the things."""
        return [key for key, bag in load.bags.items() if key in self.carriers and bag & self.things]

    def rows(self, rows: Rows) -> None:
        """Count the carriers used."""
        used = []
        for carrier in rows.carriers:
            here = [rows.places(k)[carrier.id] for k in sorted(self.things) if carrier.id in rows.places(k)]
            if carrier.id in self.carriers and here:
                used.append(rows.switch())
                for column in here:
                    rows.most({column: 1.0, used[-1]: -1.0}, 0.0)
                room, volumes = carrier.capacity * _LITRES, rows.volumes(carrier.id)
                if sum(volumes[column] for column in here) > room:  # no more than it holds: tighter for the solver
                    rows.most({**{column: volumes[column] for column in here}, used[-1]: -room}, 0.0)
        over = float(max(0, len(used) - self.bags))
        rows.most({**dict.fromkeys(used, 1.0), rows.unkept: -over}, float(self.bags))

    def slack(self, load: Load) -> float:
        """Bags left of those allowed."""
        return float(self.bags - len(self.used(load)))


@dataclass(frozen=True, kw_only=True)
class AtHand(Rule, ABC):
    """One of the things rides in one of the carriers."""

    things: frozenset[str]
    carriers: frozenset[str]

    def rows(self, rows: Rows) -> None:
        """Where one goes along, one is in a carrier that will do."""
        quick = [column for k in sorted(self.things) for c, column in rows.places(k).items() if c in self.carriers]
        for key in sorted(self.things):
            anywhere = dict.fromkeys(rows.places(key).values(), -1.0)
            needed = {**anywhere, **{col: anywhere.get(col, 0.0) + 1.0 for col in quick}, rows.unkept: 1.0}
            rows.least({col: value for col, value in needed.items() if value}, 0.0)

    def slack(self, load: Load) -> float:
        """Nothing to hold against a load without any of them."""
        riding = {key for key, bag in load.bags.items() if bag & self.things}
        return -1.0 if riding and not riding & self.carriers else 0.0


@dataclass(frozen=True, kw_only=True)
class NotIn(Rule, ABC):
    """A thing does not ride in some carriers."""

    thing: str
    carriers: frozenset[str]

    def where(self, load: Load) -> str:
        """Return the carrier of those that holds the thing; empty where none does."""
        return next((key for key, bag in load.bags.items() if key in self.carriers and self.thing in bag), "")

    def rows(self, rows: Rows) -> None:
        """Its columns there are switched off."""
        bad = {column: 1.0 for carrier, column in rows.places(self.thing).items() if carrier in self.carriers}
        if bad:
            rows.most({**bad, rows.unkept: -1.0}, 0.0)

    def slack(self, load: Load) -> float:
        """One thing amiss, or none."""
        return -1.0 if self.where(load) else 0.0


@dataclass(frozen=True, kw_only=True)
class Padded(Rule, ABC):
    """A thing does not ride with hard ones where nothing soft is."""

    thing: str
    hard: frozenset[str]
    soft: frozenset[str]

    def rows(self, rows: Rows) -> None:
        """A switch a carrier says that something hard is there."""
        for carrier, column in rows.places(self.thing).items():
            hard = [rows.places(k)[carrier] for k in sorted(self.hard) if carrier in rows.places(k)]
            soft = {rows.places(k)[carrier]: -1.0 for k in sorted(self.soft) if carrier in rows.places(k)}
            if not hard:
                continue
            beside = rows.switch()
            for other in hard:
                rows.most({other: 1.0, beside: -1.0}, 0.0)
            rows.most({column: 1.0, beside: 1.0, rows.unkept: -1.0, **soft}, 1.0)

    def slack(self, load: Load) -> float:
        """One thing amiss, or none."""
        bad = any(self.thing in bag and bag & self.hard and not bag & self.soft for bag in load.bags.values())
        return -1.0 if bad else 0.0


@dataclass(frozen=True, kw_only=True)
class LowShare(Rule, ABC):
    """A share of a mass rides in some carriers, of which some count in part."""

    masses: Mapping[str, float]  # kg by thing
    counts: Mapping[str, float]  # 1, by carrier; those left out count nothing
    least: float  # 1

    def riding(self, load: Load) -> dict[str, str]:
        """Return the carrier of each of the things that rides."""
        return {thing: key for key, bag in load.bags.items() for thing in sorted(bag & set(self.masses))}

    def rows(self, rows: Rows) -> None:
        """What rides there outweighs its share of what rides anywhere."""
        shares = {
            column: mass * (self.counts.get(carrier, 0.0) - self.least)
            for key, mass in self.masses.items()
            for carrier, column in rows.places(key).items()
        }
        rows.least({**shares, rows.unkept: self.least * sum(self.masses.values())}, 0.0)

    def slack(self, load: Load) -> float:
        """Share beyond the least, in percent."""
        total = sum(self.masses[thing] for thing in self.riding(load))
        return 100.0 * (self.counted(load) / total - self.least) if total > 0.0 else 0.0

    def counted(self, load: Load) -> float:
        """Mass that rides there, each as its carrier counts. [kg]"""
        return sum(self.masses[thing] * self.counts.get(key, 0.0) for thing, key in self.riding(load).items())


@dataclass(frozen=True, kw_only=True)
class LeverMost(Rule, ABC):
    """Masses times levers, summed over carriers with their own mass and water, stay under a limit."""

    levers: Mapping[str, float]  # by carrier: 1 for mass, m² for inertia
    limit: float

    def rows(self, rows: Rows) -> None:
        """What can be loaded and mounted, beside what hangs there anyway."""
        row = {col: m * self.levers[c] for col, (c, m) in rows.loads().items() if self.levers.get(c, 0.0) > 0.0}
        most, worst = self.limit, 0.0
        for carrier in rows.carriers:
            lever = self.levers.get(carrier.id, 0.0)
            own = lever * (carrier.mass + rows.water.get(carrier.id, 0.0))
            if carrier.id in rows.mounting():
                row[rows.mounting()[carrier.id]] = own
            else:
                most -= own
            worst += lever * carrier.load_limit + own
        rows.most({**row, rows.unkept: -max(worst - most, worst)}, most)

    def total(self, load: Load) -> float:
        """Return the sum for a load."""
        return sum(
            lever * (load.carriers[key].mass + load.mass.get(key, 0.0))
            for key, lever in self.levers.items()
            if key in load.carriers
        )

    def slack(self, load: Load) -> float:
        """What is left of the limit."""
        return self.limit - self.total(load)


@dataclass(frozen=True, kw_only=True)
class RoomKept(Rule, ABC):
    """One of the carriers keeps room."""

    carriers: frozenset[str]
    room: float  # m³

    def free(self, load: Load) -> float:
        """Return the room in the carrier that has most of it. [m³]"""
        return max(
            (load.carriers[k].capacity - load.volume.get(k, 0.0) for k in self.carriers if k in load.carriers),
            default=0.0,
        )

    def rows(self, rows: Rows) -> None:
        """A switch says which one keeps it."""
        chosen = []
        for carrier in rows.carriers:
            if carrier.id not in self.carriers:
                continue
            chosen.append(rows.switch())
            rows.most({**rows.volumes(carrier.id), chosen[-1]: self.room * _LITRES}, carrier.capacity * _LITRES)
            if carrier.id in rows.mounting():
                rows.most({chosen[-1]: 1.0, rows.mounting()[carrier.id]: -1.0}, 0.0)
        rows.least({**dict.fromkeys(chosen, 1.0), rows.unkept: 1.0}, 1.0)

    def slack(self, load: Load) -> float:
        """Litres beyond what is kept."""
        return (self.free(load) - self.room) * _LITRES
