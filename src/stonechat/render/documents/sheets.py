"""Lists to take along, on paper and on the phone."""

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass

from stonechat.core.charge.report import Charge
from stonechat.core.charge.sockets import Sockets
from stonechat.core.kit.bolts import TOOLS
from stonechat.core.kit.jobs import Demands
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import OFFERS, Stop
from stonechat.core.load.order import bag_order
from stonechat.core.mend.failures import PARTS
from stonechat.core.mend.report import FailureLine, Mend
from stonechat.core.night.ladder import Ladder
from stonechat.core.night.report import Warmth
from stonechat.core.plan.buying import foods_of
from stonechat.core.plan.camp import CampStep, camp_order
from stonechat.core.plan.countdown import countdown
from stonechat.core.plan.mending import helps_at
from stonechat.core.plan.plan import START, Plan, Variant
from stonechat.core.plan.printing import EMERGENCY
from stonechat.core.plan.sky import clock_after
from stonechat.core.plan.wearing import bolts_on
from stonechat.formats.hours import hours_text
from stonechat.render.filters import clock, day_month, distance_km, duration, percent, temperature
from stonechat.render.notes import basket_words, dress_note, stop_note
from stonechat.text import listed

_LIKELY = 0.005  # 1, chance from which a failure stands on the sheet
_NIGHT = 3600.0  # s, a shorter rest has no camp


@dataclass(frozen=True, kw_only=True)
class Line:
    """One line of a sheet."""

    figure: str = ""  # km, clock or count at its left
    text: str
    note: str = ""
    must: bool = False  # not to be missed, by mark and weight


@dataclass(frozen=True, kw_only=True)
class SheetPart:
    """Lines under one heading."""

    title: str
    sub: str = ""
    distance: float | None = None  # m along the course, where it is about a place
    lines: tuple[Line, ...]


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """A list to take along."""

    key: str
    title: str
    caution: str = ""
    parts: tuple[SheetPart, ...]
    ticks: bool = False  # with boxes

    @property
    def is_empty(self) -> bool:
        """Whether nothing stands on it."""
        return not any(part.lines for part in self.parts)


def sheets_of(plan: Plan, variant: Variant, ridden: Ridden, wanted: Collection[str] | None = None) -> tuple[Sheet, ...]:
    """Return the lists that are wanted, or all, as far as they have anything to say."""
    makers: dict[str, Callable[[], Sheet]] = {
        "order": lambda: _order(variant, ridden),
        "stops": lambda: _stops(ridden),
        "shopping": lambda: _shopping(variant, ridden),
        "repacking": lambda: _repacking(plan, variant, ridden),
        "camp": lambda: _camp(ridden),
        "charging": lambda: _charging(ridden),
        "clothes": lambda: _clothes(ridden),
        "mending": lambda: _mending(ridden),
        "bolts": lambda: _bolts(ridden),
        "countdown": lambda: _countdown(plan, variant, ridden),
    }
    made = (make() for key, make in makers.items() if wanted is None or key in wanted)
    return tuple(sheet for sheet in made if not sheet.is_empty)


def _order(variant: Variant, ridden: Ridden) -> Sheet:
    """Return the things of each bag as they go in: the deepest first, the mouth last."""
    prices, parts = ridden.ledger.prices, []
    for state in ridden.film[0].carriers:
        if "items" not in state.carrier.takes or not state.items:
            continue
        own = variant.orders.get(state.carrier.id, ())
        found = bag_order(state.carrier, state.items, often=prices.often, days=prices.days, own=own)
        lines = tuple(
            Line(figure=f"{number}", text=slot.item.name) for number, slot in enumerate(reversed(found.slots), start=1)
        )
        parts.append(SheetPart(title=state.carrier.name, sub="deepest first", lines=lines))
    return Sheet(key="order", title="Packing in order", parts=tuple(parts), ticks=True)


def _countdown(plan: Plan, variant: Variant, ridden: Ridden) -> Sheet:
    tasks = countdown(plan, variant, ridden.report(Demands))
    lines = tuple(Line(figure=day_month(task.due), text=task.title, note=task.why) for task in tasks if not task.done)
    parts = (SheetPart(title="Before the start", lines=lines),)
    return Sheet(key="countdown", title="Countdown", parts=parts, ticks=True)


def _nodes(ridden: Ridden) -> Iterator[tuple[int, str, float, str, Stop | None]]:
    """Return start and stops: number, name, km, clock, stop."""
    yield 0, "Start", 0.0, clock(ridden.way.start), None
    for k, visit in enumerate(ridden.timetable.visits[:-1], start=1):
        yield k, visit.name, visit.distance, clock(visit.arrives), visit.stop


