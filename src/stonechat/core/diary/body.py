"""What a body took, by the notes: litres and kilocalories an hour of riding, and punctures by distance."""

import math
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from scipy.special import gammaincinv

from stonechat.core.diary.combine import Estimate
from stonechat.core.diary.notes import Note
from stonechat.core.kit.facts import figure_of

LEAST_HOURS = 8.0  # h of riding that rates stand on
LEAST_NOTES = 4  # of a kind
_TIMES = r"(?:(\d{1,2})\s*[x×*]\s*)?"
_LITRES = re.compile(_TIMES + r"(\d{1,3}(?:[ ,]\d{3})+|\d+(?:[.,]\d+)?)\s*(ml|cl|l|litre|litres|liter|liters)\b", re.I)
_KCAL = re.compile(_TIMES + r"(\d{1,3}(?:[ ,.]\d{3})+|\d+(?:[.,]\d+)?)\s*kcal\b", re.I)
_THOUSANDS = re.compile(r"[ .,](?=\d{3}\b)")
_MOST_LITRES = 20.0  # l of one figure: beyond it the comma stands before decimals
_FACTORS = {"ml": 0.001, "cl": 0.01}
_UNNOTED = 0.25  # 1, how much of what is taken is not noted, or guessed wrong, one sd (estimate)
_SHAPE = 2.8  # 1, of the usual spread of puncture rates among riders and tyres: 1 / 0.6² (estimate)
_HOLES = re.compile(r"\b(puncture|flat tyre|flat tire|pinch|plugged|new tube)\b", re.I)


@dataclass(frozen=True, kw_only=True)
class BodyRates:
    """What notes tell, each with the half width of its 95 % band; None where there are too few."""

    water: Estimate | None  # l/h of riding
    food: Estimate | None  # kcal/h of riding
    punctures: tuple[float, float, float] | None  # per 1,000 km: mean, low, high
    holes: int = 0  # that the notes hold


def litres_in(text: str) -> float:
    """Return the litres that some words speak of, 0 where they speak of none.

    Parameters
    ----------
    text : str
        Of a note.

    Returns
    -------
    litres : float
        Together. [l]

    Examples
    --------
    >>> litres_in("0.75 l and 500 ml of cola"), litres_in("2 x 0,750 l")
    (1.25, 1.5)
    """
    return sum(int(times or 1) * _litres(number, unit) for times, number, unit in _LITRES.findall(text))


def _litres(number: str, unit: str) -> float:
    factor, plain = _FACTORS.get(unit.lower(), 1.0), number.replace(" ", "")
    litres = factor * figure_of(plain)
    return litres if litres <= _MOST_LITRES else factor * float(plain.replace(",", ".", 1).replace(",", ""))


def kcal_in(text: str) -> float:
    """Return the kilocalories that some words speak of, 0 where they speak of none.

    Parameters
    ----------
    text : str
        Of a note.

    Returns
    -------
    energy : float
        Together. [kcal]

    Examples
    --------
    >>> kcal_in("pastry and cola, 1 250 kcal"), kcal_in("2 × 250 kcal"), kcal_in("1,250 kcal")
    (1250.0, 500.0, 1250.0)
    """
    return sum(int(times or 1) * figure_of(_THOUSANDS.sub("", number)) for times, number in _KCAL.findall(text))


def body_rates(notes: Iterable[Note], *, hours: float, distance: float, punctures: float) -> BodyRates:
    """Return what notes of a race tell of a body's needs, and of punctures.

    Parameters
    ----------
    notes : iterable of Note
        Of one race.
    hours : float
        Ridden. [h]
    distance : float
        Ridden. [m]
    punctures : float
        Expected per 1,000 km as planned. [1]

    Returns
    -------
    rates : BodyRates
        Amounts noted in words (“0.7 l”, “450 kcal”) over the hours ridden; punctures by a gamma prior about the plan's.
    """
    kept = list(notes)
    holes = sum(1 for note in kept if note.kind == "broken" and _HOLES.search(note.text))
    thousands = distance / 1e6
    shape, rate = _SHAPE + holes, _SHAPE / max(punctures, 1e-9) + thousands
    low, high = (float(gammaincinv(shape, p)) / rate for p in (0.025, 0.975))
    return BodyRates(
        water=_rate([note for note in kept if note.kind == "drunk"], litres_in, hours),
        food=_rate([note for note in kept if note.kind == "eaten"], kcal_in, hours),
        punctures=(shape / rate, low, high) if thousands > 0.0 else None,
        holes=holes,
    )


def _rate(notes: list[Note], amount: Callable[[str], float], hours: float) -> Estimate | None:
    amounts = [value for note in notes if (value := amount(note.text)) > 0.0]
    if len(amounts) < LEAST_NOTES or hours < LEAST_HOURS:
        return None
    total = sum(amounts)
    # what was taken in so many goes is as unsure as the goes are few, beside what nobody noted
    spread = math.hypot(math.sqrt(sum(value**2 for value in amounts)) / total, _UNNOTED)
    return Estimate(value=total / hours, band=1.96 * spread * total / hours)
