"""What a rule of riding together is: rows for the solver, judgement of a load, and the finding of its check, in one."""

import math
from abc import ABC, abstractmethod
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import ClassVar, Protocol, Self

from stonechat.core.kit.item import Item
from stonechat.core.load.balance import USUAL_BANDS
from stonechat.core.numerics.findings import Finding, State, gathered
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier

UNKEPT = 60.0  # min that stand for a rule not kept: it goes before minutes, and never makes a packing impossible

Units = Mapping[str, tuple[Item, ...]]  # things as they are packed, by id: a pouch first, then what is in it


@dataclass(frozen=True, kw_only=True)
class Conditions:
    """What rules depend on besides things and carriers."""

    coldest: float = 10.0  # °C
    frost: Mapping[float, float] = field(default_factory=dict)  # h at each temperature in °C, in the cold
    hottest: float = 20.0  # °C
    way: str = ""  # key of WAYS, a way of packing that the rider holds dear
    steering: float = USUAL_BANDS.steering  # kg·m² that the load may add to the bars
    groups: bool = True  # whether sets stay together
    outside: frozenset[str] = frozenset()  # jobs that are done by what is worn or fixed, in no bag
    off: frozenset[str] = frozenset()  # codes of checks that are switched off

    def hours_below(self, limit: float) -> float:
        """Return for how long it is colder than a limit; without end where only the coldest is known. [h]"""
        if self.coldest >= limit:
            return 0.0
        return sum(hours for temp, hours in self.frost.items() if temp < limit) if self.frost else math.inf


@dataclass(frozen=True, kw_only=True)
class Given:
    """Things and carriers among which rules are looked for."""

    units: Units  # those that want a place
    carriers: tuple[Carrier, ...]  # mounted, and those that may be
    bike: Bike
    conditions: Conditions
    fits: Mapping[str, frozenset[str]]  # carriers that take each thing

    def doing(self, *jobs: str) -> frozenset[str]:
        """Return the things that do one of some jobs, by themselves or by what is in them."""
        return self.having(lambda part: not part.roles.isdisjoint(jobs))

    def having(self, is_so: Callable[[Item], bool]) -> frozenset[str]:
        """Return the things of which one part is so."""
        return frozenset(key for key, parts in self.units.items() if any(is_so(part) for part in parts))

    def name(self, thing: str) -> str:
        """Name of a thing."""
        return self.units[thing][0].name


@dataclass(frozen=True, kw_only=True)
class Load:
    """What each carrier holds at one time."""

    carriers: Mapping[str, Carrier]  # those mounted
    bags: Mapping[str, frozenset[str]]  # things by carrier
    volume: Mapping[str, float]  # m³ of things and food
    mass: Mapping[str, float]  # kg of things, food and water
    food: Mapping[str, float] = field(default_factory=dict)  # m³ of that volume which is food
    leaving: str = ""  # where, for people


@dataclass(frozen=True, kw_only=True)
class Riding:
    """A race's loads, and the rules that they are held against."""

    given: Given
    loads: tuple[Load, ...]  # one for each leg
    rules: tuple["Rule", ...] = field(default=())


class Rows(Protocol):
    """What a rule sees of the solver's model while it adds its rows."""

    carriers: tuple[Carrier, ...]
    water: Mapping[str, float]  # kg by carrier
    unkept: int  # column that is 1 where the rule is not kept

    def switch(self) -> int:
        """Add a column that is 0 or 1 and costs nothing."""

    def holds(self, carrier: str, things: frozenset[str], *, food: bool = False) -> int | None:
        """Return a column that is 1 where a carrier holds one of some things, or food; None where it takes neither."""

    def places(self, thing: str) -> Mapping[str, int]:
        """Return the columns of a thing by carrier."""

    def mounting(self) -> Mapping[str, int]:
        """Return the columns of carriers that may be mounted."""

    def loads(self) -> Mapping[int, tuple[str, float]]:
        """Return carrier and mass of each column that loads one. [kg]"""

    def volumes(self, carrier: str) -> Mapping[int, float]:
        """Return what each column of things and food takes up in a carrier. [l]"""

    def most(self, coefficients: Mapping[int, float], high: float) -> None:
        """Hold a sum at or under a limit."""

    def least(self, coefficients: Mapping[int, float], low: float) -> None:
        """Hold a sum at or over a limit."""


@dataclass(frozen=True, kw_only=True)
class Rule(ABC):
    """A rule over things or carriers. One class for each check's code; instances are what a kit calls for."""

    code: ClassVar[str]  # of its check
    title: ClassVar[str]
    reason: ClassVar[str]
    unit: ClassVar[str] = "thing"
    gives: ClassVar[float] = math.inf  # how far from kept it is broken, in `unit`; infinity: never, it is tight
    says_fine: ClassVar[bool] = False  # whether its check speaks where it is kept
    gathers: ClassVar[bool] = False  # whether its check says all things that break it in one line
    is_check: ClassVar[bool] = True  # whether a check judges it; otherwise it is a wish of the packing

    words: str  # what is not kept, for people

    @classmethod
    @abstractmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Yield what things and carriers call for; what nothing could break is left out."""

    @abstractmethod
    def rows(self, rows: Rows) -> None:
        """Add the rows that hold it unless its column `unkept` is 1."""

    @abstractmethod
    def slack(self, load: Load) -> float:
        """Return by how much a load keeps it, in `unit`; negative where it does not."""

    def concerns(self, load: Load) -> bool:
        """Whether there is anything in a load to speak of."""
        return True

    @abstractmethod
    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Return title, sentence and subject for a load."""

    def kept(self, load: Load, tolerance: float = 1e-9) -> bool:
        """Whether a load keeps it."""
        return self.slack(load) >= -tolerance

    def finding(self, riding: Riding) -> Finding | None:
        """Return what is to be said of the load that keeps it least, or nothing."""
        worst = min((load for load in riding.loads if self.concerns(load)), key=self.slack, default=None)
        if worst is None:
            return None
        slack = self.slack(worst)
        if self.kept(worst):
            slack = max(slack, 0.0)
            if not self.says_fine:
                return None
        title, sentence, subject = self.finding_on(worst, riding.given)
        is_figure = math.isfinite(self.gives)
        return Finding(
            code=self.code,
            state=State.FINE if slack >= 0.0 else State.TIGHT if slack >= -self.gives else State.BROKEN,
            title=title,
            sentence=sentence,
            margin=slack + self.gives if is_figure else None,
            unit=self.unit,
            subject=subject,
        )

    @classmethod
    def findings(cls, rules: Iterable["Rule"], riding: Riding) -> Iterator[Finding]:
        """Yield what the check says of all rules of this class."""
        found = [finding for rule in rules if (finding := rule.finding(riding)) is not None]
        yield from gathered(found, riding.given.name) if cls.gathers else found
