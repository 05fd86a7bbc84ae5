"""Every check of a plan, in order of severity. How to add one: docs/builders/how-to/add-a-check.md."""

from stonechat.core.checks import aboard, balance, course, hours, known, rig, room, rules, supply, together
from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import STATES, Finding


def run_checks(ridden: Ridden, switched_off: frozenset[str]) -> tuple[Finding, ...]:
    """Return what the checks find, worst first.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    switched_off : frozenset of str
        Codes of checks that this plan does without.

    Returns
    -------
    findings : tuple of Finding
        Broken, then tight, then fine; within a state in the order of the list.
    """
    found = [finding for entry in all_checks() if entry.code not in switched_off for finding in entry.run(ridden)]
    return tuple(sorted(found, key=lambda finding: STATES.index(finding.state)))


def all_checks() -> tuple[Check, ...]:
    """Return every check there is, in order of severity."""
    return (
        *supply.CHECKS,
        *aboard.CHECKS,
        *rules.CHECKS,
        *room.CHECKS,
        *rig.CHECKS,
        *together.CHECKS,
        *balance.CHECKS,
        *hours.CHECKS,
        *course.CHECKS,
        *known.CHECKS,
    )
