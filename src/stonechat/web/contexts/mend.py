"""What the Mend room shows."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.checks.mend import lacking_words, word_of
from stonechat.core.kit.bolts import TOOLS, BoltCover, lightest_set
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.mend.failures import GROUNDS, PARTS
from stonechat.core.mend.report import ON_TOOLS, AnswerPlace, FailureLine, Mend, Places, Swap, Wearing, may_do
from stonechat.core.mend.wear import WearLine, lube_times
from stonechat.core.plan.mend_places import tyre_set
from stonechat.core.plan.mending import HelpAt, helps_at
from stonechat.core.plan.sky import clock_after
from stonechat.core.plan.wearing import bolts_on, ground_of
from stonechat.errors import InvalidInput
from stonechat.render.drawings.parts import PartsView, parts_drawing
from stonechat.render.filters import clock, distance_km, duration
from stonechat.services.mending import (
    Addition,
    ThingWorth,
    additions,
    next_of_a_kind,
    sold_at,
    things_worth,
)
from stonechat.text import listed
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import NEW, UNNAMED, Desk
from stonechat.web.forms.binding import BoundForm, typed_figure
from stonechat.web.forms.mend import (
    AgesForm,
    BoltForm,
    HabitForm,
    OwnForm,
    ToldForm,
    age_values,
    bolt_values,
    own_values,
    told_values,
)

_TIMES = {0: "not once", 1: "once", 2: "twice"}
_HERE = 500.0  # m within which help is here
THINGS, WEAR, HERE = "things", "wear", "here"
_TABS = (("", "Failures"), (THINGS, "Spares"), (WEAR, "Wear and tools"), (HERE, "If it breaks here"))


@dataclass(frozen=True, kw_only=True)
class FailureRow:
    """One failure."""

    name: str
    part: str
    chance: float  # 1
    answers: str
    lacks: str
    minutes: float
    ends: float  # 1
    address: str
    is_open: bool


@dataclass(frozen=True, kw_only=True)
class AnswerRow:
    """One way to mend it."""

    name: str
    minutes: float
    holds: float  # 1
    given: float  # 1, how often
    lacks: str


@dataclass(frozen=True, kw_only=True)
class OpenFailure:
    """A failure that is open: why, and what answers it."""

    name: str
    sentence: str
    rows: tuple[AnswerRow, ...]
    help: str
    is_body: bool
    unit: str
    form: BoundForm[ToldForm] | None  # None: the rider's own, which has a form of its own
    address: str
    usual_address: str  # empty: nothing is known better
    own: BoundForm[OwnForm] | None
    own_address: str
    forget_address: str
    asked: tuple[tuple[str, str, str], ...]  # what a tool may do, in words; its item, what
    does_address: str
    key: str


@dataclass(frozen=True, kw_only=True)
class ThingsView:
    """What spares are worth."""

    rows: tuple[ThingWorth, ...]
    additions: tuple[Addition, ...]
    more: tuple[tuple[str, float, float], ...]  # name, min gained, min carried
    places: tuple[AnswerPlace, ...]
    spread: str
    count_address: str


@dataclass(frozen=True, kw_only=True)
class WearView:
    """What wears, and what turns bolts."""

    lines: tuple[tuple[WearLine, str], ...]  # with what to do
    lube: str
    bolts: tuple[tuple[BoltCover, str], ...]  # with the address that opens it
    tools: dict[str, str]
    lightest: str
    ages: BoundForm[AgesForm]
    ages_address: str
    bolt: BoundForm[BoltForm] | None
    bolt_address: str
    new_bolt_address: str
    close_address: str


@dataclass(frozen=True, kw_only=True)
class HereRow:
    """What one does if a failure happens here."""

    name: str
    do: str
    minutes: float
    help: str


@dataclass(frozen=True, kw_only=True)
class MendView:
    """The Mend room."""

    headline: str
    tabs: tuple[tuple[str, str, bool], ...]
    tab: str
    minutes: float
    ending: float
    picture: PartsView | None
    rows: Window[FailureRow] | None
    failure: OpenFailure | None
    things: ThingsView | None
    wear: WearView | None
    here: tuple[HereRow, ...]
    place: str
    is_empty: bool
    kit_address: str
    close_address: str
    habit: BoundForm[HabitForm]
    habit_address: str
    new_address: str
    new: BoundForm[OwnForm] | None
    new_post: str
    km: str


def mend_view(desk: Desk) -> MendView:
    """Return what the Mend room shows."""
    ridden = desk.evaluation.ridden
    mend = ridden.report(Mend)
    tab = desk.look.tab if desk.look.tab in dict(_TABS) else ""
    rule, at = desk.variant.mending, _place(desk, ridden)
    lines = [line for line in mend.lines if line.outcome.expected > 0.0]
    rows = tuple(_row(desk, line) for line in lines)
    return MendView(
        headline=_headline(mend),
        tabs=tuple((name, desk.at(tab=key), key == tab) for key, name in _TABS),
        tab=tab,
        minutes=mend.minutes,
        ending=mend.ending,
        picture=None if tab else parts_drawing(mend),
        rows=None if tab else window(desk, rows, 0),
        failure=None if tab else _open(desk, lines),
        things=_things(desk, ridden) if tab == THINGS else None,
        wear=_wear(desk, ridden) if tab == WEAR else None,
        here=_here(ridden, at, lines) if tab == HERE else (),
        place=distance_km(at),
        is_empty=not ridden.kit.items,
        kit_address=desk.at("kit"),
        close_address=desk.at(),
        habit=desk.form("habit", HabitForm, {"skill": rule.skill, "accepted": round(100.0 * rule.accepted, 3)}),
        habit_address=desk.do("mend-habit"),
        new_address=desk.at(tab=NEW),
        new=desk.form("own", OwnForm, own_values(None)) if desk.look.tab == NEW else None,
        new_post=desk.do("mend-own", UNNAMED),
        km=f"{at / 1e3:.1f}",
    )


def _headline(mend: Mend) -> str:
    rides = f"one race in {1.0 / mend.ending:.0f}" if mend.ending > 0.001 else "hardly any race"
    return f"Failures cost {mend.minutes / 60.0:.1f} h on average and end {rides}"


def _row(desk: Desk, line: FailureLine) -> FailureRow:
    is_open = desk.look.open == line.failure.key
    return FailureRow(
        name=line.failure.name,
        part=PARTS[line.failure.part],
        chance=line.chance,
        answers=listed([answer.name for answer in line.answers], 3),
        lacks="" if line.answers else lacking_words(line),
        minutes=line.outcome.minutes,
        ends=line.outcome.ending,
        address=desk.at() if is_open else desk.at(open=line.failure.key),
        is_open=is_open,
    )


def _open(desk: Desk, lines: list[FailureLine]) -> OpenFailure | None:
    line = next((line for line in lines if line.failure.key == desk.look.open), None)
    if line is None:
        return None
    failure, outcome = line.failure, line.outcome
    low, high = outcome.expected / failure.band, outcome.expected * failure.band
    often = f"{outcome.expected:.2f} times on this race, {low:.2f} to {high:.2f}"
    rule = desk.variant.mending
    own = next((one for one in rule.own if one.key == failure.key), None)
    told = rule.told.get(failure.key)
    return OpenFailure(
        unit=GROUNDS[failure.ground],
        form=None if own else desk.form("told", ToldForm, told_values(told)),
        address=desk.do("mend-told", failure.key),
        usual_address=desk.do("mend-told", failure.key, "usual") if told else "",
        own=desk.form("own", OwnForm, own_values(own)) if own else None,
        own_address=desk.do("mend-own", failure.key),
        forget_address=desk.do("mend-own", failure.key, "forget") if own else "",
        name=failure.name,
        sentence=f"{failure.rate:g} {GROUNDS[failure.ground]} ({_source(desk, failure.key)}): {often}. "
        f"Unanswered one gets on at {failure.speed:.0f} km/h, and it ends {100.0 * failure.ends:.0f} % of such rides. "
        f"{outcome.unserved:.3f} times no "
        "answer is left or holds.",
        rows=tuple(
            AnswerRow(
                name=answer.name,
                minutes=answer.minutes,
                holds=answer.holds,
                given=given,
                lacks=listed([" or ".join(sorted({word_of(word) for word in one})) for one in lacking], 3),
            )
            for answer, given, lacking in zip(failure.answers, outcome.tried, line.lacking, strict=True)
        ),
        help=f"From {100.0 * line.help.reached:.0f} % of the race {sold_at(failure.shop)} is reached in time; it costs "
        f"{duration(60.0 * line.help.minutes)} then."
        if line.help.reached > 0.0
        else "Nobody on the way sells or mends it in time.",
        is_body=failure.part == "rider",
        asked=tuple(
            (f"Nothing says whether {tool.name} {ON_TOOLS[word]}.", tool.id, word)
            for tool, word in may_do(line, desk.evaluation.ridden.kit.items)
        ),
        does_address=desk.do("mend-does"),
        key=failure.key,
    )


def _source(desk: Desk, key: str) -> str:
    rule = desk.variant.mending
    if any(own.key == key for own in rule.own):
        return "your own"
    told = rule.told.get(key)
    return "as you know it" if told and told.rate is not None else "estimate"


def _place(desk: Desk, ridden: Ridden) -> float:
    """Return the place that is asked about: a km of the address, else the start of the leg in hand. [m]"""
    words = desk.look.find.strip()
    if desk.look.tab == HERE and words:
        km = typed_figure(words, "km")
        if not 0.0 <= 1e3 * km <= ridden.way.profile.length:
            raise InvalidInput(f"{words[:20]} is not on this course of {distance_km(ridden.way.profile.length)}.")
        return 1e3 * km
    return ridden.timetable.legs[desk.leg].start


def _things(desk: Desk, ridden: Ridden) -> ThingsView:
    return ThingsView(
        places=ridden.report(Places).things,
        spread=_spread(ridden),
        count_address=desk.do("mend-count"),
        rows=things_worth(ridden),
        additions=additions(ridden)[:12],
        more=tuple((item.name, gain, price) for item, gain, price in next_of_a_kind(ridden)),
    )


def _spread(ridden: Ridden) -> str:
    held = [f"{listed(list(names), 4)} in {carrier}" for carrier, names in tyre_set(ridden).items()]
    if len(held) > 1:
        return f"What a hole wants first rides in {len(held)} places: {listed(held, 4)}. One pouch opens once."
    return f"What a hole wants first rides together: {held[0]}." if held else ""


def _wear(desk: Desk, ridden: Ridden) -> WearView:
    bolts, wearing = bolts_on(ridden), ridden.report(Wearing)
    lube, named = lube_times(ground_of(ridden)), desk.look.open
    known = next((entry.bolt for entry in bolts if entry.bolt.part == named), None)
    is_open = bool(known) or named == UNNAMED or "bolt" in desk.forms
    return WearView(
        lines=tuple((line, _what_to_do(line, swap)) for line, swap in zip(wearing.lines, wearing.swaps, strict=True)),
        lightest=listed([item.name for item in lightest_set(bolts)], 6),
        ages=desk.form("ages", AgesForm, age_values(desk.variant.mending)),
        ages_address=desk.do("mend-ages"),
        bolt=desk.form("bolt", BoltForm, bolt_values(known)) if is_open else None,
        bolt_address=desk.do("mend-bolt"),
        new_bolt_address=desk.at(tab=WEAR, open=UNNAMED),
        close_address=desk.at(tab=WEAR),
        lube=listed([f"{kind} {_TIMES.get(round(times), f'{times:.0f} times')}" for kind, times in lube.items()], 2),
        bolts=tuple((entry, desk.at(tab=WEAR, open=entry.bolt.part)) for entry in bolts),
        tools=TOOLS,
    )


def _what_to_do(line: WearLine, swap: Swap | None) -> str:
    if swap is None:
        return "lasts"
    where = [
        *[f"{item.name} is aboard" for item in swap.aboard],
        *[f"{item.name} waits at {stop.name}" for item, stop in swap.boxed],
    ]
    if swap.shop:
        where.append(f"last bike shop before: {swap.shop.name}, {distance_km(swap.shop.distance)}")
    new = "; new at the start it lasts" if swap.needless else ""
    return f"swap by {distance_km(1e3 * swap.at)}: {listed(where, 3) or 'none aboard, boxed or sold before'}{new}"


def _here(ridden: Ridden, at: float, lines: list[FailureLine]) -> tuple[HereRow, ...]:
    rows = []
    for line in sorted(lines, key=lambda entry: -entry.chance)[:24]:
        helps = helps_at(ridden, line.failure, at)
        first = line.answers[0] if line.answers else None
        rows.append(
            HereRow(
                name=line.failure.name,
                do=listed([answer.name for answer in line.answers], 3) or "nothing aboard answers it",
                minutes=first.minutes if first else helps[0].minutes if helps else line.failure.minutes,
                help=_help_words(ridden, at, helps[0]) if helps else "no help in reach",
            )
        )
    return tuple(rows)


def _help_words(ridden: Ridden, at: float, found: HelpAt) -> str:
    far = distance_km(abs(found.ahead))
    where = "here" if abs(found.ahead) < _HERE else f"{far} {'on' if found.ahead > 0.0 else 'back'}"
    places = ridden.way.profile.distances[: ridden.ride.clocks.size]
    now = float(np.interp(at, places, ridden.ride.clocks[: places.size]))
    then = clock(clock_after(ridden, now + 60.0 * (found.way + found.wait)))
    return f"{found.stop.name}, {where}: served {then}" + (
        f", {duration(60.0 * found.wait)} at its door" if found.wait > 1.0 else ""
    )