def _stops(ridden: Ridden) -> Sheet:
    must = ridden.provisions.must
    parts = []
    for k, name, at, when, stop in _nodes(ridden):
        leg = ridden.timetable.legs[k]
        lines = [Line(text=f"leave with {stop_note(ridden, k)}", must=bool(k and must[k]))]
        if stop is not None:
            lines += _at_stop(stop)
        dressed = dress_note(ridden, k)
        if dressed:
            lines.append(Line(text=dressed))
        visit = ridden.timetable.visits[k - 1] if k else None
        if visit is not None and visit.rested >= 60.0:
            lines.append(Line(text=f"rest {duration(visit.rested)}"))
        if visit is not None and visit.is_shut:
            lines.append(Line(text="shut when you get there", must=True))
        if visit is not None and not visit.passed:
            lines += _alternative(ridden, k)
        lines.append(
            Line(text=f"then {distance_km(leg.end - leg.start)}, ↑ {leg.ascent:.0f} m, {duration(leg.elapsed)}")
        )
        parts.append(SheetPart(title=f"{distance_km(at)}  {name}", sub=when, lines=tuple(lines)))
    return Sheet(key="stops", title="By stop", parts=tuple(parts))


def _alternative(ridden: Ridden, node: int) -> list[Line]:
    """Return where else food or water is to be had, if not here."""
    here = ridden.timetable.visits[node - 1]
    for words, wanted in (("food", {"shop", "meal"}), ("water", {"water", "doubtful_water"})):
        if here.stop is None or not here.stop.offers & wanted:
            continue
        ahead = [visit for visit in ridden.timetable.visits[node:] if visit.stop and visit.stop.offers & wanted]
        if not ahead:
            return [Line(text=f"if not here, no {words} to the finish")]
        far = distance_km(ahead[0].distance - here.distance)
        return [Line(text=f"if not here, {words} at {ahead[0].name}, {far} on")]
    return []


def _at_stop(stop: Stop) -> list[Line]:
    offers = listed([OFFERS[key] for key in OFFERS if key in stop.offers], 12)
    hours = f"open {hours_text(stop.hours)}" if stop.hours is not None else "hours not known: ask ahead"
    lines = [Line(text=offers, note=hours)] if stop.offers else []
    return lines + ([Line(text=stop.note)] if stop.note else [])


def _shopping(variant: Variant, ridden: Ridden) -> Sheet:
    foods, food, larder = foods_of(variant.supply), ridden.provisions.food, ridden.provisions.larder
    parts = []
    for k, name, at, when, _ in _nodes(ridden):
        words = basket_words(foods, larder.baskets[k], float(food.taken[k])) if food.refilled[k] else ""
        if words:
            lines = tuple(Line(text=entry) for entry in words.split(", "))
            parts.append(SheetPart(title=f"{distance_km(at)}  {name}", sub=when, distance=at, lines=lines))
    return Sheet(key="shopping", title="Shopping", parts=tuple(parts), ticks=True,
                 caution="What is sold is as usual for such shops; take what comes near it.")  # fmt: skip


def _repacking(plan: Plan, variant: Variant, ridden: Ridden) -> Sheet:
    items = {item.id: item.name for item in plan.items}
    bags = {carrier.id: carrier.name for carrier in variant.carriers}
    moves: dict[str, list[Line]] = {}
    for key, windows in variant.repacks.items():
        home = bags.get(variant.places.get(key, ""), "its place")
        for there in windows if key in ridden.kit.moved else ():
            moves.setdefault(there.since, []).append(Line(text=f"{items.get(key, key)} into {bags.get(there.to, '')}"))
            if there.until:
                moves.setdefault(there.until, []).append(Line(text=f"{items.get(key, key)} back into {home}"))
    for key, stop in variant.joins.items():
        moves.setdefault(stop, []).append(Line(text=f"take {items.get(key, key)} from the drop box"))
    for key, stop in variant.posts.items():
        moves.setdefault(stop, []).append(Line(text=f"post {items.get(key, key)} home"))
    parts = [
        SheetPart(
            title=f"{distance_km(at)}  {name}",
            sub=when,
            distance=at,
            lines=tuple(moves[stop.id if stop else START]),
        )
        for _, name, at, when, stop in _nodes(ridden)
        if (stop.id if stop else START) in moves
    ]
    return Sheet(key="repacking", title="Repacking", parts=tuple(parts), ticks=True)


