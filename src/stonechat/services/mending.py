"""Mend: what is told of failures, of what answers them, and of what each thing is worth."""

from dataclasses import dataclass, replace
from typing import Any

from stonechat.core.kit.bolts import lightest_set
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import BY_MARGIN
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.ledger.lost import Lost
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.mend.failures import STOCK
from stonechat.core.mend.odds import aboard_of
from stonechat.core.mend.report import FailureLine, Mend, Places, Swap, Wearing
from stonechat.core.mend.wear import lube_times
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.mending import MendWorth, mend_worth_of
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.power_worth import power_worth_of
from stonechat.core.plan.warm_worth import warm_worth_of
from stonechat.core.plan.wearing import bolts_on, ground_of
from stonechat.text import listed

_SOLD = {"bike_shop": "a bike shop", "shop": "a shop"}
WASTE, DOUBLED = "waste", "one too many of its sort"
_WORTH_IT = 0.05  # min that are worth adding a thing for
_ENDS = 0.002  # 1, chance that its lack ends the ride from which that is said of a thing
_CLEAR = 3.0  # 1, by how much a thing's worth must pass its price to be insurance beyond doubt


@dataclass(frozen=True, kw_only=True)
class ThreeTests:
    """Insurance or waste: the three questions of each thing."""

    ends: bool  # would its lack end the ride
    bought: bool  # can it be bought in time
    replaced: bool  # does something else aboard do its job

    @property
    def words(self) -> str:
        """Say them."""
        return listed(
            [
                "its lack ends rides" if self.ends else "its lack ends hardly a ride",
                "a shop in time" if self.bought else "no shop in time",
                "others do its job" if self.replaced else "nothing else does its job",
            ],
            3,
        )


@dataclass(frozen=True, kw_only=True)
class ThingWorth:
    """What a thing aboard is worth by what it mends."""

    item: Item
    lost: Lost  # without it
    price: float  # min that carrying it costs
    words: tuple[str, ...]
    verdict: str  # insurance, waste, one too many, or close; empty where it does more than mend
    tests: ThreeTests

    @property
    def per_gram(self) -> float:
        """Minutes for each gram. [min/g]"""
        return self.lost.minutes / max(self.item.total_mass * 1e3, 1e-9)


@dataclass(frozen=True, kw_only=True)
class Addition:
    """A thing that is not aboard, and what it would be worth."""

    name: str
    kind: str
    mass: float  # kg
    gain: float  # min
    price: float  # min

    @property
    def per_gram(self) -> float:
        """Minutes for each gram. [min/g]"""
        return self.gain / max(self.mass * 1e3, 1e-9)


def things_worth(ridden: Ridden) -> tuple[ThingWorth, ...]:
    """Return what each thing aboard is worth by what it mends, the most for a gram first."""
    worth, items = mend_worth_of(ridden), ridden.kit.items
    others = (warm_worth_of(ridden), power_worth_of(ridden))
    found = []
    for item in items:
        if not worth.judges(item):
            continue
        lost = worth.worth(item, items)
        price = ridden.ledger.prices.per_kg * item.total_mass
        does_more = bool(item.roles - BY_MARGIN) or any(
            other.judges(item) and other.worth(item, items).minutes > _WORTH_IT for other in others
        )
        tests = _three_tests(worth, item, items, lost)
        verdict = "" if does_more else _verdict(lost.minutes, price, tests)
        if verdict == WASTE and _alone(worth, item, items) > _CLEAR * price:
            verdict = DOUBLED
        words = worth.words(item, items)
        found.append(ThingWorth(item=item, lost=lost, price=price, words=words, verdict=verdict, tests=tests))
    return tuple(sorted(found, key=lambda one: -one.per_gram))


def _alone(worth: MendWorth, item: Item, items: tuple[Item, ...]) -> float:
    """Return what a thing would be worth if nothing that mends out of the same stock were aboard. [min]"""
    pools = {pool for pool, kind, _ in STOCK if kind == item.kind}
    same = {kind for pool, kind, _ in STOCK if pool in pools} | {item.kind}
    return worth.worth(item, [other for other in items if other.id == item.id or other.kind not in same]).minutes


def _three_tests(worth: MendWorth, item: Item, items: tuple[Item, ...], lost: Lost) -> ThreeTests:
    left = aboard_of(other for other in items if other.id != item.id)
    served = [key for key in worth.expected if worth.answers_with(key, item)]
    total = sum(worth.expected[key] for key in served) or 1.0
    reached = sum(worth.expected[key] * worth.helps[key].reached for key in served) / total
    return ThreeTests(
        ends=lost.ending >= _ENDS,
        bought=reached >= 0.5,
        replaced=all(any(left.does(answer) and answer.needs for answer in worth.told[key].answers) for key in served),
    )


def _verdict(gain: float, price: float, tests: ThreeTests) -> str:
    if gain > _CLEAR * price or (tests.ends and not tests.bought and not tests.replaced):
        return "insurance"
    return WASTE if gain * _CLEAR < price else "close"


