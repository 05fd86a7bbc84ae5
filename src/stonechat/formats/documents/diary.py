"""What happened, as a plan keeps it: rides, debrief, shakedown."""

from datetime import date
from itertools import pairwise
from typing import Annotated

from pydantic import AwareDatetime, Field, model_validator

from stonechat.core.diary.debrief import BAG_STATES, FATES, USES, BagVerdict, Debrief, Verdict
from stonechat.core.diary.rides import CAUSES, FIGURES, PURPOSES, Curve, Ride, Told
from stonechat.core.diary.shakedown import MOST_FINDINGS, REMEDIES, TROUBLES, Shakedown, Shaken
from stonechat.core.diary.trail import Trail
from stonechat.core.line.surface import SURFACE_INDEX
from stonechat.formats.documents.part import Id, OneOf, Part, limit, same_named
from stonechat.units import km_from_m, m_from_km

_Words = Annotated[str, Field(max_length=2_000)]
_Sentence = Annotated[str, Field(max_length=400)]
_Figure = Annotated[float, Field(ge=-1e9, le=1e9)]
_MOST_FIXES = 600
_MOST_POINTS = 400


class ToldDocument(Part):
    """A figure that a ride tells, with its 95 % band."""

    value: _Figure
    low: _Figure
    high: _Figure


class CurveDocument(Part):
    """Two lines over one axis."""

    at: list[_Figure] = Field([], max_length=_MOST_POINTS)
    measured: list[_Figure] = Field([], max_length=_MOST_POINTS)
    fitted: list[_Figure] = Field([], max_length=_MOST_POINTS)

    @model_validator(mode="after")
    def _as_long(self) -> "CurveDocument":
        if not len(self.at) == len(self.measured) == len(self.fitted):
            raise ValueError("the lines of a curve are not as long as its axis")
        return self

    @classmethod
    def of(cls, curve: Curve) -> "CurveDocument":
        """Return the document of a curve."""
        return cls(at=list(curve.at), measured=list(curve.measured), fitted=list(curve.fitted))

    def core(self) -> Curve:
        """Return the curve."""
        return Curve(at=tuple(self.at), measured=tuple(self.measured), fitted=tuple(self.fitted))


class TrailDocument(Part):
    """Where one was when: both rise, or stay."""

    elapsed_s: list[_Figure] = Field([], max_length=_MOST_FIXES)
    km: list[Annotated[float, limit("note_km")]] = Field([], max_length=_MOST_FIXES)

    @model_validator(mode="after")
    def _rises(self) -> "TrailDocument":
        if len(self.elapsed_s) != len(self.km):
            raise ValueError("a trail has as many clocks as places")
        for values in (self.elapsed_s, self.km):
            if any(later < earlier for earlier, later in pairwise(values)):
                raise ValueError("the clocks and places of a trail rise")
        return self

    @classmethod
    def of(cls, trail: Trail) -> "TrailDocument":
        """Return the document of a trail."""
        return cls(elapsed_s=list(trail.elapsed), km=[km_from_m(at) for at in trail.distances])

    def core(self) -> Trail:
        """Return the trail."""
        return Trail(elapsed=tuple(self.elapsed_s), distances=tuple(m_from_km(at) for at in self.km))


_RIDE_SAME = ("id", "name", "purpose", "start", "surface", "has_power", "from_speed", "off_course", "pauses")