def _camp(ridden: Ridden) -> Sheet:
    parts = []
    for rest in ridden.report(Warmth).rests:
        if rest.in_bed or rest.length < _NIGHT:
            continue
        evening, morning = camp_order(ridden, rest)
        for title, steps in (("evening", evening), ("morning", morning)):
            parts.append(
                SheetPart(
                    title=f"{distance_km(rest.distance)}, {title}",
                    sub=f"down to {temperature(rest.low)}, {duration(rest.length)}",
                    lines=tuple(_step(step) for step in steps),
                )
            )
    return Sheet(key="camp", title="Camp", parts=tuple(parts),
                 caution="Warm things first. Shivering that stops, or confusion, is an emergency.")  # fmt: skip


def _step(step: CampStep) -> Line:
    things = listed([f"{name} ({where})" if where else name for name, where in step.things], 8)
    return Line(figure=f"{step.minutes:.0f} min", text=step.words, note=things)


def _charging(ridden: Ridden) -> Sheet:
    parts = []
    for halt in ridden.report(Sockets).halts:
        name = ridden.timetable.visits[halt.stop].name
        lines = tuple(
            Line(figure=percent(one.left), text=one.thing.name, note="" if one.fits else "not full on leaving")
            for one in halt.fillings
            if one.is_wanted
        )
        when = clock(clock_after(ridden, halt.begins))
        parts.append(SheetPart(title=f"{distance_km(halt.distance)}  {name}", sub=f"{when}, {duration(halt.length)}",
                               lines=lines))  # fmt: skip
    low = [
        Line(
            figure=percent(line.lowest),
            text=line.thing.name,
            note=f"lowest at {distance_km(line.lowest_km)}"
            + (f", flat from {distance_km(line.flat_km)}" if line.flat_km is not None else ""),
            must=line.is_flat,
        )
        for line in ridden.report(Charge).lines
    ]
    parts.append(SheetPart(title="Batteries", lines=tuple(low)))
    return Sheet(key="charging", title="Charging", parts=tuple(parts))


def _clothes(ridden: Ridden) -> Sheet:
    ladder = ridden.report(Ladder)
    spells = ladder.spells
    lines = []
    for change in ladder.changes:
        on, off = ([garment.name for garment in side] for side in (change.on, change.off))
        words = ([f"on {listed(on, 6)}"] if on else []) + ([f"off {listed(off, 6)}"] if off else [])
        at, cold = float(spells.begins[change.spell]), float(spells.going.temps[change.spell])
        lines.append(
            Line(
                figure=distance_km(at),
                text="; ".join(words),
                note=f"{clock(clock_after(ridden, float(spells.clocks[change.spell])))}, {temperature(cold)}",
            )
        )
    return Sheet(key="clothes", title="Clothes", parts=(SheetPart(title="On the way", lines=tuple(lines)),))


def _mending(ridden: Ridden) -> Sheet:
    parts: dict[str, list[Line]] = {}
    for line in ridden.report(Mend).lines:
        if line.chance >= _LIKELY:
            parts.setdefault(line.failure.part, []).append(_failure(ridden, line))
    return Sheet(
        key="mending", title="Mending",
        parts=tuple(SheetPart(title=PARTS[part], lines=tuple(lines)) for part, lines in parts.items()),
        caution="Brakes, steering and wheels: if in doubt walk, and have it looked at.",
    )  # fmt: skip


def _failure(ridden: Ridden, line: FailureLine) -> Line:
    ways = [f"{answer.name} ({answer.minutes:.0f} min)" for answer in line.answers]
    shops = [] if ways else [help_.stop.name for help_ in helps_at(ridden, line.failure, 0.0)[:1]]
    return Line(text=line.failure.name, note=listed([*ways, *shops], 4) or "nothing aboard answers it")


def _bolts(ridden: Ridden) -> Sheet:
    lines = tuple(
        Line(
            figure=f"{cover.bolt.torque[0]:g}–{cover.bolt.torque[1]:g} N·m" if cover.bolt.torque[1] else "by feel",
            text=f"{cover.bolt.part}: {TOOLS[cover.bolt.tool]}",
            note=cover.said,
        )
        for cover in sorted(bolts_on(ridden), key=lambda cover: cover.bolt.part)
    )
    return Sheet(key="bolts", title="Bolts", parts=(SheetPart(title="Size and torque", lines=lines),),
                 caution="Usual torques; the figure on the part comes first.")  # fmt: skip


def emergency_sheet(said: Mapping[str, str]) -> Sheet:
    """Return the emergency page: the rider's own words, printed only when asked for."""
    own = tuple(Line(figure=title, text=said[key]) for key, title in EMERGENCY.items() if said.get(key))
    return Sheet(
        key="emergency", title="Emergency",
        parts=(SheetPart(title="Who this is", lines=own),),
        caution="In danger call 112, or the number of the country you are in. Say where: km, nearest place, position.",
    )  # fmt: skip
