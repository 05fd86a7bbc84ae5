"""Checks of what is aboard: shelter, power, light, repair and a bin, by the jobs that this race asks for."""

from collections.abc import Iterator
from functools import partial

from stonechat.core.checks.check import Check
from stonechat.core.kit.jobs import Coverage
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import Finding, State
from stonechat.text import listed

WARMTH = frozenset({"shelter", "rescue", "warm_top"})
SEEN = frozenset({"seen"})
LIKELY = 0.2  # 1, chance from which the lack of a job that can end the ride is broken, not tight (estimate)


def jobs_done(ridden: Ridden, *, code: str, title: str, jobs: frozenset[str]) -> Iterator[Finding]:
    """Whether every job of a kind that this race asks for is done by something aboard."""
    asked = [entry for entry in ridden.coverage if entry.job.key in jobs and entry.asked is not None]
    missing = [entry for entry in asked if entry.state == "missing"]
    if not asked or not ridden.kit.items:  # an empty kit is one finding, not one for each job
        return
    if not missing:
        twice = [entry.state for entry in asked].count("several")
        yield Finding(
            code=code,
            state=State.FINE,
            title=title,
            sentence=f"All {len(asked)} jobs that this race asks for are done, {twice} of them by more than one thing."
            if len(asked) > 1
            else f"Done by {listed([item.name for item in asked[0].items], 2)}.",
            margin=float(twice),
            unit="jobs",
            room="kit",
        )
        return
    yield _lacking(missing, code=code, title=title)


def _lacking(missing: list[Coverage], *, code: str, title: str) -> Finding:
    """Say what nothing does, and how grave the gravest of it is."""
    worst = max(missing, key=lambda e: (e.job.never_cut, e.job.ends * e.asked.chance if e.asked else 0.0))
    chance = worst.asked.chance if worst.asked else 0.0
    grave = worst.job.never_cut or (worst.job.ends > 0.0 and chance >= LIKELY)
    names = listed((entry.job.name for entry in missing), 4)
    return Finding(
        code=code,
        state=State.BROKEN if grave else State.TIGHT,
        title=f"{title}: {len(missing)} lacking",
        sentence=f"Nothing aboard does this: {names}. {worst.asked.reason if worst.asked else ''}; without it "
        f"{worst.job.fails}. Take something, or say in Kit that you do without.",
        margin=-float(len(missing)) if grave else 0.0,
        unit="jobs",
        room="kit",
    )


CHECKS = tuple(
    Check(code=code, title=title, reason=reason, run=partial(jobs_done, code=code, title=title, jobs=jobs))
    for code, title, reason, jobs in (
        (
            "warmth",
            "Shelter and rescue",
            "A wet night soaks what keeps you warm, and a halt in the cold can end a race.",
            WARMTH,
        ),
        ("seen", "Being seen", "Who is overlooked at dusk has no race.", SEEN),
        ("bin", "A bin for wrappers", "Wrappers need room too, and the race its good name.", frozenset({"bin"})),
    )
)
