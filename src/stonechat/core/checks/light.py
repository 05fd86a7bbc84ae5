"""Checks of light: ahead, behind, and a second one that is found in the dark."""

from collections.abc import Iterator

from stonechat.core.charge.lights import Lights
from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import Finding, State

_SOME_DARK = 0.05  # h of dark that are none
_NIGHT = 2.0  # h in the dark from which a second lamp is asked for (estimate)


def light_ahead(ridden: Ridden) -> Iterator[Finding]:
    """Whether every hour in the dark has a light ahead."""
    lights = ridden.report(Lights)
    dark = lights.dark.total
    if not ridden.kit.items or dark < _SOME_DARK:
        return
    title = "Light ahead"
    if not lights.has_front:
        yield Finding(
            code="light",
            state=State.BROKEN,
            title=f"{title}: none",
            sentence=f"{dark:.1f} h are ridden in the dark and no lamp for the way is in the kit. Take one, or ride by "
            "day only. Law and race rules ask for light whatever the plan says.",
            margin=-dark,
            unit="h",
            room="charge",
        )
        return
    bridged = sum(lamp.hours for lamp in lights.seconds if lamp.is_at_hand)
    if lights.by_hub and lights.front is None and lights.dim > bridged:
        yield Finding(
            code="light",
            state=State.TIGHT,
            title=f"{title}: dim on slow climbs",
            sentence=f"{lights.dim:.1f} h in the dark are too slow for the lamp on the hub, and no lamp with a battery "
            f"lights more than {bridged:.1f} h of them. Take one that is at hand.",
            margin=0.0,
            unit="h",
            room="charge",
        )
        return
    spare = lights.front_hours - lights.front_wanted
    told = lights.front is None or lights.front.is_told
    if lights.unlit > _SOME_DARK:
        yield Finding(
            code="light",
            state=State.BROKEN if told else State.TIGHT,
            title=f"{title}: {lights.unlit:.1f} h lacking",
            sentence=f"{dark:.1f} h are ridden in the dark; {lights.front.name if lights.front else 'the lamp'} is "
            f"flat for {lights.unlit:.1f} of them, charging counted. More in the bank, a dimmer mode, or ride by day."
            + ("" if told else " Its battery is a usual figure: give Wh, mAh or hours."),
            margin=-lights.unlit if told else 0.0,
            unit="h",
            room="charge",
        )
        return
    by = "the lamp on the hub" if lights.by_hub else lights.front.name if lights.front else ""
    own = "" if lights.by_hub else f" Its own battery burns {lights.front_hours:.1f} h so, the rest is charged."
    yield Finding(
        code="light",
        state=State.FINE,
        title=title,
        sentence=f"{dark:.1f} h in the dark, all lit by {by}." + ("" if spare > 0.0 else own),
        margin=lights.front_left if not lights.by_hub else dark,
        unit="h",
        room="charge",
    )


def light_behind(ridden: Ridden) -> Iterator[Finding]:
    """Whether one is seen from behind in every hour of dark and dusk."""
    lights = ridden.report(Lights)
    dark = lights.dark.total
    if not ridden.kit.items or dark < _SOME_DARK:
        return
    title, known = "Light behind", lights.rear_by_hub or lights.rear is not None
    if known and lights.rear_unlit <= _SOME_DARK:
        yield Finding(
            code="rear", state=State.FINE, title=title, sentence=f"Lit for all {dark:.1f} h of dark and dusk.",
            margin=dark if lights.rear_by_hub else lights.rear_left, unit="h", room="charge",
        )  # fmt: skip
        return
    told = lights.rear is None or lights.rear.is_told
    name = "no rear light is in the kit" if lights.rear is None else f"{lights.rear.name} is flat for some of them"
    lacking = lights.rear_unlit if known else dark
    yield Finding(
        code="rear",
        state=State.BROKEN if told else State.TIGHT,
        title=f"{title}: {lacking:.1f} h lacking",
        sentence=f"{dark:.1f} h of dark and dusk are ridden and {name}. Who is not seen from behind is run into. Take "
        "one that burns longer, or charge it at halts.",
        margin=-lacking if told else 0.0,
        unit="h",
        room="charge",
    )


def second_light(ridden: Ridden) -> Iterator[Finding]:
    """Whether a second lamp is aboard and found in the dark."""
    lights = ridden.report(Lights)
    dark = lights.dark.total
    if not ridden.kit.items or dark < _NIGHT or not lights.has_front:
        return
    title, at_hand = "A second light", [lamp for lamp in lights.seconds if lamp.is_at_hand]
    if at_hand:
        best = max(at_hand, key=lambda lamp: lamp.hours)
        yield Finding(
            code="second", state=State.FINE, title=title, margin=best.hours, unit="h", room="charge",
            sentence=f"{best.name} burns some {best.hours:.0f} h and is at hand: {best.where}.",
        )  # fmt: skip
        return
    buried = next(iter(lights.seconds), None)
    where = "" if buried is None else f"{buried.name} lies in {buried.where}: it is not found in the dark. Move it. "
    yield Finding(
        code="second",
        state=State.TIGHT,
        title=f"{title}: {'none' if buried is None else 'buried'}",
        sentence=(where or f"{dark:.1f} h in the dark hang on one lamp. ") + "A lamp that fails at night leaves one to "
        "mend it blind, or to wait for day.",
        margin=0.0,
        unit="h",
        room="charge" if buried is None else "load",
        subject="" if buried is None else buried.id,
    )


CHECKS = (
    Check(
        code="light",
        title="Light ahead",
        reason="A night that is ridden is ridden with light; who has none waits for day.",
        run=light_ahead,
    ),
    Check(code="rear", title="Light behind", reason="Who is not seen from behind is run into.", run=light_behind),
    Check(
        code="second",
        title="A second light",
        reason="A lamp that fails at night is mended by another, if that is found without light.",
        run=second_light,
    ),
)
