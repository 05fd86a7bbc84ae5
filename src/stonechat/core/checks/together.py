"""Checks of how things ride together: padding, first answers, what may be lost, frost, what comes off as one."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.kit.item import Item
from stonechat.core.ledger.state import Ridden
from stonechat.core.load.order import camp_order_kept
from stonechat.core.load.rules import (
    BACK_MOST,
    BAGS_FOR_CAMP,
    COLD_SHY,
    FREE_LEAST,
    FREEZES_BELOW,
    HARD,
    HEAVY,
    INDOORS,
    LOW_PLACES,
    LOW_SHARE,
    QUICK_TO_OPEN,
    SOFT,
    SPARES,
    STRANDS,
)
from stonechat.core.numerics.findings import Finding, state_of
from stonechat.core.rig.carrier import TURNING, WORN, Carrier


def _riding(ridden: Ridden) -> Iterator[tuple[Item, Carrier]]:
    """Yield each thing that is not worn with the carrier it rides in."""
    by_id = {carrier.id: carrier for carrier in ridden.carriers}
    for item in ridden.items:
        carrier = by_id.get(ridden.places.get(item.id, ""))
        if carrier is not None and not item.worn:
            yield item, carrier


def fragile_padded(ridden: Ridden) -> Iterator[Finding]:
    """Fragile things beside hard ones with nothing soft around them."""
    together: dict[str, list[Item]] = {}
    for item, carrier in _riding(ridden):
        together.setdefault(carrier.id, []).append(item)
    pouches = {item.id for item in ridden.items if item.holds}
    for item, carrier in _riding(ridden):
        beside = [other for other in together[carrier.id] if other.id != item.id]
        hard = next((o for o in beside if o.category in HARD and not o.fragile), None)
        soft = item.container in pouches or any(o.category in SOFT for o in beside)
        if item.fragile and hard is not None and not soft:
            yield Finding(
                code="fragile",
                state="tight",
                title=f"{item.name} beside {hard.name}",
                sentence=f"Both ride in {carrier.name}, nothing soft between them. Wrap it in clothes, or part them.",
                margin=-1.0,
                unit="thing",
                subject=item.id,
            )


def _own_order(ridden: Ridden, carrier_id: str) -> list[Item]:
    """Return what the rider has put in an order of their own in a carrier, from its mouth inwards."""
    by_id = {item.id: item for item in ridden.items if ridden.places.get(item.id) == carrier_id}
    return [by_id[key] for key in ridden.orders.get(carrier_id, ()) if key in by_id]


def puncture_answer(ridden: Ridden) -> Iterator[Finding]:
    """Whether the first answer to a puncture is quick to get at, and not under the tools."""
    answers = [(item, carrier) for item, carrier in _riding(ridden) if "plug" in item.roles]
    if not answers:
        return
    item, carrier = min(answers, key=lambda pair: pair[1].open_time)
    margin = QUICK_TO_OPEN - carrier.open_time
    order = _own_order(ridden, carrier.id)
    above = [other for other in order[: order.index(item)] if other.category == "tools"] if item in order else []
    if margin >= 0.0 and above:
        yield Finding(
            code="puncture",
            state="tight",
            title="First puncture answer under the tools",
            sentence=f"{item.name} lies under {above[0].name} in {carrier.name}. Put it at the mouth.",
            margin=-float(len(above)),
            unit="things",
            subject=item.id,
        )
        return
    yield Finding(
        code="puncture",
        state="fine" if margin >= 0.0 else "tight",
        title="First puncture answer",
        sentence=f"{item.name} in {carrier.name}: {carrier.open_time:.0f} s to open. Air leaks faster than that."
        if margin < 0.0
        else f"{item.name} in {carrier.name} is at hand.",
        margin=margin,
        unit="s",
        subject=item.id,
    )


def heavy_low(ridden: Ridden) -> Iterator[Finding]:
    """Share of heavy tools and power that rides low in the frame."""
    heavy = [(i, c) for i, c in _riding(ridden) if i.category in HARD and i.total_mass >= HEAVY]
    total = sum(item.total_mass for item, _ in heavy)
    if total <= 0.0:
        return
    low = sum(item.total_mass for item, carrier in heavy if carrier.place in LOW_PLACES)
    worst = max((i for i, c in heavy if c.place not in LOW_PLACES), key=lambda i: i.total_mass, default=None)
    yield Finding(
        code="heavy-low",
        state=state_of(low / total - LOW_SHARE + 0.2, 0.2),
        title="Heavy things low",
        sentence=f"{low:.2f} of {total:.2f} kg of heavy tools and power ride low in the frame"
        + (f"; {worst.name} does not." if worst else "."),
        margin=100.0 * (low / total - LOW_SHARE + 0.2),
        unit="%",
        subject=worst.id if worst else "",
    )


def camp_together(ridden: Ridden) -> Iterator[Finding]:
    """Over how many bags the sleeping kit is spread."""
    places = {carrier.name for item, carrier in _riding(ridden) if item.category == "sleep" and item.access == "camp"}
    if len(places) > BAGS_FOR_CAMP:
        yield Finding(
            code="camp",
            state="tight",
            title="Sleeping kit scattered",
            sentence=f"It lies in {len(places)} bags: {', '.join(sorted(places))}. Each is opened in the dark.",
            margin=float(BAGS_FOR_CAMP - len(places)),
            unit="bags",
        )
    for carrier in ridden.carriers:
        if not camp_order_kept(_own_order(ridden, carrier.id)):
            yield Finding(
                code="camp",
                state="tight",
                title=f"Camp order in {carrier.name}",
                sentence="In your order the bed comes out before shelter or mat. Raise what is needed first.",
                margin=-1.0,
                unit="bag",
                subject=carrier.id,
            )


def room_left(ridden: Ridden) -> Iterator[Finding]:
    """The bag with most room left on the fullest leg."""
    free = [
        max((s.carrier.capacity - s.volume for s in load.carriers if "items" in s.carrier.takes), default=0.0) * 1e3
        for load in ridden.film
    ]
    if not free:
        return
    leg = min(range(len(free)), key=free.__getitem__)
    yield Finding(
        code="room-left",
        state=state_of(free[leg] - FREE_LEAST + 0.2, 0.2),
        title="Room left in one bag",
        sentence=f"{free[leg]:.1f} l are free in the roomiest bag leaving {ridden.legs[leg].start_name}; "
        f"{FREE_LEAST:.1f} l take what is bought, found or wet.",
        margin=free[leg] - FREE_LEAST,
        unit="l",
    )


def on_the_back(ridden: Ridden) -> Iterator[Finding]:
    """Load on the back, on the leg with most of it."""
    worn = [c.id for c in ridden.carriers if c.place == "back"]
    if not worn:
        return
    loads = [sum(s.mass + s.carrier.mass for s in load.carriers if s.carrier.id in worn) for load in ridden.film]
    leg = max(range(len(loads)), key=loads.__getitem__)
    yield Finding(
        code="back",
        state=state_of(BACK_MOST - loads[leg], 0.2),
        title="Load on the back",
        sentence=f"{loads[leg]:.1f} kg leaving {ridden.legs[leg].start_name}; more than {BACK_MOST:.1f} kg are felt in "
        "back, neck and seat within a day (estimate).",
        margin=BACK_MOST - loads[leg],
        unit="kg",
    )


def not_lost(ridden: Ridden) -> Iterator[Finding]:
    """What ends a race when it is lost, in a carrier that loses things."""
    for item, carrier in _riding(ridden):
        if carrier.loss != "high":
            continue
        ends = item.roles & STRANDS or item.need == "must"
        yield Finding(
            code="loss",
            state="broken" if ends else "tight",
            title=f"{item.name} may be lost",
            sentence=f"It rides in {carrier.name}, outside and held by {carrier.steadied_by or 'little'}. "
            + (
                "Its loss can end the race: move it inside." if ends else "Give it a second strap, or count it as lost."
            ),
            margin=-1.0,
            unit="thing",
            subject=item.id,
        )


def off_as_one(ridden: Ridden) -> Iterator[Finding]:
    """From how many bags that stay on the bike the things for a stop indoors must be gathered."""
    wanted = {
        key: (item, carrier) for key in INDOORS for item, carrier in _riding(ridden) if key in item.roles
    }  # the last that does the job
    fixed = {carrier.name for _, carrier in wanted.values() if not carrier.quick_off and carrier.place not in WORN}
    names = ", ".join(INDOORS[key] for key in wanted)
    if len(fixed) > 1:
        yield Finding(
            code="indoors",
            state="tight",
            title="For a stop indoors",
            sentence=f"{names} lie in {len(fixed)} bags that stay on the bike: {', '.join(sorted(fixed))}. "
            "One bag that comes off in one grip saves the round at every stop.",
            margin=1.0 - len(fixed),
            unit="bags",
        )


def spares_apart(ridden: Ridden) -> Iterator[Finding]:
    """Spare light and navigation in the same bag as the first ones."""
    for first, spare, words in SPARES:
        firsts = [(i, c) for i, c in _riding(ridden) if first in i.roles]
        spares = [(i, c) for i, c in _riding(ridden) if spare in i.roles and first not in i.roles]
        if not firsts or not spares:
            continue
        bags = {carrier.id for _, carrier in firsts}
        if all(carrier.id in bags for _, carrier in spares):
            yield Finding(
                code="apart",
                state="tight",
                title=f"Spare {words} beside the first",
                sentence=f"{spares[0][0].name} rides in {spares[0][1].name} with {firsts[0][0].name}: "
                "what takes one takes both. Part them.",
                margin=-1.0,
                unit="thing",
                subject=spares[0][0].id,
            )


def frost(ridden: Ridden) -> Iterator[Finding]:
    """Batteries and water treatment out in the cold on a race with frost."""
    low = float(ridden.ride.temps.min())
    if low >= FREEZES_BELOW:
        return
    out = [i for i, c in _riding(ridden) if c.freezes == "open" and i.roles & COLD_SHY]
    if out:
        yield Finding(
            code="frost",
            state="tight",
            title=f"Frost: {out[0].name}",
            sentence=f"Down to {low:.0f} °C, and {', '.join(item.name for item in out[:3])} ride out in the cold. "
            "Batteries lose a fifth and more, filters burst: into the frame or onto the body for the night.",
            margin=low,
            unit="°C",
            subject=out[0].id,
        )


def cables_free(ridden: Ridden) -> Iterator[Finding]:
    """Whether cables and brake levers were tried with full bags on the bars."""
    hung = [carrier for carrier in ridden.carriers if carrier.place in TURNING]
    words = "Full bags pull cables and stop levers: turn the bars from end to end loaded, pull both brakes"
    yield from _tried(ridden, "cables", hung, "Cables and brakes", words)


def straps_taped(ridden: Ridden) -> Iterator[Finding]:
    """Whether the frame is taped where straps rub."""
    held = [carrier for carrier in ridden.carriers if carrier.strapped]
    words = "Straps rub paint and cables through within days: tape where they lie"
    if ridden.bike.frame == "carbon":
        words = f"On carbon, straps and clamps only where the maker allows them. {words}"
    yield from _tried(ridden, "tape", held, "Tape under straps", words)


def _tried(ridden: Ridden, code: str, concerned: list[Carrier], title: str, words: str) -> Iterator[Finding]:
    if not concerned:
        return
    done = code in ridden.ticked
    names = ", ".join(carrier.name for carrier in concerned[:3])
    yield Finding(
        code=code,
        state="fine" if done else "tight",
        title=title,
        sentence=f"Done, by your countdown: {names}." if done else f"{words} ({names}), then tick it in the countdown.",
        margin=1.0 if done else 0.0,
        unit="task",
        room="kit",
    )


CHECKS = (
    Check(
        code="puncture",
        title="First puncture answer at hand",
        reason="A plug within a minute saves the air that a tube would cost half an hour.",
        run=puncture_answer,
    ),
    Check(
        code="loss",
        title="Nothing that ends the race outside",
        reason="What gets lost sits outside, loose or in sight.",
        run=not_lost,
    ),
    Check(code="fragile", title="Fragile things padded", reason="Glass beside tools breaks at the first kerb.",
          run=fragile_padded),
    Check(code="heavy-low", title="Heavy things low in the frame", reason="Weight high or far out steers the rider.",
          run=heavy_low),
    Check(code="camp", title="Sleeping kit together", reason="After three nights a fussy routine is dropped.",
          run=camp_together),
    Check(code="room-left", title="Room left free in one bag", reason="Something is always bought, found or wet.",
          run=room_left),
    Check(code="back", title="Nothing much on the back", reason="What hangs on the back sits in the saddle too.",
          run=on_the_back),
    Check(code="indoors", title="Off as one for a stop indoors", reason="Papers, phone and charger go in together.",
          run=off_as_one),
    Check(code="cables", title="Cables and brakes free", reason="A lever that meets a bag does not brake.",
          run=cables_free),
    Check(code="tape", title="Tape under straps", reason="A strap saws through paint, carbon and cables.",
          run=straps_taped),
    Check(code="apart", title="Spares apart from the first", reason="One lost bag should not take both.",
          run=spares_apart),
    Check(code="frost", title="Frost", reason="Batteries, filter and water fail below freezing.", run=frost),
)  # fmt: skip
