"""A check that the loaded bike was ridden before it is raced, and that what it showed is mended."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.diary.shakedown import LEAST_KM, TROUBLES
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.profile import loose_share
from stonechat.core.numerics.findings import Finding, State
from stonechat.text import listed

_TASK = "loaded"  # of the countdown
_ROUGH = 0.05  # 1, share of loose ground from which a loaded ride wants some of it


def ridden_loaded(ridden: Ridden) -> Iterator[Finding]:
    """Whether this load was ridden, on such ground, and its findings are ticked off."""
    if not any("items" in carrier.takes for carrier in ridden.rig.carriers) or not ridden.kit.items:
        return
    shakedown = ridden.said.shakedown
    rough = loose_share(ridden.way.profile) >= _ROUGH
    done = _TASK in ridden.said.ticked or (shakedown.was_ridden and (not rough or shakedown.rough_km > 0.0))
    left = shakedown.left
    if left:
        names = listed([TROUBLES[one.trouble] for one in left], 4)
        words = f"Of the loaded ride this is still open: {names}. Mend it, and tick it off in the Diary."
    elif done:
        words = "The loaded ride showed nothing that is still open."
    elif shakedown.was_ridden:
        words = "The loaded ride had no rough ground, and this course has: ride some, then say so in the Diary."
    else:
        ground = ", some of it rough," if rough else ""
        words = f"This load was never ridden. Ride {LEAST_KM:.0f} km with it{ground} then say so in the Diary."
    yield Finding(
        code="shaken",
        state=State.FINE if done and not left else State.TIGHT,
        title="Ridden loaded",
        sentence=words,
        margin=1.0 if done and not left else 0.0,
        unit="ride",
        room="diary",
    )


CHECKS = (
    Check(
        code="shaken",
        title="Ridden loaded",
        reason="What rattles is found on a lane at home, not at km 300.",
        run=ridden_loaded,
    ),
)
