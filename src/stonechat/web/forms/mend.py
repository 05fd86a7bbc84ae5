"""The forms of Mend: what the rider knows better of a failure, own failures, age of parts, bolts."""

import re
from collections.abc import Mapping
from typing import Any

from pydantic import field_validator

from stonechat.core.kit.bolts import TOOLS, Bolt
from stonechat.core.kit.lexicon.recognise import recognise
from stonechat.core.mend.failures import GROUNDS, PARTS, SHOPS, STOCK, Answer, Failure
from stonechat.core.mend.rule import AGES, PADS, SKILLS, MendRule, Told
from stonechat.formats.numbers import parse_number
from stonechat.web.forms.binding import Form, choice, figure, text

_MOST_ANSWERS, _MOST_MINUTES = 6, 4320.0  # 1, min
_USUAL_HOLD = 0.8  # 1, of an answer of which nothing is said (estimate)


class ToldForm(Form):
    """What the rider knows better of a failure; empty: as the table says."""

    rate: float | None = figure("How often", limit="mend_rate", optional=True)
    minutes: float | None = figure("Loses, unanswered", unit="min", limit="mend_minutes", optional=True)
    ends: float | None = figure("Ends the ride then", unit="%", limit="share", factor=100.0, optional=True)
    speed: float | None = figure("You get on at", unit="km/h", limit="mend_speed", optional=True)

    def told(self) -> Told:
        """Return what the rider knows better."""
        ends = None if self.ends is None else self.ends / 100.0
        return Told(rate=self.rate, minutes=self.minutes, ends=ends, speed=self.speed)


class HabitForm(Form):
    """How the rider mends."""

    skill: str = choice("You mend", SKILLS, help="what wants practice takes longer, and holds less often, without it")
    accepted: float = figure(
        "Without an answer you accept", unit="%", limit="mend_limit", factor=100.0, help="chance of one failure"
    )


class OwnForm(Form):
    """A failure of the rider's own."""

    name: str = text("What fails", least=1, most=60, help="say the thing, as “zip of the frame bag”")
    part: str = choice("It is of", PARTS)
    rate: float = figure("How often", limit="mend_rate")
    ground: str = choice("counted", GROUNDS)
    minutes: float = figure("Loses, unanswered", unit="min", limit="mend_minutes")
    ends: float = figure("Ends the ride then", unit="%", limit="share", factor=100.0)
    speed: float = figure("You get on at", unit="km/h", limit="mend_speed")
    shop: str = choice("Who has it", SHOPS, optional="")
    answers: str = text(
        "Answered by", most=600,
        help="first, second, last, with “;” between: “cable ties and knife, 12 min, 80 %; tape, 5 min”",
    )  # fmt: skip

    @field_validator("answers")
    @classmethod
    def _read(cls, value: str) -> str:
        answers_in(value)
        return value

    def failure(self, key: str) -> Failure:
        """Return the failure."""
        fails = recognise(self.name).kind
        return Failure(
            key=key,
            name=self.name,
            part=self.part,
            rate=self.rate,
            ground=self.ground,
            speed=self.speed,
            minutes=self.minutes,
            ends=self.ends / 100.0,
            shop=self.shop,
            band=2.0,
            answers=answers_in(self.answers),
            fails=fails.key if fails else "",
        )


def answers_in(words: str) -> tuple[Answer, ...]:
    """Return answers that were typed: things, minutes, how often it holds; one after the other.

    >>> [(a.name, a.minutes, a.holds, a.pool) for a in answers_in("cable ties and knife, 12 min, 75 %; tape, 5")]
    [('cable ties and knife', 12.0, 0.75, 'tie'), ('tape', 5.0, 0.8, 'tie')]
    """
    parts = [part.strip() for part in re.split(r"[;\n]", words) if part.strip()]
    if len(parts) > _MOST_ANSWERS:
        raise ValueError(f"{len(parts)} answers are more than {_MOST_ANSWERS}. Keep the first ones and the last.")
    return tuple(_answer(part) for part in parts)


def _answer(part: str) -> Answer:
    name, *figures = (word.strip() for word in re.split(r",\s", part))
    minutes, holds = 10.0, _USUAL_HOLD
    for word in figures:
        value = parse_number(re.sub(r"\s*(min|minutes|%)$", "", word))
        if word.endswith("%"):
            holds = value / 100.0
        else:
            minutes = value
    if not 0.0 < holds <= 1.0 or not 0.0 <= minutes <= _MOST_MINUTES:
        raise ValueError(f"“{part[:40]}”: it takes 0 to {_MOST_MINUTES:.0f} min, and holds in 1 to 100 % of cases.")
    needs = tuple(_thing(word) for word in re.split(r"\s+(?:and|with|\+|&)\s+", name))
    pool = next((pool for one in needs for pool, kind, _ in STOCK if kind in one), "")
    return Answer(name=name[:80], needs=needs, pool=pool, minutes=minutes, holds=holds, slower=0.0)


