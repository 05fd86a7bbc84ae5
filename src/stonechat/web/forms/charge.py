"""The form of how a rider charges."""

import re
from itertools import pairwise
from typing import Any

from pydantic import field_validator

from stonechat.core.charge.rule import AT_SOCKETS, HUB_INTO, HUB_WHEN, LIGHT, ChargingRule
from stonechat.web.forms.binding import Form, choice, figure, text, tick

_POINT = re.compile(r"(\d+(?:\.\d+)?)\s*(?:km/h)?\s+(\d+(?:\.\d+)?)\s*w?", re.IGNORECASE)
_MOST_WATTS, _MOST_SPEED = 50.0, 100.0  # W, km/h


class RuleForm(Form):
    """The rule of charging."""

    light: str = choice("Front light", LIGHT, help="fast ones bright, steady ones in the middle, slow ones low")
    dim_when_slow: bool = tick("Turn it down on slow climbs and on foot")
    low: float = figure("A device goes on a bank below", unit="%", limit="share", factor=100.0)
    high: float = figure("and comes off it at", unit="%", limit="share", factor=100.0)
    at_rest: bool = tick("Everything goes on the bank wherever you rest for an hour")
    sockets: str = choice("At sockets", AT_SOCKETS)
    hub: str = choice("The hub charges", HUB_INTO, optional="bank")
    hub_when: str = choice("when", HUB_WHEN, optional="always")
    hub_below: float = figure("needed below", unit="%", limit="share", factor=100.0, help="of all that is stored")
    parallel: bool = tick("Lamp and charger share the hub at night; else the lamp has it alone")
    hub_table: str = text(
        "What your hub and charger give", most=300,
        help="km/h and W of your own, as “10 1.3, 20 3.8, 30 5.3”; empty: a usual hub of 6 V and 3 W",
    )  # fmt: skip

    @field_validator("high")
    @classmethod
    def _above(cls, value: float, info: Any) -> float:
        low = info.data.get("low")
        if low is not None and value <= low:
            raise ValueError(f"{value:g} % is not above {low:g} %, below which it goes on. Raise it, or lower that.")
        return value

    @field_validator("hub_table")
    @classmethod
    def _table(cls, value: str) -> str:
        points = hub_points(value)
        if any(after[0] <= before[0] for before, after in pairwise(points)):
            raise ValueError("The speeds do not rise. Write the slowest first, as “10 1.3, 20 3.8”.")
        return value

    def rule(self, before: ChargingRule) -> ChargingRule:
        """Return the rule; legs that were named before stay named."""
        return ChargingRule(
            hub=self.hub,
            hub_when=self.hub_when,
            hub_below=self.hub_below / 100.0,
            hub_on=before.hub_on,
            parallel=self.parallel,
            low=self.low / 100.0,
            high=self.high / 100.0,
            at_rest=self.at_rest,
            sockets=self.sockets,
            light=self.light,
            dim_when_slow=self.dim_when_slow,
            hub_points=hub_points(self.hub_table),
        )


def hub_points(words: str) -> tuple[tuple[float, float], ...]:
    """Return speeds and watts that were typed, in m/s and W.

    >>> hub_points("18 3.4, 36 km/h 5.7 W")
    ((5.0, 3.4), (10.0, 5.7))
    """
    found = []
    for part in (part.strip() for part in re.split(r"[;\n]|,\s", words) if part.strip()):
        match = _POINT.fullmatch(part.replace(",", "."))
        if match is None:
            raise ValueError(f"“{part[:30]}” is no speed with its watts. Write km/h and W, as “20 3.8”.")
        speed, power = float(match[1]), float(match[2])
        if speed > _MOST_SPEED or power > _MOST_WATTS:
            raise ValueError(f"“{part[:30]}” is more than {_MOST_SPEED:g} km/h or {_MOST_WATTS:g} W. Check it.")
        found.append((speed / 3.6, power))
    return tuple(found)


def rule_values(rule: ChargingRule) -> dict[str, Any]:
    """Return what the form shows of a rule."""
    return {
        "light": rule.light,
        "dim_when_slow": rule.dim_when_slow,
        "low": round(rule.low * 100.0, 1),
        "high": round(rule.high * 100.0, 1),
        "at_rest": rule.at_rest,
        "sockets": rule.sockets,
        "hub": rule.hub,
        "hub_when": rule.hub_when,
        "hub_below": round(rule.hub_below * 100.0, 1),
        "parallel": rule.parallel,
        "hub_table": ", ".join(f"{speed * 3.6:g} {power:g}" for speed, power in rule.hub_points),
    }
