"""What a rider says of failures and of mending."""

from typing import Annotated

from pydantic import Field, model_validator

from stonechat.core.kit.bolts import TOOLS, Bolt
from stonechat.core.mend.failures import FAILURES, GROUNDS, NEEDS, PARTS, SHOPS, Answer, Failure
from stonechat.core.mend.rule import AGES, MOST_OFTEN, PADS, SKILLS, MendRule, Told, what_is_wrong
from stonechat.formats.documents.part import Id, Name, OneOf, Part, limit, same_named

_Share = Annotated[float, limit("share")]
_Rate = Annotated[float, Field(ge=0.0, le=MOST_OFTEN)]
_Minutes = Annotated[float, limit("mend_minutes")]
_Speed = Annotated[float, limit("mend_speed")]
_FAILURE = ("key", "name", "part", "rate", "ground", "wet", "cold", "heat", "mud", "needs", "speed", "minutes", "ends",
            "shop", "band", "fails")  # fmt: skip
_ANSWER = ("name", "pool", "minutes", "holds", "slower", "skill")


class ToldDocument(Part):
    """What the rider knows better of one failure: its rate in the unit of its ground, and what it does unmended."""

    rate: _Rate | None = None
    speed_km_per_h: _Speed | None = None
    minutes: _Minutes | None = None
    ends: _Share | None = None


class AnswerDocument(Part):
    """One way to mend a failure; `needs` lists, for each thing that it takes, the kinds and jobs that will do."""

    name: Name
    needs: list[Annotated[list[Name], Field(min_length=1, max_length=20)]] = Field([], max_length=10)
    pool: Annotated[str, Field(max_length=60)] = ""
    minutes: _Minutes
    holds: _Share
    slower: _Minutes = 0.0
    skill: Annotated[int, Field(ge=0, le=2)] = 0

    @classmethod
    def of(cls, answer: Answer) -> "AnswerDocument":
        """Return the document of an answer."""
        return cls(needs=[sorted(one) for one in answer.needs], **same_named(answer, _ANSWER))

    def core(self) -> Answer:
        """Return the answer."""
        return Answer(needs=tuple(frozenset(one) for one in self.needs), **same_named(self, _ANSWER))


class FailureDocument(Part):
    """A failure of the rider's own."""

    key: Id
    name: Name
    part: Annotated[str, OneOf(PARTS, "part of the bike")]
    rate: _Rate
    ground: Annotated[str, OneOf(GROUNDS, "way to count a rate")]
    wet: Annotated[float, limit("mend_factor")] = 1.0
    cold: Annotated[float, limit("mend_factor")] = 1.0
    heat: Annotated[float, limit("mend_factor")] = 1.0
    mud: Annotated[float, limit("mend_factor")] = 1.0
    needs: Annotated[str, OneOf({"": "", **NEEDS}, "thing that a bike has")] = ""
    speed: _Speed = 12.0
    minutes: _Minutes
    ends: _Share
    shop: Annotated[str, OneOf(SHOPS, "kind of shop")] = ""
    band: Annotated[float, Field(ge=1.0, le=10.0)] = 2.0
    fails: Annotated[str, Field(max_length=60)] = ""
    answers: list[AnswerDocument] = Field([], max_length=6)

    @classmethod
    def of(cls, failure: Failure) -> "FailureDocument":
        """Return the document of a failure."""
        return cls(answers=[AnswerDocument.of(answer) for answer in failure.answers], **same_named(failure, _FAILURE))

    @model_validator(mode="after")
    def _makes_sense(self) -> "FailureDocument":
        if self.key in FAILURES:
            raise ValueError(f"{self.key} is a failure that is known already; give the rider's own another key")
        if wrong := what_is_wrong(self.core()):
            raise ValueError(f"{self.name}: {wrong}")
        return self

    def core(self) -> Failure:
        """Return the failure."""
        return Failure(answers=tuple(answer.core() for answer in self.answers), **same_named(self, _FAILURE))


class BoltDocument(Part):
    """A bolt as the rider knows it; a count of 0 says that this bike has none."""

    part: Name
    tool: Annotated[str, OneOf(TOOLS, "size")]
    least_nm: Annotated[float, limit("torque")] = 0.0
    most_nm: Annotated[float, limit("torque")] = 0.0
    count: Annotated[int, Field(ge=0, le=200)] = 1
    reach_mm: Annotated[float, limit("tool_reach")] = 20.0

    @model_validator(mode="after")
    def _ordered(self) -> "BoltDocument":
        if self.most_nm < self.least_nm:
            raise ValueError(f"{self.part}: the most torque is less than the least")
        return self

    @classmethod
    def of(cls, bolt: Bolt) -> "BoltDocument":
        """Return the document of a bolt."""
        low, high = bolt.torque
        return cls(least_nm=low, most_nm=high, reach_mm=bolt.reach, **same_named(bolt, ("part", "tool", "count")))

    def core(self) -> Bolt:
        """Return the bolt."""
        torque = (self.least_nm, self.most_nm)
        return Bolt(torque=torque, reach=self.reach_mm, **same_named(self, ("part", "tool", "count")))


class MendingDocument(Part):
    """What a rider says of failures: skill, what is accepted, own rates and failures, age of parts, bolts.

    `ages` holds what was ridden on a part before the start (km), the lining left (mm), days of sealant, charge (%).
    """

    skill: Annotated[str, OneOf(SKILLS, "level of skill")] = "usual"
    accepted: Annotated[float, limit("mend_limit")] = 0.02
    told: dict[Id, ToldDocument] = Field({}, max_length=200)
    own: list[FailureDocument] = Field([], max_length=60)
    ages: dict[Annotated[str, OneOf(AGES, "part that wears")], Annotated[float, limit("part_age")]] = {}
    pads: Annotated[str, OneOf(PADS, "kind of pads")] = ""
    bolts: list[BoltDocument] = Field([], max_length=200)

    @model_validator(mode="after")
    def _keys_differ(self) -> "MendingDocument":
        keys = [own.key for own in self.own]
        if len(set(keys)) != len(keys):
            raise ValueError("two failures of the rider's own share a key")
        return self

    @classmethod
    def of(cls, rule: MendRule) -> "MendingDocument":
        """Return the document of what a rider says."""
        return cls(
            told={
                key: ToldDocument(speed_km_per_h=told.speed, **same_named(told, ("rate", "minutes", "ends")))
                for key, told in sorted(rule.told.items())
            },
            own=[FailureDocument.of(failure) for failure in rule.own],
            ages=dict(sorted(rule.ages.items())),
            bolts=[BoltDocument.of(bolt) for bolt in rule.bolts],
            **same_named(rule, ("skill", "accepted", "pads")),
        )

    def core(self) -> MendRule:
        """Return what the rider says."""
        return MendRule(
            told={
                key: Told(speed=told.speed_km_per_h, **same_named(told, ("rate", "minutes", "ends")))
                for key, told in self.told.items()
            },
            own=tuple(failure.core() for failure in self.own),
            ages=dict(self.ages),
            bolts=tuple(bolt.core() for bolt in self.bolts),
            **same_named(self, ("skill", "accepted", "pads")),
        )