def additions(ridden: Ridden) -> tuple[Addition, ...]:
    """Return what is not aboard and would be worth more than it costs to carry, the most for a gram first."""
    worth, items = mend_worth_of(ridden), ridden.kit.items
    aboard = {item.kind for item in items}
    wanted = {word for key in worth.expected for a in worth.told[key].answers for one in a.needs for word in one}
    found = []
    for kind in sorted(wanted - aboard):
        if kind not in KINDS:
            continue
        usual = KINDS[kind].mass.usual
        new = Item(id=f"new-{kind}", name=KINDS[kind].title, kind=kind, mass=usual, volume=0.0, roles=KINDS[kind].jobs)
        gain = worth.worth(new, (*items, new)).minutes
        price = ridden.ledger.prices.per_kg * usual
        if gain > price + _WORTH_IT:
            found.append(Addition(name=new.name, kind=kind, mass=usual, gain=gain, price=price))
    return tuple(sorted(found, key=lambda one: -one.per_gram))


def next_of_a_kind(ridden: Ridden) -> tuple[tuple[Item, float, float], ...]:
    """Return of each thing that is used up what one more would gain and cost. [min]"""
    worth, items = mend_worth_of(ridden), list(ridden.kit.items)
    found = []
    for item in items:
        if not worth.judges(item) or item.kind not in _COUNTED:
            continue
        more = replace(item, id=f"{item.id}-more", quantity=1)
        gain = worth.worth(more, [*items, more]).minutes
        found.append((item, gain, ridden.ledger.prices.per_kg * item.mass))
    return tuple(found)


_COUNTED = frozenset({"tube", "plug_kit", "patches", "quick_link", "brake_pads", "bolts", "spokes", "zip_ties", "co2"})


def mend_report(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return failures, answers, worths and wear."""
    ridden = evaluate(plan, variant_id).ridden
    mend, wearing = ridden.report(Mend), ridden.report(Wearing)
    bolts = bolts_on(ridden)
    return {
        "plan": plan.name,
        "variant": variant_id,
        "minutes": mend.minutes,
        "ends": mend.ending,
        "failures": [_failure(line) for line in mend.lines],
        "things": [
            {
                "thing": one.item.id, "name": one.item.name, "minutes": one.lost.minutes, "ends": one.lost.ending,
                "min_per_g": one.per_gram, "answers": list(one.words), "verdict": one.verdict,
                "ends_rides": one.tests.ends, "bought_in_time": one.tests.bought, "others_do_it": one.tests.replaced,
            }
            for one in things_worth(ridden)
        ],
        "add_first": [
            {"name": one.name, "minutes": one.gain, "g": one.mass * 1e3, "min_per_g": one.per_gram}
            for one in additions(ridden)
        ],
        "one_more": [
            {"name": item.name, "gains_min": gain, "costs_min": price} for item, gain, price in next_of_a_kind(ridden)
        ],
        "wear": [
            {
                "part": line.name, "share_before": line.before, "share_used": line.used, "km": line.km,
                "lasts": line.lasts, "worn_before_the_finish": line.chance, "swap": _swap(swap) if swap else None,
            }
            for line, swap in zip(wearing.lines, wearing.swaps, strict=True)
        ],
        "lubricant_times": lube_times(ground_of(ridden)),
        "bolts_without_a_tool": [{"bolt": entry.bolt.part, "why": entry.said} for entry in bolts if not entry.items],
        "lightest_tools": [item.name for item in lightest_set(bolts)],
        "places": [
            {
                "thing": place.item.name, "uses": place.uses, "carrier": place.carrier, "seconds": place.seconds,
                "rank": place.rank,
            }
            for place in ridden.report(Places).things
        ],
    }  # fmt: skip


def _swap(swap: Swap) -> dict[str, Any]:
    return {
        "km": swap.at,
        "aboard": [item.name for item in swap.aboard],
        "drop_boxes": [f"{item.name} at {stop.name}" for item, stop in swap.boxed],
        "bike_shop": swap.shop.name if swap.shop else None,
        "new_at_the_start_lasts": swap.needless,
    }


def _failure(line: FailureLine) -> dict[str, Any]:
    failure, outcome = line.failure, line.outcome
    return {
        "failure": failure.key,
        "name": failure.name,
        "part": failure.part,
        "expected": outcome.expected,
        "band": failure.band,
        "answers": [
            {
                "name": answer.name, "minutes": answer.minutes, "given": given, "holds": answer.holds,
                "lacking": [sorted(one) for one in lacking],
            }
            for answer, given, lacking in zip(failure.answers, outcome.tried, line.lacking, strict=True)
        ],
        "unanswered": outcome.unserved,
        "help": {"reached": line.help.reached, "minutes": line.help.minutes, "at": failure.shop},
        "minutes": outcome.minutes,
        "ends": outcome.ending,
    }  # fmt: skip


def mend_sentences(report: dict[str, Any]) -> list[str]:
    """Return what the command line prints without `--json`."""
    told = [
        f"failures cost {report['minutes']:.0f} min on average and end {100.0 * report['ends']:.1f} % of such races",
        *(
            f"{entry['name']}: {entry['expected']:.2f} times, "
            f"{listed([a['name'] for a in entry['answers'] if a['given'] > 0.0], 3) or 'no answer'}, "
            f"{entry['minutes']:.1f} min, ends {100.0 * entry['ends']:.2f} %"
            for entry in report["failures"][:20]
        ),
    ]
    if report["add_first"]:
        names = [f"{entry['name']} ({entry['min_per_g']:.2f} min/g)" for entry in report["add_first"]]
        told.append(f"to add first: {listed(names, 5)}")
    return told


def sold_at(offer: str) -> str:
    """Say who sells what answers a failure."""
    return _SOLD.get(offer, "nobody on the way")