def _thing(word: str) -> frozenset[str]:
    kinds = [recognise(one).kind for one in re.split(r"\s+or\s+", word)]
    if None in kinds:
        raise ValueError(
            f"“{word[:40]}” is no thing that is known. Write what is in your kit, as “cable ties” or “spare strap”."
        )
    return frozenset(kind.key for kind in kinds if kind is not None)


def told_values(told: Told | None) -> dict[str, Any]:
    """Return what the form shows of what is known better."""
    if told is None:
        return {}
    ends = None if told.ends is None else round(100.0 * told.ends, 1)
    known = {"rate": told.rate, "minutes": told.minutes, "ends": ends, "speed": told.speed}
    return {name: value for name, value in known.items() if value is not None}


def own_values(failure: Failure | None) -> dict[str, Any]:
    """Return what the form shows of an own failure, or of a new one."""
    if failure is None:
        return {"part": "bags", "ground": "even", "speed": 12.0, "ends": 0.0}
    answers = "; ".join(f"{one.name}, {one.minutes:g} min, {100.0 * one.holds:g} %" for one in failure.answers)
    return {
        "name": failure.name, "part": failure.part, "rate": failure.rate, "ground": failure.ground,
        "minutes": failure.minutes, "ends": round(100.0 * failure.ends, 1), "speed": failure.speed,
        "shop": failure.shop, "answers": answers,
    }  # fmt: skip


class AgesForm(Form):
    """How old parts are at the start; empty: not said, taken as new."""

    chain: float | None = figure("Chain ridden", unit="km", limit="part_age", optional=True)
    front_tyre: float | None = figure("Front tyre ridden", unit="km", limit="part_age", optional=True)
    rear_tyre: float | None = figure("Rear tyre ridden", unit="km", limit="part_age", optional=True)
    pads: str = choice("Brake pads", PADS, optional="")
    front_pads: float | None = figure(
        "Front pads, lining left", unit="mm", limit="lining", optional=True, help="new 1.5 mm may wear"
    )
    rear_pads: float | None = figure("Rear pads, lining left", unit="mm", limit="lining", optional=True)
    sealant: float | None = figure("Sealant in for", unit="days", limit="part_age", optional=True)
    cleats: float | None = figure("Cleats ridden", unit="km", limit="part_age", optional=True)
    cables: float | None = figure("Gear cable ridden", unit="km", limit="part_age", optional=True)
    gear_battery: float | None = figure("Gear battery charged to", unit="%", limit="share", factor=100.0, optional=True)

    def ages(self) -> dict[str, float]:
        """Return the ages that were given."""
        return {key: value for key in AGES if (value := getattr(self, key)) is not None}


def age_values(rule: MendRule) -> dict[str, Any]:
    """Return what the form shows of the age of parts."""
    return {**rule.ages, "pads": rule.pads}


class BoltForm(Form):
    """A bolt."""

    part: str = text("Bolt", least=1, most=60, help="as in the table, or one more")
    tool: str = choice("Wants", TOOLS)
    least: float = figure("Torque from", unit="N·m", limit="torque")
    most: float = figure("to", unit="N·m", limit="torque", help="what stands on the part; 0: by feel")
    count: int = figure("How many", limit="bolts", help="0: not on this bike")
    reach: float = figure("Sits in", unit="mm", limit="tool_reach", help="what a tool must be long")

    @field_validator("most")
    @classmethod
    def _above(cls, value: float, info: Any) -> float:
        least = info.data.get("least")
        if least is not None and value < least:
            raise ValueError(f"{value:g} N·m is less than {least:g} N·m. Raise it, or lower that.")
        return value

    def bolt(self) -> Bolt:
        """Return the bolt."""
        torque = (self.least, self.most)
        return Bolt(part=self.part, tool=self.tool, torque=torque, count=self.count, reach=self.reach)


def bolt_values(bolt: Bolt | None) -> Mapping[str, Any]:
    """Return what the form shows of a bolt, or of a new one."""
    if bolt is None:
        return {"tool": "hex4", "least": 0.0, "most": 0.0, "count": 1, "reach": 20.0}
    low, high = bolt.torque
    return {
        "part": bolt.part, "tool": bolt.tool, "least": low, "most": high, "count": bolt.count, "reach": bolt.reach,
    }  # fmt: skip
