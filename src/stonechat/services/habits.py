"""A rider's ways: what races tell of stays, nights, water, warmth and halts, and figures taken from them."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from stonechat.core.charge.things import electrics_of, with_draw
from stonechat.core.diary.combine import combined
from stonechat.core.diary.habits import HABITS, Habit
from stonechat.core.diary.rides import Told
from stonechat.core.kit.item import HOME
from stonechat.core.line.stops import DAY
from stonechat.core.plan.charging import charge_of
from stonechat.core.plan.habits import habits_of
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.scenario import stay_at
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.evaluation import evaluated, finish_as
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.kept import Kept
from stonechat.services.memory import earlier_races
from stonechat.services.rides import FigureTold, refuse_outside
from stonechat.services.workspace import Workspace

_MOST_RACES = 4  # the newest, besides this plan's own
_SCALES = frozenset({"intake", "sweat", "runs_cold", "handling", "punctures"})  # habits that are figures of the rider
# schools of sleep that say when one lies down, and when one sets out
_CLOCKS = {"halt": frozenset({"window"}), "rise": frozenset({"window", "rooms"})}
_ROUND = 300.0  # s to which clocks are taken

_OF_RACE: Kept[tuple[Habit, ...]] = Kept(16)
_TOLD: Kept[tuple[FigureTold, ...]] = Kept(16)


def habits_told(workspace: Workspace, opened: OpenPlan, variant_id: str) -> tuple[FigureTold, ...]:
    """Return every way that the rider's races tell, beside the plan's; older races weigh less."""
    races = _races(workspace, opened, variant_id)
    key = (opened.content, variant_id, tuple((race.content, name) for race, name in races))
    return _TOLD.of(key, lambda: _habits_told(opened, variant_id, races))


def _races(workspace: Workspace, opened: OpenPlan, variant_id: str) -> list[tuple[OpenPlan, str]]:
    own = [(opened, variant_id)] if opened.plan.variant(variant_id).race is not None else []
    before = [(race, one.id) for race, one in earlier_races(workspace, opened) if one.race is not None]
    return own + before[:_MOST_RACES]


def _of_race(opened: OpenPlan, variant_id: str) -> tuple[Habit, ...]:
    ridden, variant = evaluated(opened, variant_id).ridden, opened.plan.variant(variant_id)
    return _OF_RACE.of((opened.content, variant_id), lambda: habits_of(ridden, variant))


def _habits_told(opened: OpenPlan, variant_id: str, races: Sequence[tuple[OpenPlan, str]]) -> tuple[FigureTold, ...]:
    today = datetime.now(UTC)
    by_id: dict[str, list[Habit]] = {}
    for race, name in races:
        ride = race.plan.variant(name).race
        age = max(0.0, (today - ride.start).total_seconds() / 86_400.0) if ride is not None else 0.0
        for habit in _of_race(race, name):
            by_id.setdefault(habit.id, []).append(replace(habit, told=replace(habit.told, age=age)))
    order = list(HABITS)
    groups = sorted(by_id.values(), key=lambda group: (order.index(group[0].key), group[0].of))
    rows = (_told(opened, variant_id, group) for group in groups)
    return tuple(row for row in rows if row is not None)


def _told(opened: OpenPlan, variant_id: str, group: Sequence[Habit]) -> FigureTold | None:
    """Return one way beside the plan's; None where it means nothing on this course and with this kit."""
    key, of = group[0].key, group[0].of
    variant = opened.plan.variant(variant_id)
    planned = _planned(opened, variant, key, of)
    if planned is None:
        return None
    one = combined([replace(habit.told, band=max(habit.told.band, 1e-6)) for habit in group])
    seen = sum(habit.seen for habit in group)
    minutes, why_not = None, ""
    try:
        taken = _with_habit(opened.plan, variant_id, key, of, one.value)
        before = evaluated(opened, variant_id).ridden.ledger.finish
        minutes = (finish_as(opened, taken, variant_id) - before) / 60.0
    except InvalidInput as wrong:
        why_not = str(wrong)
    return FigureTold(
        key=key,
        of=of,
        planned=planned,
        told=Told(value=one.value, low=one.value - one.band, high=one.value + one.band),
        seen=f"{seen} {'times' if seen != 1 else 'time'}",
        minutes=minutes,
        why_not=why_not,
    )


