"""What the rider knows better of failures: rates, skill, limits, the age of parts, bolts, and failures of their own."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from stonechat.core.kit.bolts import Bolt
from stonechat.core.mend.failures import FAILURES, Answer, Failure

SKILLS = {"learning": "learning it", "usual": "as most riders", "mechanic": "a mechanic's hands"}
_LEVEL = {"learning": 0, "usual": 1, "mechanic": 2}
_SLOWER, _LOOSER, _QUICKER = 1.7, 0.7, 0.8  # 1, of time and hold for each step of skill that lacks; of a mechanic's
MOST_PER_KM = 1.0  # failures a km, more is no rate
MOST_OFTEN = 1000.0 * MOST_PER_KM  # 1, of any rate
# parts whose age is asked for: km ridden, mm of lining left, days of sealant, % of charge
AGES = ("chain", "front_tyre", "rear_tyre", "front_pads", "rear_pads", "sealant", "cleats", "cables", "gear_battery")
PADS = {"": "not said: both are shown", "organic": "organic", "sintered": "sintered"}


@dataclass(frozen=True, kw_only=True)
class Told:
    """What the rider knows better of one failure; None: as the table says."""

    rate: float | None = None  # in the unit of its ground
    speed: float | None = None  # km/h at which one gets on unmended
    minutes: float | None = None  # min lost without answer and shop
    ends: float | None = None  # 1, chance that it ends the ride then


@dataclass(frozen=True, kw_only=True)
class MendRule:
    """What the rider says of failures and of mending."""

    skill: str = "usual"  # key of SKILLS
    accepted: float = 0.02  # 1, chance of a failure without an answer that the rider accepts
    told: Mapping[str, Told] = field(default_factory=dict)  # failure to what the rider knows better of it
    own: tuple[Failure, ...] = ()  # the rider's own failures
    ages: Mapping[str, float] = field(default_factory=dict)  # key of AGES to its figure at the start
    pads: str = ""  # key of PADS
    bolts: tuple[Bolt, ...] = ()  # in place of the usual ones of the same part, or besides; count 0: not on this bike


def failures_of(rule: MendRule) -> dict[str, Failure]:
    """Return all failures as the rider knows them.

    Parameters
    ----------
    rule : MendRule
        Own rates, own failures, skill.

    Returns
    -------
    failures : dict of str to Failure
        By key, the rider's own last. Where skill lacks, a mend takes longer and holds less often.

    Examples
    --------
    >>> known = failures_of(MendRule(told={"chain": Told(rate=0.1)}, skill="learning"))
    >>> known["chain"].rate, round(known["chain"].answers[0].minutes / FAILURES["chain"].answers[0].minutes, 3)
    (0.1, 1.7)
    """
    found = {**FAILURES, **{own.key: own for own in rule.own}}
    level = _LEVEL[rule.skill]
    return {
        key: replace(
            _as_told(failure, rule.told.get(key)), answers=tuple(_by(answer, level) for answer in failure.answers)
        )
        for key, failure in found.items()
    }


def _as_told(failure: Failure, told: Told | None) -> Failure:
    if told is None:
        return failure
    known = {name: value for name in ("rate", "speed", "minutes", "ends") if (value := getattr(told, name)) is not None}
    return replace(failure, **known, band=1.25 if told.rate is not None else failure.band)


def _by(answer: Answer, level: int) -> Answer:
    lacking = answer.skill - level
    if lacking > 0:
        return replace(answer, minutes=answer.minutes * _SLOWER**lacking, holds=answer.holds * _LOOSER**lacking)
    return replace(answer, minutes=answer.minutes * _QUICKER) if level == 2 and answer.skill > 0 else answer


def what_is_wrong(failure: Failure) -> str:
    """Say what is wrong with a failure that a rider wrote; empty: nothing.

    Parameters
    ----------
    failure : Failure
        The rider's own, or one with the rider's own figures.

    Returns
    -------
    sentence : str
        With what to do.

    Examples
    --------
    >>> from dataclasses import replace
    >>> what_is_wrong(replace(FAILURES["chain"], rate=2000.0))[:20]
    'That is 2 times a km'
    >>> what_is_wrong(FAILURES["chain"])
    ''
    """
    per_km = failure.rate / _KM.get(failure.ground, 1.0)
    if failure.ground in _KM and per_km > MOST_PER_KM:
        return f"That is {per_km:.3g} times a km. Write how often in 1,000 km, one failure a km at most."
    if failure.ground == "tyre" and failure.rate > 1.0:
        return f"{failure.rate:g} is more than all punctures. Write the share of them, 1 at most."
    if failure.ground not in _KM and failure.rate > _MOST:
        return f"{failure.rate:g} times is more than {_MOST:g}. Check the figure."
    if failure.minutes <= 0.0 and failure.ends <= 0.0:
        return "It neither loses time nor ends a ride, so nothing depends on it. Say what it loses, or leave it out."
    for answer in failure.answers:
        if failure.fails and any(one <= {failure.fails} for one in answer.needs):
            return (
                f"“{answer.name}” mends it with the very thing that has failed. Name what else does it, or a second "
                "one by another kind."
            )
    return ""


_KM = {"rough": 1000.0, "even": 1000.0, "wet": 1000.0, "pushing": 1000.0}  # km that a rate is for
_MOST = 20.0  # 1, failures per night, day or 10 h in the dark that are believed
