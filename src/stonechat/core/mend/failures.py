"""Failures, and what answers each, as data: rates, severities and minutes are estimates in the tables beside."""

import csv
from dataclasses import dataclass
from importlib import resources

GROUNDS = {  # how a rate is counted
    "tyre": "share of the punctures of this ground",
    "rough": "per 1,000 km, more on rough ground",
    "even": "per 1,000 km",
    "wet": "per 1,000 km, most of it in the wet",
    "pushing": "per 1,000 km, most of it on foot",
    "nights": "per night out",
    "days": "per day",
    "dark": "per 10 h in the dark",
}
NEEDS = {
    "tubeless": "tubeless tyres", "tubes": "inner tubes", "mechanical": "gears by cable",
    "electronic": "electronic gears", "dropper": "a dropper post", "aero": "aero bars",
    "fork": "a suspension fork", "rear": "rear suspension", "bags": "bags", "bladder": "a bladder",
    "mat": "a mat that is blown up", "tent": "a tent",
    "sleeping_bag": "a sleeping bag", "dynamo": "a hub that charges",
}  # fmt: skip
PARTS = {
    "tyres": "tyres", "wheels": "wheels", "drivetrain": "drivetrain", "brakes": "brakes", "shoes": "shoes and cleats",
    "seat": "saddle and post", "front": "bars, stem and fork", "frame": "frame and shock", "bags": "bags and bottles",
    "kit": "kit", "rider": "rider",
}  # fmt: skip
SHOPS = {"": "none has it", "bike_shop": "a bike shop", "shop": "any shop"}
ALWAYS = "thumbs"  # what everybody has along
COLD, HOT = 2.0, 28.0  # °C below and above which rates change (estimates)


@dataclass(frozen=True, kw_only=True)
class Answer:
    """One way to mend a failure."""

    name: str
    needs: tuple[frozenset[str], ...]  # kinds or jobs: one of each set
    pool: str  # what it uses up, key of stock.csv; empty: nothing
    minutes: float  # min, in the wet at night
    holds: float  # 1, chance that it holds to the finish
    slower: float  # min lost afterwards, riding on so
    skill: int = 0  # 0 anybody, 1 whoever has done it before, 2 a mechanic


@dataclass(frozen=True, kw_only=True)
class Failure:
    """What can fail."""

    key: str
    name: str
    part: str  # key of PARTS
    rate: float  # in the unit of its ground
    ground: str  # key of GROUNDS
    wet: float = 1.0  # 1, factor on a day of rain
    cold: float = 1.0  # 1, factor below COLD
    heat: float = 1.0  # 1, factor above HOT
    mud: float = 1.0  # 1, factor on soft ground in the wet
    needs: str = ""  # key of NEEDS; empty: every bike
    speed: float  # km/h at which one gets on to help, unmended
    minutes: float  # min lost where nothing answers it and no shop is reached
    ends: float  # 1, chance that it ends the ride then
    shop: str  # offer of a stop that answers it; empty: none does
    band: float  # 1, by which its rate may be off, either way
    answers: tuple[Answer, ...]
    fails: str = ""  # kind of the thing that fails, where it is one of the kit


def _rows(name: str) -> list[dict[str, str]]:
    return list(csv.DictReader((resources.files(__package__) / name).read_text().splitlines()))


def _needs(words: str) -> tuple[frozenset[str], ...]:
    return tuple(frozenset(one.strip() for one in part.split("|")) for part in words.split("&") if part.strip())


def _failures() -> dict[str, Failure]:
    answers: dict[str, list[Answer]] = {}
    for row in _rows("answers.csv"):
        answers.setdefault(row["failure"], []).append(
            Answer(
                name=row["name"],
                needs=_needs(row["needs"]),
                pool=row["uses"],
                minutes=float(row["minutes"]),
                holds=float(row["holds"]),
                slower=float(row["slower"]),
                skill=int(row["skill"]),
            )
        )
    return {
        row["key"]: Failure(
            key=row["key"],
            name=row["name"],
            part=row["part"],
            rate=float(row["rate"]),
            ground=row["ground"],
            wet=float(row["wet"]),
            cold=float(row["cold"]),
            heat=float(row["heat"]),
            mud=float(row["mud"]),
            needs=row["needs"],
            speed=float(row["speed"]),
            minutes=float(row["minutes"]),
            ends=float(row["ends"]),
            shop=row["shop"],
            band=float(row["band"]),
            answers=tuple(answers.get(row["key"], ())),
        )
        for row in _rows("failures.csv")
    }


FAILURES: dict[str, Failure] = _failures()
STOCK: tuple[tuple[str, str, float], ...] = tuple(
    (row["pool"], row["kind"], float(row["each"])) for row in _rows("stock.csv")
)  # pool, kind, how many mends one of it is good for
