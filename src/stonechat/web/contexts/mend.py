"""What the Mend room shows."""

from dataclasses import dataclass

from stonechat.core.checks.mend import lacking_words
from stonechat.core.kit.bolts import TOOLS, BoltCover, bolts_of, cover_bolts
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.mend.failures import GROUNDS, PARTS
from stonechat.core.mend.report import FailureLine, Mend
from stonechat.core.mend.wear import WearLine, lube_times
from stonechat.core.plan.mending import HelpAt, ground_of, helps_at
from stonechat.core.plan.sky import clock_after
from stonechat.render.drawings.parts import PartsView, parts_drawing
from stonechat.render.filters import clock, distance_km, duration
from stonechat.services.mending import (
    Addition,
    ThingWorth,
    additions,
    next_of_a_kind,
    sold_at,
    things_worth,
    wear_lines,
)
from stonechat.text import listed
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import Desk

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


@dataclass(frozen=True, kw_only=True)
class ThingsView:
    """What spares are worth."""

    rows: tuple[ThingWorth, ...]
    additions: tuple[Addition, ...]
    more: tuple[tuple[str, float, float], ...]  # name, min gained, min carried


@dataclass(frozen=True, kw_only=True)
class WearView:
    """What wears, and what turns bolts."""

    lines: tuple[WearLine, ...]
    lube: str
    bolts: tuple[BoltCover, ...]
    tools: dict[str, str]
    loose: int


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


def mend_view(desk: Desk) -> MendView:
    """Return what the Mend room shows."""
    ridden = desk.evaluation.ridden
    mend = ridden.report(Mend)
    tab = desk.look.tab if desk.look.tab in dict(_TABS) else ""
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
        things=_things(ridden) if tab == THINGS else None,
        wear=_wear(ridden) if tab == WEAR else None,
        here=_here(desk, ridden, lines) if tab == HERE else (),
        place=distance_km(ridden.timetable.legs[desk.leg].start),
        is_empty=not ridden.kit.items,
        kit_address=desk.at("kit"),
        close_address=desk.at(),
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
    return OpenFailure(
        name=failure.name,
        sentence=f"{failure.rate:g} {GROUNDS[failure.ground]} (estimate): {often}. Unanswered one gets on at "
        f"{failure.speed:.0f} km/h, and it ends {failure.ends:.0%} of such rides. {outcome.unserved:.3f} times no "
        "answer is left or holds.",
        rows=tuple(
            AnswerRow(
                name=answer.name,
                minutes=answer.minutes,
                holds=answer.holds,
                given=given,
                lacks=listed([" or ".join(sorted(_plain(word) for word in one)) for one in lacking], 3),
            )
            for answer, given, lacking in zip(failure.answers, outcome.tried, line.lacking, strict=True)
        ),
        help=f"From {line.help.reached:.0%} of the race {sold_at(failure.shop)} is reached in time; it costs "
        f"{duration(60.0 * line.help.minutes)} then."
        if line.help.reached > 0.0
        else "Nobody on the way sells or mends it in time.",
        is_body=failure.part == "rider",
    )


def _plain(word: str) -> str:
    return word.removeprefix("t:").replace("_", " ")


def _things(ridden: Ridden) -> ThingsView:
    return ThingsView(
        rows=things_worth(ridden),
        additions=additions(ridden)[:12],
        more=tuple((item.name, gain, price) for item, gain, price in next_of_a_kind(ridden)),
    )


def _wear(ridden: Ridden) -> WearView:
    bolts = cover_bolts(bolts_of(ridden.rig.bike, ridden.rig.carriers), ridden.kit.items)
    lube = lube_times(ground_of(ridden))
    return WearView(
        lines=wear_lines(ridden),
        lube=listed([f"{kind} {times:.0f} times" for kind, times in lube.items()], 2),
        bolts=bolts,
        tools=TOOLS,
        loose=sum(1 for entry in bolts if not entry.items),
    )


def _here(desk: Desk, ridden: Ridden, lines: list[FailureLine]) -> tuple[HereRow, ...]:
    at = ridden.timetable.legs[desk.leg].start
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
    now = next(leg for leg in ridden.timetable.legs if leg.start == at)
    start = float(now.leaves.timestamp() - ridden.way.start.timestamp())
    then = clock(clock_after(ridden, start + 60.0 * (found.way + found.wait)))
    return f"{found.stop.name}, {where}: served {then}" + (
        f", {duration(60.0 * found.wait)} at its door" if found.wait > 1.0 else ""
    )
