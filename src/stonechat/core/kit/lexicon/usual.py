"""A thing as usual for its kind: figures and needs where nobody has said otherwise."""

import re
from dataclasses import dataclass

from stonechat.core.kit.item import CATEGORIES, USUAL, Carried, Reaches
from stonechat.core.kit.jobs import JOBS
from stonechat.core.kit.lexicon.kinds import KINDS, Kind
from stonechat.core.kit.lexicon.recognise import recognise

_SPARE = re.compile(r"\b(spare|second|2nd|extra|backup|back-up|clean|change|fresh)\b|#\s?2", re.IGNORECASE)
_BULK_BAND = (0.4, 2.5)  # 1, how far a mass may carry the volume of a kind with it (estimate)
LARGEST = 0.03  # m³ of a packed thing that is guessed


@dataclass(frozen=True, kw_only=True)
class UsualThing:
    """What is usual of a thing by its name, kind and mass."""

    kind: str  # key of KINDS; empty: not known
    category: str
    worn: bool
    fixed: str
    stowed: bool
    volume: float  # m³
    length: float  # m
    access: str
    reaches: Reaches
    keep_dry: bool
    fragile: bool
    leaks: bool
    spoils: bool
    holds: bool
    makes_dry: bool
    never_cut: bool
    jobs: frozenset[str]
    tools: frozenset[str]


def usual_thing(
    name: str,
    *,
    mass: float,
    quantity: int = 1,
    kind: str | None = None,
    category: str = "",
    worn: bool | None = None,
) -> UsualThing:
    """Return what is usual of a thing.

    Parameters
    ----------
    name : str
        As the rider calls it.
    mass : float
        Of one. [kg]
    quantity : int
        How many; several worn things are not all worn at once. [1]
    kind : str, optional
        Key of KINDS where it was said; empty where it was said to be none of them.
    category : str
        Where nothing else is known of it, key of CATEGORIES.
    worn : bool, optional
        Whether it is worn, where that was said.

    Returns
    -------
    usual : UsualThing
        Of its kind where that is known, else of its category.

    Examples
    --------
    >>> usual_thing("Helmet", mass=0.28).worn, usual_thing("spare bib shorts", mass=0.2).worn
    (True, False)
    >>> usual_thing("Regenjacke", mass=0.2).kind
    ''
    """
    told = recognise(name)
    known = told.kind if kind is None else KINDS.get(kind)
    if known is None:
        return _of_category(category or "other", mass)
    is_wearable = known.carried is Carried.WORN
    if worn is None:
        worn = is_wearable and quantity == 1 and _SPARE.search(name) is None
    spare = is_wearable and not worn
    by_name = told if told.kind is known else None
    jobs = _jobs(known, by_name.jobs if by_name else frozenset(), worn=worn, spare=spare)
    return UsualThing(
        kind=known.key,
        category=known.category,
        worn=worn,
        fixed=known.spot,
        stowed=known.carried is Carried.PACKED and bool(known.spot),
        volume=_volume(known, mass),
        length=known.length,
        access="camp" if spare else known.access,
        reaches=Reaches(per_day=0.3) if spare else known.reaches,
        keep_dry="dry" in known.marks and not worn,
        fragile="fragile" in known.marks,
        leaks="leaks" in known.marks,
        spoils="spoils" in known.marks and not worn,
        holds="holds" in known.marks or "makes_dry" in known.marks,
        makes_dry="makes_dry" in known.marks,
        never_cut=known.never_cut or any(JOBS[key].never_cut for key in jobs),
        jobs=jobs,
        tools=known.tools | (by_name.tools if by_name else frozenset()),
    )


def _jobs(known: Kind, named: frozenset[str], *, worn: bool, spare: bool) -> frozenset[str]:
    """Return the jobs of a thing of a kind, with those that its name tells."""
    if spare and "spoils" in known.marks:  # clothes, not helmets or glasses
        return frozenset({"change"})
    # what is on the body is not also dry in a bag
    return (known.jobs | named) - ({"change"} if worn else set())


def _volume(kind: Kind, mass: float) -> float:
    """Return the packed volume of one: usual for the kind, larger as it is heavier; by category where worn. [m³]"""
    if kind.volume.usual == 0.0:
        return min(mass * CATEGORIES[kind.category][1] / 1e3, LARGEST)
    low, high = _BULK_BAND
    return kind.volume.usual * min(max(mass / kind.mass.usual, low), high)


def _of_category(category: str, mass: float) -> UsualThing:
    access, per_day = USUAL[category]  # whether rain or a leak harms it is not known
    return UsualThing(
        kind="",
        category=category,
        worn=False,
        fixed="",
        stowed=False,
        volume=min(mass * CATEGORIES[category][1] / 1e3, LARGEST),
        length=0.0,
        access=access,
        reaches=Reaches(per_day=per_day),
        keep_dry=False,
        fragile=False,
        leaks=False,
        spoils=False,
        holds=False,
        makes_dry=False,
        never_cut=False,
        jobs=frozenset(),
        tools=frozenset(),
    )
