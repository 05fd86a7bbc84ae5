"""Checks of the rig by its geometry: tyres at full travel, shock, frame, knees, bosses, lights, hands."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import Finding, State
from stonechat.core.rig.clearance import clearances


def _found(ridden: Ridden, code: str, *kinds: str) -> Iterator[Finding]:
    """Yield what is not fine, or one sentence on the least margin where all is."""
    entries = [entry for entry in clearances(ridden.rig.bike, ridden.rig.carriers) if entry.code in kinds]
    names = {carrier.id: carrier.name for carrier in ridden.rig.carriers}
    wrong = [entry for entry in entries if entry.state != State.FINE]
    least = min(entries, key=lambda entry: entry.margin, default=None)
    for entry in wrong or ([least] if least else []):
        yield Finding(
            code=code,
            state=entry.state,
            title=f"{names[entry.carrier_id]} and {entry.against}",
            sentence=entry.sentence,
            margin=entry.margin * 1000.0,
            unit="mm",
            subject=entry.carrier_id,
            room="rig",
        )


def tyre_clearance(ridden: Ridden) -> Iterator[Finding]:
    """Bags against the tyres at full travel, with the saddle lowered."""
    return _found(ridden, "tyre", "tyre")


def frame_clearance(ridden: Ridden) -> Iterator[Finding]:
    """Bottles and bags against one another and against a moving shock."""
    return _found(ridden, "frame", "frame", "shock")


def body_clearance(ridden: Ridden) -> Iterator[Finding]:
    """Knees, heels and hands."""
    return _found(ridden, "body", "knees", "heels", "hands")


def bosses_bear(ridden: Ridden) -> Iterator[Finding]:
    """Bosses and clamps that are missing, taken twice or overloaded."""
    return _found(ridden, "bosses", "bosses")


def places_free(ridden: Ridden) -> Iterator[Finding]:
    """Carriers that want the place of another one."""
    return _found(ridden, "place", "place")


def lights_free(ridden: Ridden) -> Iterator[Finding]:
    """Lights, reflector and charge port that a bag covers."""
    return _found(ridden, "lights", "lights")


CHECKS = (
    Check(
        code="tyre",
        title="Tyre clearance at full travel",
        reason="What clears at rest can jam the wheel in a hole; nobody sees it coming.",
        run=tyre_clearance,
    ),
    Check(
        code="frame",
        title="Room inside the frame",
        reason="A bottle that cannot be drawn is not drunk, and a moving shock cuts bags.",
        run=frame_clearance,
    ),
    Check(
        code="body",
        title="Knees, heels and hands",
        reason="What the body touches at every turn wears both.",
        run=body_clearance,
    ),
    Check(
        code="bosses",
        title="Bosses and mounts",
        reason="Bolts that are missing, shared or overloaded let go on rough ground.",
        run=bosses_bear,
    ),
    Check(
        code="place",
        title="One carrier in a place",
        reason="Two bags at one place hold as much as one.",
        run=places_free,
    ),
    Check(
        code="lights",
        title="Lights and ports not covered",
        reason="A covered light is no light, and a port under a bag charges nothing.",
        run=lights_free,
    ),
)
