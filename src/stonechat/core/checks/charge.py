"""Checks of batteries: what goes flat on the way, and when."""

from collections.abc import Iterator

import numpy as np

from stonechat.core.charge.graph import graph_of
from stonechat.core.charge.nights import nights_of
from stonechat.core.charge.report import VITAL, BatteryLine, Charge
from stonechat.core.charge.run import cold_share, run_batteries
from stonechat.core.charge.sockets import Sockets
from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import Finding, State
from stonechat.text import listed

_RESERVE = 0.15  # 1, of a battery that may not be there (estimate)
_LOW_ONCE = 0.9  # 1, of a battery under which it is one that is charged on the way
_SLEEP = 1.5 * 3600.0  # s at a socket that are a sleep (estimate)
_FROST, _WARM = 5.0, 25.0  # °C under which cold is told of, and at which a battery gives all
_SPARE = 0.15  # 1, of all that is stored, below which what is left is within what a battery may be off


def nothing_flat(ridden: Ridden) -> Iterator[Finding]:
    """Whether lights, navigation and gears have power to the finish."""
    if not ridden.kit.items:
        return
    charge = ridden.report(Charge)
    vital = [line for line in charge.flat if line.thing.role in VITAL]
    if not any(line.thing.role in VITAL for line in charge.lines):
        return
    vital_lines = [line for line in charge.lines if line.thing.role in VITAL and line.thing.kind]
    guessed = [line.thing.name for line in vital_lines if not line.thing.is_told]
    asks = f" Usual figures stand for {listed(guessed, 3)}; give mAh, Wh or hours in the Kit." if guessed else ""
    if vital:
        first = vital[0]
        others = listed([line.thing.name for line in charge.flat if line is not first], 3)
        known = any(line.thing.is_told for line in vital)  # what stands on usual figures alone is a question
        yield Finding(
            code="flat",
            state=State.BROKEN if known else State.TIGHT,
            title=f"Flat: {first.thing.name}",
            sentence=f"{flat_words(first)} {charge.dark_hours:.0f} h are ridden in the dark; all batteries hold "
            f"{charge.stored:.0f} Wh, sockets can give {charge.wall:.0f}."
            + (f" Flat too: {others}." if others else "")
            + " Take a bigger bank, charge longer, dim the light."
            + asks,
            margin=-sum(line.unmet for line in vital) if known else 0.0,
            unit="Wh",
            room="charge",
        )
        return
    yield Finding(
        code="flat",
        state=State.TIGHT if charge.spare < _SPARE * charge.stored else State.FINE,
        title="Batteries",
        sentence=f"Nothing that matters goes flat; {charge.spare:.0f} of {charge.stored:.0f} Wh are left at least."
        + asks,
        margin=charge.spare,
        unit="Wh",
        room="charge",
    )


def flat_words(line: BatteryLine) -> str:
    """Say where a thing goes flat and what it lacks."""
    at = 0.0 if line.flat_km is None else line.flat_km / 1e3
    return f"{line.thing.name} is flat from km {at:.0f}; it lacks {line.unmet:.0f} Wh over the race."


def reserve(ridden: Ridden) -> Iterator[Finding]:
    """Whether navigation and gears reach the finish with a reserve."""
    charge = ridden.report(Charge)
    lines = [line for line in charge.lines if line.thing.role in ("navigation", "shifting") and not line.is_flat]
    if not lines:
        return
    worst = min(lines, key=lambda line: line.lowest)
    share = worst.lowest
    yield Finding(
        code="reserve",
        state=State.FINE if share >= _RESERVE else State.TIGHT,
        title="Reserve of navigation and gears",
        sentence=f"{worst.thing.name} is down to {100.0 * share:.0f} % at km {worst.lowest_km / 1e3:.0f}; "
        f"{'more than' if share >= _RESERVE else 'less than'} the {100.0 * _RESERVE:.0f} % by which a battery "
        "may be off.",
        margin=100.0 * (share - _RESERVE),
        unit="%",
        room="charge",
    )


def full_at_dusk(ridden: Ridden) -> Iterator[Finding]:
    """Whether at each dusk that is ridden into there is enough aboard for that night."""
    charge = ridden.report(Charge)
    nights = nights_of(charge)
    if not nights:
        return
    worst = min(nights, key=lambda night: night.spare)
    known = all(line.thing.is_told for line in charge.lines if line.thing.role in ("light", "bank"))
    short = worst.spare < 0.0
    yield Finding(
        code="dusk",
        state=(State.BROKEN if known else State.TIGHT) if short else State.FINE,
        title="Enough at dusk",
        sentence=f"The night from km {worst.distance / 1e3:.0f} takes {worst.wanted:.0f} Wh of light, navigation and "
        f"gears; {worst.stored:.0f} Wh of what is aboard can reach them then."
        + (" Charge more before that dusk, or ride less of that night." if short else ""),
        margin=worst.spare if known or not short else 0.0,
        unit="Wh",
        room="charge",
    )


