"""The checks of the first rooms, in order of severity. How to add one: docs/builders/how-to/add-a-check.md."""

from stonechat.core.checks import (
    aboard,
    asleep,
    balance,
    charge,
    course,
    dressed,
    hours,
    known,
    light,
    mend,
    rig,
    room,
    rules,
    shaken,
    spots,
    supply,
    together,
)
from stonechat.core.checks.check import Check

BASE: tuple[Check, ...] = (
    *supply.CHECKS,
    *aboard.CHECKS,
    *asleep.CHECKS,
    *dressed.CHECKS,
    *light.CHECKS,
    *charge.CHECKS,
    *mend.CHECKS,
    *rules.CHECKS,
    *room.CHECKS,
    *rig.CHECKS,
    *spots.CHECKS,
    *together.CHECKS,
    *balance.CHECKS,
    *hours.CHECKS,
    *course.CHECKS,
    *shaken.CHECKS,
    *known.CHECKS,
)
