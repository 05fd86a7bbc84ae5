"""What changed between two plans of one rider, and why, as far as the earlier race says."""

from collections.abc import Iterator
from dataclasses import dataclass, fields

from stonechat.core.diary.debrief import Debrief
from stonechat.core.kit.item import HOME, Item
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.rhythm.rider import Rider

_SAME = 1e-3  # kg, m³: masses and volumes that differ by less are the same
_LEAST_WORD = 4  # letters of a word that tells a wish
_TOLD = 0.02  # 1, how near a figure must be to what a ride told to come from it


@dataclass(frozen=True, kw_only=True)
class Difference:
    """One thing that is otherwise now."""

    about: str  # what it is
    kind: str  # thing, place, bag or rider
    was: str
    now: str
    why: str  # what the earlier race says of it, empty where it says nothing


@dataclass(frozen=True, kw_only=True)
class Side:
    """One of the two plans."""

    plan: Plan
    variant: Variant

    @property
    def aboard(self) -> dict[str, Item]:
        """Things that go along, by name in small letters."""
        places = self.variant.places
        return {item.name.strip().lower(): item for item in self.plan.items if places.get(item.id) != HOME}

    def place_of(self, item: Item) -> str:
        """Return where a thing rides, by the name of its carrier."""
        names = {carrier.id: carrier.name for carrier in self.variant.carriers}
        if item.worn:
            return "worn"
        return "on the bike" if item.in_spot else names.get(self.variant.places.get(item.id, ""), "no place")


def differences(before: Side, now: Side) -> tuple[Difference, ...]:
    """Return what is otherwise than in an earlier plan.

    Parameters
    ----------
    before : Side
        The earlier plan, with its debrief and its rides.
    now : Side
        The present one.

    Returns
    -------
    differences : tuple of Difference
        Things come and gone, things that ride elsewhere, bags, figures of the rider. [1]
    """
    return (*_things(before, now), *_moved(before, now), *_bags(before, now), *_rider(before, now))


def _wished(debrief: Debrief, name: str) -> bool:
    words = {word for word in name.lower().split() if len(word) >= _LEAST_WORD}
    return any(words & set(wish.lower().split()) for wish in debrief.wished)


def _fate(debrief: Debrief, item: Item) -> str:
    verdict = debrief.things.get(item.id)
    if verdict is None:
        return ""
    if verdict.fate in ("lost", "broken"):
        return f"{verdict.fate} last time"
    return "not used last time" if verdict.use == "no" else ""


def _things(before: Side, now: Side) -> Iterator[Difference]:
    old, new = before.aboard, now.aboard
    for name in sorted(new.keys() - old.keys()):
        why = "missing last time" if _wished(before.variant.debrief, name) else ""
        yield Difference(about=new[name].name, kind="thing", was="", now=_mass(new[name]), why=why)
    for name in sorted(old.keys() - new.keys()):
        why = _fate(before.variant.debrief, old[name])
        yield Difference(about=old[name].name, kind="thing", was=_mass(old[name]), now="", why=why)
    for name in sorted(old.keys() & new.keys()):
        if abs(old[name].total_mass - new[name].total_mass) > _SAME:
            yield Difference(about=new[name].name, kind="thing", was=_mass(old[name]), now=_mass(new[name]), why="")


def _mass(item: Item) -> str:
    return f"{item.total_mass * 1e3:.0f} g"


def _moved(before: Side, now: Side) -> Iterator[Difference]:
    old, new = before.aboard, now.aboard
    for name in sorted(old.keys() & new.keys()):
        was, there = before.place_of(old[name]), now.place_of(new[name])
        if was != there:
            why = _fate(before.variant.debrief, old[name])
            yield Difference(
                about=new[name].name, kind="place", was=was, now=there, why="" if "not used" in why else why
            )


def _bags(before: Side, now: Side) -> Iterator[Difference]:
    old = {carrier.name: carrier for carrier in before.variant.carriers if carrier.mounted}
    new = {carrier.name: carrier for carrier in now.variant.carriers if carrier.mounted}
    for name in sorted(old.keys() | new.keys()):
        was = f"{old[name].capacity * 1e3:.1f} l" if name in old else ""
        there = f"{new[name].capacity * 1e3:.1f} l" if name in new else ""
        if was == there:
            continue
        verdict = before.variant.debrief.bags.get(old[name].id) if name in old else None
        full = verdict is not None and verdict.state in ("full", "over")
        why = f"full on day {verdict.day}" if verdict and full and verdict.day else "full last time" if full else ""
        yield Difference(about=name, kind="bag", was=was, now=there, why=why)


_SHOWN = {
    "mass": ("mass", 1.0, "kg"), "power": ("sustained power", 1.0, "W"), "endurance": ("endurance", 100.0, "%"),
    "fade_time": ("fades over", 1.0 / 3600.0, "h"), "recovery_time": ("comes back over", 1.0 / 3600.0, "h"),
    "drag_scale": ("own drag", 100.0, "%"), "intake": ("eaten an hour", 1.0, "kcal"),
    "runs_cold": ("runs cold by", 1.0, "K"), "sweat": ("own sweat", 100.0, "%"),
    "handling": ("own time at bags", 100.0, "%"), "punctures": ("own punctures", 100.0, "%"),
}  # fmt: skip


def _rider(before: Side, now: Side) -> Iterator[Difference]:
    old, new = before.variant.rider, now.variant.rider
    for part in fields(Rider):
        if part.name not in _SHOWN or getattr(old, part.name) == getattr(new, part.name):
            continue
        name, factor, unit = _SHOWN[part.name]
        value = float(getattr(new, part.name))
        why = "as rides tell it" if _is_told(before, now, part.name, value) else ""
        was, there = (f"{float(getattr(rider, part.name)) * factor:.4g} {unit}" for rider in (old, new))
        yield Difference(about=name, kind="rider", was=was, now=there, why=why)


def _is_told(before: Side, now: Side, name: str, value: float) -> bool:
    factor = 3600.0 if name in ("fade_time", "recovery_time") else 1.0
    told = (ride.figures.get(name) for side in (before, now) for ride in side.variant.rides)
    return any(one is not None and abs(one.value * factor - value) <= _TOLD * abs(value) for one in told)