class RideDocument(Part):
    """A ride that was read in: what it told, not its samples."""

    id: Id
    name: Annotated[str, Field(max_length=80)]
    purpose: Annotated[str, OneOf(PURPOSES, "purpose of a ride")]
    start: AwareDatetime
    length_s: Annotated[float, Field(ge=0.0, le=1e8)]
    moving_s: Annotated[float, Field(ge=0.0, le=1e8)]
    km: Annotated[float, Field(ge=0.0, le=1e6)]
    mass_kg: Annotated[float, Field(ge=20.0, le=400.0)]
    surface: Annotated[str, OneOf((*SURFACE_INDEX, ""), "surface")] = ""
    has_power: bool = False
    from_speed: bool = False
    faults: list[_Sentence] = Field([], max_length=20)
    refusals: list[_Sentence] = Field([], max_length=20)
    figures: dict[Annotated[str, OneOf(FIGURES, "figure")], ToldDocument] = {}
    trail: TrailDocument = TrailDocument()
    off_course: Annotated[float, Field(ge=0.0, le=1.0)] = 0.0
    pauses: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    paused_s: Annotated[float, Field(ge=0.0, le=1e8)] = 0.0
    time_by_s: dict[Annotated[str, OneOf(CAUSES, "cause")], tuple[_Figure, _Figure]] = {}
    hours: CurveDocument = CurveDocument()
    residual: CurveDocument = CurveDocument()

    @classmethod
    def of(cls, ride: Ride) -> "RideDocument":
        """Return the document of a ride."""
        return cls(
            length_s=ride.length,
            moving_s=ride.moving,
            km=km_from_m(ride.distance),
            mass_kg=ride.mass,
            paused_s=ride.paused,
            faults=list(ride.faults),
            refusals=list(ride.refusals),
            figures={
                key: ToldDocument(value=told.value, low=told.low, high=told.high) for key, told in ride.figures.items()
            },
            trail=TrailDocument.of(ride.trail),
            time_by_s=dict(ride.time_by),
            hours=CurveDocument.of(ride.hours),
            residual=CurveDocument.of(ride.residual),
            **same_named(ride, _RIDE_SAME),
        )

    def core(self) -> Ride:
        """Return the ride."""
        return Ride(
            length=self.length_s,
            moving=self.moving_s,
            paused=self.paused_s,
            distance=m_from_km(self.km),
            mass=self.mass_kg,
            faults=tuple(self.faults),
            refusals=tuple(self.refusals),
            figures={key: Told(value=told.value, low=told.low, high=told.high) for key, told in self.figures.items()},
            trail=self.trail.core(),
            time_by=dict(self.time_by_s),
            hours=self.hours.core(),
            residual=self.residual.core(),
            **same_named(self, _RIDE_SAME),
        )


class VerdictDocument(Part):
    """What became of a thing."""

    use: Annotated[str, OneOf(USES, "use")] = ""
    fate: Annotated[str, OneOf(FATES, "fate")] = ""


class BagVerdictDocument(Part):
    """How full a bag was."""

    state: Annotated[str, OneOf(BAG_STATES, "state of a bag")] = ""
    day: Annotated[int, Field(ge=1, le=200)] | None = None


class DebriefDocument(Part):
    """What the rider says of a race."""

    things: dict[Id, VerdictDocument] = Field({}, max_length=2_000)
    bags: dict[Id, BagVerdictDocument] = Field({}, max_length=80)
    wished: list[_Sentence] = Field([], max_length=100)
    worked: _Words = ""
    change: _Words = ""
    counted: list[Id] = Field([], max_length=2_000)

    @classmethod
    def of(cls, debrief: Debrief) -> "DebriefDocument":
        """Return the document of a debrief."""
        return cls(
            things={key: VerdictDocument(use=one.use, fate=one.fate) for key, one in sorted(debrief.things.items())},
            bags={key: BagVerdictDocument(state=one.state, day=one.day) for key, one in sorted(debrief.bags.items())},
            wished=list(debrief.wished),
            counted=sorted(debrief.counted),
            **same_named(debrief, ("worked", "change")),
        )

    def core(self) -> Debrief:
        """Return the debrief."""
        return Debrief(
            things={key: Verdict(use=one.use, fate=one.fate) for key, one in self.things.items()},
            bags={key: BagVerdict(state=one.state, day=one.day) for key, one in self.bags.items()},
            wished=tuple(self.wished),
            counted=frozenset(self.counted),
            **same_named(self, ("worked", "change")),
        )


class ShakenDocument(Part):
    """One finding of a ride with the loaded bike."""

    trouble: Annotated[str, OneOf(TROUBLES, "trouble")]
    about: Annotated[str, Field(max_length=60)] = ""
    words: _Sentence = ""
    remedy: Annotated[str, OneOf((*REMEDIES, ""), "remedy")] = ""
    to: Annotated[str, Field(max_length=60)] = ""
    done: bool = False


class ShakedownDocument(Part):
    """A ride with the loaded bike."""

    day: date | None = None
    km: Annotated[float, limit("note_km")] = 0.0
    rough_km: Annotated[float, limit("note_km")] = 0.0
    findings: list[ShakenDocument] = Field([], max_length=MOST_FINDINGS)

    @classmethod
    def of(cls, shakedown: Shakedown) -> "ShakedownDocument":
        """Return the document of a ride with the loaded bike."""
        findings = [
            ShakenDocument(**same_named(one, ("trouble", "about", "words", "remedy", "to", "done")))
            for one in shakedown.findings
        ]
        return cls(findings=findings, **same_named(shakedown, ("day", "km", "rough_km")))

    def core(self) -> Shakedown:
        """Return the ride with the loaded bike."""
        findings = tuple(
            Shaken(**same_named(one, ("trouble", "about", "words", "remedy", "to", "done"))) for one in self.findings
        )
        return Shakedown(findings=findings, **same_named(self, ("day", "km", "rough_km")))
