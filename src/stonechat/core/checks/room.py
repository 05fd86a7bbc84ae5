"""Checks of what goes where: volume, limits, length, wet, leaks, reach."""

from collections.abc import Iterator
from dataclasses import replace

from stonechat.core.checks.check import Check
from stonechat.core.ledger.loaded import CarrierState
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.load.problem import why_not
from stonechat.core.numerics.findings import Finding, State, gathered, state_of
from stonechat.text import listed


def _fullest(ridden: Ridden) -> Iterator[tuple[int, CarrierState]]:
    """Yield each carrier that holds things on the leg on which it is fullest."""
    for k in range(len(ridden.rig.carriers)):
        leg = max(range(len(ridden.film)), key=lambda j: ridden.film[j].carriers[k].volume)
        state = ridden.film[leg].carriers[k]
        if "items" in state.carrier.takes or "food" in state.carrier.takes:
            yield leg, state


def everything_has_a_place(ridden: Ridden) -> Iterator[Finding]:
    """Things without a place."""
    loose = ridden.unplaced
    names = listed((item.name for item in loose), 3)
    yield Finding(
        code="placed",
        state=State.BROKEN if loose else State.FINE,
        title=f"{len(loose)} things without a place" if loose else "Everything has a place",
        sentence=f"{names}. Place them, pack them, or leave them at home."
        if loose
        else f"All {len(ridden.kit.items)} things ride somewhere.",
        margin=-float(len(loose)),
        unit="things",
    )


def volume(ridden: Ridden) -> Iterator[Finding]:
    """Carriers over or near their volume."""
    for leg, state in _fullest(ridden):
        margin = (state.carrier.capacity - state.volume) * 1000.0
        if margin > 0.15 * state.carrier.capacity * 1000.0:
            continue
        found = state_of(margin + 1e-6, 0.05 * state.carrier.capacity * 1000.0)
        yield Finding(
            code="volume",
            state=found,
            title=f"{state.carrier.name}: over by {-margin:.1f} l"
            if found == State.BROKEN
            else f"{state.carrier.name}: nearly full",
            sentence=f"{state.volume * 1000:.1f} of {state.carrier.capacity * 1000:.1f} l leaving "
            f"{ridden.timetable.legs[leg].start_name}." + (" Move something out." if found == State.BROKEN else ""),
            margin=margin,
            unit="l",
            subject=state.carrier.id,
        )


def load_limit(ridden: Ridden) -> Iterator[Finding]:
    """Carriers over or near the maker's load limit."""
    for k in range(len(ridden.rig.carriers)):
        leg = max(range(len(ridden.film)), key=lambda j: ridden.film[j].carriers[k].mass)
        state = ridden.film[leg].carriers[k]
        margin = state.carrier.load_limit - state.mass
        if margin > 0.1 * state.carrier.load_limit or state.carrier.takes == {"water"}:
            continue
        found = state_of(margin + 1e-9, 0.02 * state.carrier.load_limit)
        yield Finding(
            code="limit",
            state=found,
            title=f"{state.carrier.name}: over its limit by {-margin:.2f} kg"
            if found == State.BROKEN
            else f"{state.carrier.name}: near its limit",
            sentence=f"{state.mass:.2f} of {state.carrier.load_limit:.2f} kg leaving "
            f"{ridden.timetable.legs[leg].start_name}. The maker's limit comes first.",
            margin=margin,
            unit="kg",
            subject=state.carrier.id,
        )


def _static(ridden: Ridden, code: str, *codes: str, at_ease: str = "") -> Iterator[Finding]:
    """Yield what one look at thing and carrier tells; `at_ease` says why it is not so bad here."""
    by_id = {carrier.id: carrier for carrier in ridden.rig.carriers}
    for item in ridden.kit.items:
        carrier = by_id.get(ridden.kit.places.get(item.id, ""))
        if carrier is None:
            continue
        refusal = why_not(item, carrier)
        if refusal is not None and refusal.code == "dry" and item.id in ridden.lined:
            refusal = why_not(replace(item, keep_dry=False), carrier)
        if refusal is None or refusal.code not in codes:
            continue
        yield Finding(
            code=code,
            state=State.TIGHT if at_ease else State.BROKEN,
            title=f"{item.name} in {carrier.name}",
            sentence=f"{refusal.words[0].upper()}{refusal.words[1:]}. Move it." + at_ease,
            margin=None if at_ease else -1.0,
            unit="thing",
            subject=item.id,
        )


def longest(ridden: Ridden) -> Iterator[Finding]:
    """Things longer than the carrier takes."""
    return _static(ridden, "length", "length", "kind")


def stays_dry(ridden: Ridden) -> Iterator[Finding]:
    """Things that must stay dry in a carrier that does not keep rain out."""
    no_rain = "" if ridden.ledger.prices.often.wet > 0.0 else " No rain is forecast, so it is only a risk."
    names = {item.id: item.name for item in ridden.kit.items}
    return gathered(_static(ridden, "dry", "dry", at_ease=no_rain), names.__getitem__)


def reachable(ridden: Ridden) -> Iterator[Finding]:
    """Things that cannot be reached the way they are needed."""
    return _static(ridden, "reachable", "reachable")


def sees_sky(ridden: Ridden) -> Iterator[Finding]:
    """Trackers, messengers and panels in a place that sees no sky."""
    return _static(ridden, "sky", "sky")


def leaks(ridden: Ridden) -> Iterator[Finding]:
    """What leaks beside what it would spoil."""
    for state in ridden.film[0].carriers:
        leaking = [i.name for i in state.items if i.floods]
        spoiled = [i.name for i in state.items if i.is_spoilable]
        if leaking and spoiled:
            yield Finding(
                code="leaks",
                state=State.BROKEN,
                title=f"{leaking[0]} beside {spoiled[0]}",
                sentence=f"Both ride in {state.carrier.name}. One leak spoils the other; part them.",
                margin=-1.0,
                unit="pair",
                subject=state.carrier.id,
            )


CHECKS = (
    Check(
        code="placed",
        title="Everything has a place",
        reason="What has no place is carried all the same, in the wrong one.",
        run=everything_has_a_place,
    ),
    Check(code="volume", title="Volume", reason="A bag that does not close loses things.", run=volume),
    Check(
        code="limit",
        title="Load limit",
        reason="Cages and straps break by load and vibration; the maker's limit comes first.",
        run=load_limit,
    ),
    Check(code="length", title="Longest length", reason="A pole does not bend.", run=longest),
    Check(code="dry", title="Must stay dry", reason="Wet down and wet electrics are dead weight.", run=stays_dry),
    Check(
        code="leaks",
        title="Does not share a bag",
        reason="Oil, fuel and cream spoil food and insulation.",
        run=leaks,
    ),
    Check(
        code="reachable",
        title="Reachable when needed",
        reason="What cannot be reached when it is needed is not aboard.",
        run=reachable,
    ),
    Check(
        code="sky",
        title="Sees the sky",
        reason="A tracker between bottles tells nobody where you are.",
        run=sees_sky,
    ),
)