def take_habit(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, key: str, of: str
) -> OpenPlan:
    """Take a way that races tell into the plan."""
    rows = [row for row in habits_told(workspace, opened, variant_id) if (row.key, row.of) == (key, of)]
    if not rows:
        raise NotFound("No race tells that any more. Load the page again.", subject=key)
    value = rows[0].told.value
    name, digits, unit = HABITS[key]
    return change_plan(
        workspace,
        opened.id,
        revision=revision,
        label=f"took {name}{f' {of}' if of else ''} of {value:.{digits}f} {unit} from races".replace("  ", " ")[:120],
        change=lambda plan: _with_habit(plan, variant_id, key, of, value),
    )


def _planned(opened: OpenPlan, variant: Variant, key: str, of: str) -> float | None:
    """Return a way as this plan has it, in the unit of HABITS; None where it has none."""
    rhythm, rider = variant.rhythm, variant.rider
    if key in _SCALES:
        return float(getattr(rider, key))
    if key == "dawdle":
        stays = _stays(opened.plan, variant, of)
        return sum(stays.values()) / len(stays) / 60.0 if stays else None
    if key == "draw":
        devices = charge_of(evaluated(opened, variant.id).ridden).electrics.devices
        return next((one.at_work for one in devices if one.name == of), None)
    if key in _CLOCKS:
        return float(getattr(rhythm, key)) / 3600.0 if rhythm.school in _CLOCKS[key] else None
    if key == "camp":
        return rhythm.camp_time / 60.0
    return rhythm.sleep_for / 3600.0 if rhythm.school == "hours" else None


def _with_habit(plan: Plan, variant_id: str, key: str, of: str, value: float) -> Plan:
    """Return a plan with a way of races; refused where it lies outside what can be."""
    variant = plan.variant(variant_id)
    rhythm, rider = variant.rhythm, variant.rider
    if key == "draw":
        aboard = [item for item in plan.items if variant.places.get(item.id) != HOME]
        things = {one.id: one for one in electrics_of(aboard, electronic=False).devices if one.name == of}
        drawing = (with_draw(i, things[i.id], value) if i.id in things else i for i in plan.items)
        return replace(plan, items=tuple(drawing))
    if key in _SCALES:
        refuse_outside(key, value, HABITS[key][0])
        own: dict[str, Any] = {key: round(value, 3)}
        return plan.with_variant(replace(variant, rider=replace(rider, **own)))
    changed = _dawdling(plan, variant, of, 60.0 * value) if key == "dawdle" else _of_night(key, value)
    return plan.with_variant(replace(variant, rhythm=replace(rhythm, **changed)))


def _stays(plan: Plan, variant: Variant, kind: str) -> dict[str, float]:
    """Return how long this plan stays at each stop of a kind, the way there and back left out, by stop. [s]"""
    return {
        stop.id: stay_at(replace(stop, detour=0.0), variant)
        for stop in plan.line.stops
        if stop.kind == kind and stop.used
    }


def _dawdling(plan: Plan, variant: Variant, kind: str, seconds: float) -> dict[str, Any]:
    """Return what of a rhythm changes so that the mean stay at a kind of stop is so long: each in the same share."""
    rhythm, stays = variant.rhythm, _stays(plan, variant, kind)
    mean = sum(stays.values()) / len(stays) if stays else 0.0
    own = {stop.id for stop in plan.line.stops if stop.id in stays and stop.dwell is not None} | set(rhythm.stays)
    share = seconds / mean if mean > 0.0 else 1.0
    told = {key: max(60.0, 60.0 * round(share * stay / 60.0)) for key, stay in stays.items() if key in own}
    usual = {kind: 60.0 * max(1.0, round(seconds / 60.0))} if len(told) < len(stays) else {}
    return {"dawdle": {**rhythm.dawdle, **usual}, "stays": {**rhythm.stays, **told}}


def _of_night(key: str, value: float) -> dict[str, Any]:
    """Return what of a rhythm another way of nights changes."""
    if key in ("halt", "rise"):
        return {key: round(3600.0 * value / _ROUND) * _ROUND % DAY}
    if key == "camp":
        return {"camp_time": 60.0 * max(0.0, round(value))}
    return {"sleep_for": 60.0 * max(0.0, round(60.0 * value))}


def races_tell(workspace: Workspace, opened: OpenPlan, variant_id: str) -> bool:
    """Tell whether any race of this rider was ridden and read in."""
    return bool(_races(workspace, opened, variant_id))
