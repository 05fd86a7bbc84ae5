"""The rule by which a variant charges."""

from itertools import pairwise
from typing import Annotated

from pydantic import Field, model_validator

from stonechat.core.charge.rule import AT_SOCKETS, DAY, HUB_INTO, HUB_WHEN, LIGHT, NIGHT, ChargingRule
from stonechat.formats.documents.part import Id, OneOf, Part, same_named

_Share = Annotated[float, Field(ge=0.0, le=1.0)]
_SAME = ("hub", "hub_when", "hub_below", "parallel", "low", "high", "at_rest", "sockets", "light", "dim_when_slow")


class HubPointDocument(Part):
    """What the rider's own hub and charger give at a speed."""

    km_per_h: Annotated[float, Field(ge=0.0, le=100.0)]
    w: Annotated[float, Field(ge=0.0, le=50.0)]


class ChargingDocument(Part):
    """How a rider charges.

    `hub_on` lists legs by the stop (or `start`) that they begin at, each by day or by night, where `hub_when` is
    `legs`. `hub_points` is what the rider's own hub gives.
    """

    hub: Annotated[str, OneOf(HUB_INTO, "thing that a hub feeds")] = "bank"
    hub_when: Annotated[str, OneOf(HUB_WHEN, "time at which a hub charges")] = "always"
    hub_below: _Share = 0.9
    hub_on_by_day: list[Id] = Field([], max_length=400)
    hub_on_by_night: list[Id] = Field([], max_length=400)
    parallel: bool = False
    low: Annotated[float, Field(ge=0.0, le=0.95)] = 0.3
    high: Annotated[float, Field(ge=0.05, le=1.0)] = 0.9
    at_rest: bool = True
    sockets: Annotated[str, OneOf(AT_SOCKETS, "order at sockets")] = "emptiest"
    light: Annotated[str, OneOf(LIGHT, "way to light")] = "need"
    dim_when_slow: bool = True
    hub_points: list[HubPointDocument] = Field([], max_length=40)

    @model_validator(mode="after")
    def _ordered(self) -> "ChargingDocument":
        if self.low >= self.high:
            raise ValueError("a device is put on a bank below a share that is lower than the one it is taken off at")
        speeds = [point.km_per_h for point in self.hub_points]
        if any(b <= a for a, b in pairwise(speeds)):
            raise ValueError("the speeds of the hub's table do not rise")
        return self

    @classmethod
    def of(cls, rule: ChargingRule) -> "ChargingDocument":
        """Return the document of a rule."""
        return cls(
            hub_on_by_day=_stops(rule, DAY),
            hub_on_by_night=_stops(rule, NIGHT),
            hub_points=[HubPointDocument(km_per_h=speed * 3.6, w=power) for speed, power in rule.hub_points],
            **same_named(rule, _SAME),
        )

    def core(self) -> ChargingRule:
        """Return the rule."""
        by_day = {f"{stop} {DAY}" for stop in self.hub_on_by_day}
        by_night = {f"{stop} {NIGHT}" for stop in self.hub_on_by_night}
        return ChargingRule(
            hub_on=frozenset(by_day | by_night),
            hub_points=tuple((point.km_per_h / 3.6, point.w) for point in self.hub_points),
            **same_named(self, _SAME),
        )


def _stops(rule: ChargingRule, when: str) -> list[str]:
    return sorted(key.rsplit(" ", 1)[0] for key in rule.hub_on if key.endswith(f" {when}"))
