"""What a day spends and takes in: riding, rest and sleep, what the gut takes, the deficit and the glycogen."""

from dataclasses import dataclass

AWAKE = 1.4  # 1, spent awake off the bike against at rest (estimate)
ASLEEP = 0.95  # 1, spent asleep against at rest (estimate)
SEXES = {"": "not said", "f": "female", "m": "male"}
HEIGHT, AGE = 1.74, 38.0  # m, years, where the rider has not said (estimates)
_BY_SEX = {"f": -161.0, "m": 5.0, "": -78.0}  # kcal a day [Mifflin1990]; the mean where it is not said
GLYCOGEN = 1_800.0  # kcal at the start (1,200 to 2,400, estimate)
CARB_SHARE = 0.5  # 1, of what riding spends, from carbohydrate (0.3 to 0.7, estimate)
CARB_FOOD = 0.65  # 1, of the energy of food on the bike, from carbohydrate (estimate)
KCAL_PER_G = 4.0  # of carbohydrate (Regulation (EU) 1169/2011, Annex XIV)
GUT_MOST = 75.0  # g/h of carbohydrate that the gut takes: 60 of one sugar, 90 of several when trained [Jeukendrup2014]
SODIUM_IN_SWEAT = 1.0  # g/l (0.5 to 1.5, estimate)
TISSUE = 7_700.0  # kcal in a kilogram of body tissue [Wishnofsky1958]
DEFICIT_MOST = 0.5  # 1, of what a day spends, from which it is said
EMPTY = 300.0  # kcal of glycogen from which it is said


def resting_metabolism(*, mass: float, height: float | None, age: float | None, sex: str) -> float:
    """Return what a body spends at rest.

    Parameters
    ----------
    mass : float
        Of the rider. [kg]
    height : float or None
        Of the rider; a usual one where it is not known. [m]
    age : float or None
        In years; a usual one where it is not known. [1]
    sex : str
        Key of SEXES; the mean of both where it is not said.

    Returns
    -------
    rate : float
        A day. [kcal]

    References
    ----------
    [Mifflin1990].

    Examples
    --------
    >>> resting_metabolism(mass=75.0, height=1.80, age=35.0, sex="m")
    1705.0
    """
    tall, old = HEIGHT if height is None else height, AGE if age is None else age
    return 10.0 * mass + 625.0 * tall - 5.0 * old + _BY_SEX[sex]


def gut_limit(carbohydrate: float = GUT_MOST) -> float:
    """Return the most energy that can be taken in by the hour while riding, from food as it is usual.

    Parameters
    ----------
    carbohydrate : float
        That the gut takes by the hour. [g/h]

    Returns
    -------
    limit : float
        By the hour. [kcal]

    Examples
    --------
    >>> round(gut_limit())
    462
    """
    return KCAL_PER_G * carbohydrate / CARB_FOOD


@dataclass(frozen=True, kw_only=True)
class Spent:
    """A stretch of a race: hours by what is done, and energy."""

    riding: float  # h
    asleep: float  # h
    awake: float  # h off the bike
    work: float  # kcal spent riding and walking; rest metabolism is within it
    eaten: float  # kcal planned: on the bike and at meals


@dataclass(frozen=True, kw_only=True)
class Balance:
    """What a stretch comes to."""

    spent: float  # kcal
    eaten: float  # kcal
    glycogen: float  # kcal left at its end, never under 0

    @property
    def deficit(self) -> float:
        """Spent beyond what is eaten. [kcal]"""
        return self.spent - self.eaten

    @property
    def share(self) -> float:
        """Deficit of what is spent. [1]"""
        return self.deficit / self.spent if self.spent > 0.0 else 0.0

    @property
    def tissue(self) -> float:
        """Body tissue that goes. [kg]"""
        return max(0.0, self.deficit) / TISSUE


def balances(stretches: tuple[Spent, ...], resting: float) -> tuple[Balance, ...]:
    """Return energy in and out of stretches that follow one another.

    Parameters
    ----------
    stretches : tuple of Spent
        As days.
    resting : float
        Rest metabolism a day. [kcal]

    Returns
    -------
    balances : tuple of Balance
        One for each.

    Notes
    -----
    Off the bike 1.4 times the rest metabolism awake and 0.95 times asleep (estimates). Glycogen takes its share of
    what riding spends and gets the carbohydrate that is eaten, up to what it was at the start.

    Examples
    --------
    >>> day = Spent(riding=15.0, asleep=5.0, awake=4.0, work=8799.8, eaten=6000.0)
    >>> round(balances((day,), 1705.0)[0].spent)
    9535
    """
    found, left = [], GLYCOGEN
    for part in stretches:
        off = resting / 24.0 * (AWAKE * part.awake + ASLEEP * part.asleep)
        left = min(GLYCOGEN, max(0.0, left + CARB_FOOD * part.eaten - CARB_SHARE * part.work))
        found.append(Balance(spent=part.work + off, eaten=part.eaten, glycogen=left))
    return tuple(found)