def leads(ridden: Ridden) -> Iterator[Finding]:
    """Whether everything that is charged on the way has a lead."""
    charge = ridden.report(Charge)
    graph = graph_of(charge.electrics)
    waiting = [line for line in charge.lines if line.is_flat or line.lowest < _LOW_ONCE]
    if not waiting or graph.no_source:
        return
    unfed = [line.thing for line in waiting if line.thing in graph.unfed and line.lowest < charge.rule.low]
    if charge.electrics.assumes_leads:
        yield Finding(
            code="leads", state=State.TIGHT, title="Leads: none named", margin=0.0, unit="", room="charge",
            sentence="No charging cable is in the kit. Each battery is taken to have one; name those that go along.",
        )  # fmt: skip
        return
    names = listed([one.name for one in unfed], 4)
    yield Finding(
        code="leads",
        state=State.BROKEN if unfed else State.FINE,
        title="A lead for everything",
        sentence=f"No lead aboard reaches {names} from any source."
        if unfed
        else f"Everything that is charged on the way has a lead; aboard: {len(charge.electrics.leads)}.",
        margin=-float(len(unfed)) if unfed else float(len(charge.electrics.leads)),
        unit="leads" if not unfed else "things",
        room="charge",
    )


def filled_in_sleep(ridden: Ridden) -> Iterator[Finding]:
    """Whether a sleep at a socket fills what is used."""
    charge = ridden.report(Charge)
    sleeps = [halt for halt in ridden.report(Sockets).halts if halt.length >= _SLEEP]
    if not sleeps or not charge.lines:
        return
    worst = max(sleeps, key=lambda halt: halt.all_full - halt.length)
    late = worst.all_full - worst.length
    names = listed([one.thing.name for one in worst.unfilled], 3)
    later = f"{late / 60.0:.0f} min longer" if late < 24 * 3600.0 else "more than a day"
    yield Finding(
        code="sockets",
        state=State.FINE if not worst.unfilled else State.TIGHT,
        title="Filled in one sleep",
        sentence=f"At km {worst.distance / 1e3:.0f} {worst.length / 3600.0:.1f} h at {worst.ports} outlets and "
        f"{worst.gives:.0f} W fill everything that is used."
        if not worst.unfilled
        else f"At km {worst.distance / 1e3:.0f} {worst.length / 3600.0:.1f} h do not fill {names}: it would take "
        f"{later}. More outlets or watts, another order, or leave it so.",
        margin=-late / 3600.0 if worst.unfilled == () else 0.0,
        unit="h",
        room="charge",
    )


def cold_batteries(ridden: Ridden) -> Iterator[Finding]:
    """Whether cold is what makes something flat."""
    charge = ridden.report(Charge)
    coldest = float(charge.steps.temps.min()) if charge.steps.temps.size else _WARM
    if not charge.lines or coldest >= _FROST:
        return
    warm = run_batteries(
        charge.steps._replace(temps=np.full(charge.steps.temps.size, _WARM)), charge.loads, charge.setup
    )
    lost = float(charge.run.unmet.sum() - warm.unmet.sum())
    by_cold = [line for k, line in enumerate(charge.lines) if line.is_flat and warm.first_flat[k] < 0]
    names = listed([line.thing.name for line in by_cold], 3)
    yield Finding(
        code="cold_power",
        state=State.TIGHT if by_cold else State.FINE,
        title="Batteries in the cold",
        sentence=f"Down to {coldest:.0f} °C a battery gives {100.0 * cold_share(np.array([coldest]))[0]:.0f} %. "
        + (
            f"Only for the cold {names} goes flat: sleep with banks and devices beside the body, and carry them there."
            if by_cold
            else "Nothing goes flat for that alone. Spare cells and the telephone still belong next to the body."
        ),
        margin=-lost if by_cold else charge.spare,
        unit="Wh",
        room="charge",
    )


CHECKS = (
    Check(
        code="flat",
        title="Batteries",
        reason="A flat light ends a night, and flat gears end the climbing.",
        run=nothing_flat,
    ),
    Check(
        code="reserve",
        title="Reserve of navigation and gears",
        reason="A battery holds less than its label says when it is old or cold.",
        run=reserve,
    ),
    Check(
        code="dusk",
        title="Enough at dusk",
        reason="What is lacking at dusk is not made up before dawn.",
        run=full_at_dusk,
    ),
    Check(code="leads", title="Leads", reason="A bank without the right cable is ballast.", run=leads),
    Check(
        code="sockets",
        title="Filled in one sleep",
        reason="A short sleep at a socket fills what is plugged in first.",
        run=filled_in_sleep,
    ),
    Check(
        code="cold_power",
        title="Batteries in the cold",
        reason="Cold holds energy back; the body's warmth gives it again.",
        run=cold_batteries,
    ),
)
