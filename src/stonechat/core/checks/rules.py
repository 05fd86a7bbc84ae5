"""Checks of the race's rules: cut-offs, time limit, start, compulsory kit; and of stops that may not be there."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.kit.item import Item
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.race_rules import RaceRules, forbidden_things, missing_things
from stonechat.core.line.stops import Stop
from stonechat.core.numerics.findings import Finding, State, state_of
from stonechat.text import listed

TIGHT_HOURS = 2.0  # h before a cut-off from which it is tight
SURE = 0.75  # 1, a stop believed in less than this is not relied on


def _late_words(hours: float) -> str:
    return f"{hours:.1f} h to spare" if hours >= 0.0 else f"{-hours:.1f} h too late"


def cut_offs(ridden: Ridden) -> Iterator[Finding]:
    """The checkpoint with the least to spare, and the time limit."""
    timed = [visit for visit in ridden.timetable.visits[:-1] if visit.margin is not None]
    if timed:
        visit = min(timed, key=lambda v: v.margin or 0.0)
        hours = (visit.margin or 0.0) / 3600.0
        yield Finding(
            code="cut-off",
            state=state_of(hours, TIGHT_HOURS),
            title=f"Cut-off at {visit.name}",
            sentence=f"You pass on {visit.arrives:%a %H:%M}, {_late_words(hours)}; the finish is "
            f"± {ridden.ledger.spread / 3600:.1f} h sure. Sleep or dawdle less before it.",
            margin=hours,
            unit="h",
            subject=visit.stop.id if visit.stop else "",
            room="rhythm",
        )
    last = ridden.timetable.visits[-1]
    if last.margin is not None:
        hours = last.margin / 3600.0
        yield Finding(
            code="cut-off",
            state=state_of(hours, TIGHT_HOURS),
            title="Time limit",
            sentence=f"Finish on {last.arrives:%a %H:%M}, {_late_words(hours)}.",
            margin=hours,
            unit="h",
            subject="finish",
            room="rhythm",
        )


def start_allowed(ridden: Ridden) -> Iterator[Finding]:
    """Whether the rider starts no earlier than the race."""
    if ridden.way.rules.start is None:
        return
    hours = (ridden.way.start.replace(tzinfo=None) - ridden.way.rules.start).total_seconds() / 3600.0
    if hours < 0.0:
        yield Finding(
            code="start",
            state=State.BROKEN,
            title="Start before the race",
            sentence=f"You start {-hours:.1f} h before the race does, on {ridden.way.rules.start:%a %d %B %H:%M}.",
            margin=hours,
            unit="h",
            room="rhythm",
        )


def compulsory_kit(ridden: Ridden) -> Iterator[Finding]:
    """Whether every compulsory thing is carried."""
    if not ridden.way.rules.compulsory:
        return
    missing = missing_things(ridden.way.rules, [item.name for item in ridden.kit.items])
    found = len(ridden.way.rules.compulsory) - len(missing)
    yield Finding(
        code="compulsory",
        state=State.BROKEN if missing else State.FINE,
        title="Compulsory kit",
        sentence=f"Not carried: {', '.join(missing)}. Add it, or name it as the rules do."
        if missing
        else f"All {found} things that the rules ask for are carried.",
        margin=-float(len(missing)),
        unit="things",
        room="kit",
    )


def forbidden_kit(ridden: Ridden) -> Iterator[Finding]:
    """Whether anything goes along that the rules forbid."""
    if not ridden.way.rules.forbidden:
        return
    found = forbidden_things(ridden.way.rules, [item.name for item in ridden.kit.items])
    yield Finding(
        code="forbidden",
        state=State.BROKEN if found else State.FINE,
        title="Forbidden by the rules",
        sentence=f"Carried against the rules: {', '.join(found)}. Leave it at home."
        if found
        else f"Nothing that is carried is called {' or '.join(ridden.way.rules.forbidden)}.",
        margin=-float(len(found)),
        unit="things",
        room="kit",
    )


def _box_wrong(stop: Stop | None, things: list[Item], rules: RaceRules) -> tuple[str, float, str] | None:
    """Say what is wrong with what is sent to a stop, with its margin and unit; nothing where it is right."""
    if stop is None or "drop_box" not in stop.offers:
        names = listed((item.name for item in things), 3)
        name = stop.name if stop else "a stop that is not used"
        words = f"{names} would join at {name}, which is no box site. Choose one, or carry it from the start."
        return words, -float(len(things)), "things"
    return _box_over(stop, things, rules)


def _box_over(stop: Stop, things: list[Item], rules: RaceRules) -> tuple[str, float, str] | None:
    """Say by how much what is sent to a box site is too much for its box."""
    volume, mass = sum(i.volume * i.quantity for i in things), sum(i.total_mass for i in things)
    room = stop.box_volume if stop.box_volume is not None else rules.box_volume
    most = stop.box_mass if stop.box_mass is not None else rules.box_mass
    if room is not None and volume > room:
        words = f"{1000 * volume:.1f} l are sent ahead; the box holds {1000 * room:.1f} l."
        return words, 1000.0 * (room - volume), "l"
    if most is not None and mass > most:
        return f"{mass:.1f} kg are sent ahead; {most:.1f} kg are allowed.", most - mass, "kg"
    return None


def boxes_hold(ridden: Ridden) -> Iterator[Finding]:
    """Whether what is taken from a drop box may be in it: a box site, its size, its mass."""
    sent: dict[str, list[Item]] = {}
    for item in ridden.kit.items:
        if item.id in ridden.kit.joins:
            sent.setdefault(ridden.kit.joins[item.id], []).append(item)
    sites = {stop.id: stop for stop in ridden.way.stops}
    for stop_id, things in sent.items():
        stop = sites.get(stop_id)
        found = _box_wrong(stop, things, ridden.way.rules)
        if found is None:
            continue
        wrong, margin, unit = found
        yield Finding(
            code="box",
            state=State.BROKEN,
            title=f"Drop box at {stop.name}" if stop else "Drop box",
            sentence=wrong,
            margin=margin,
            unit=unit,
            subject=stop_id,
            room="kit",
        )


def drop_boxes_allowed(ridden: Ridden) -> Iterator[Finding]:
    """Whether drop boxes are counted on where the rules allow none."""
    boxes = [
        stop.name for stop in ridden.way.stops if "drop_box" in stop.offers or stop.id in ridden.kit.joins.values()
    ]
    if boxes and not ridden.way.rules.drop_boxes:
        yield Finding(
            code="drop-box",
            state=State.BROKEN,
            title="Drop box not allowed",
            sentence=f"{', '.join(boxes[:3])} is marked with a drop box; the rules of this race allow none.",
            margin=-float(len(boxes)),
            unit="boxes",
            room="line",
        )


def stops_relied_on(ridden: Ridden) -> Iterator[Finding]:
    """Stops that cannot be missed and are not believed in."""
    must = ridden.provisions.must
    for k, stop in enumerate(ridden.way.stops):
        if must[k + 1] and stop.confidence < SURE:
            yield Finding(
                code="doubtful-stop",
                state=State.TIGHT,
                title=f"{stop.name} may fail you",
                sentence=f"It cannot be missed for water, and you are only {100 * stop.confidence:.0f} % sure of it. "
                "Ask ahead, or carry past it.",
                margin=stop.confidence - SURE,
                unit="",
                subject=stop.id,
                room="line",
            )


CHECKS = (
    Check(
        code="cut-off",
        title="Cut-offs and time limit",
        reason="A checkpoint reached too late ends the race.",
        run=cut_offs,
    ),
    Check(code="start", title="Start", reason="Nobody starts before the race.", run=start_allowed),
    Check(
        code="compulsory",
        title="Compulsory kit",
        reason="What the rules ask for is inspected, and is never on the cut list.",
        run=compulsory_kit,
    ),
    Check(
        code="forbidden",
        title="Forbidden by the rules",
        reason="What the rules forbid ends a race at the inspection.",
        run=forbidden_kit,
    ),
    Check(
        code="box",
        title="What a drop box holds",
        reason="A box that is too large or too heavy stays behind.",
        run=boxes_hold,
    ),
    Check(
        code="drop-box",
        title="Drop boxes",
        reason="A self-supported race often allows nothing sent ahead.",
        run=drop_boxes_allowed,
    ),
    Check(
        code="doubtful-stop",
        title="Stops relied on",
        reason="A plan should not hang on a stop that may not be there.",
        run=stops_relied_on,
    ),
)
