"""What a race asks of the kit, which jobs are covered, and what to leave at home first."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from stonechat.core.kit.containers import contents_of
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import BUYING, BY_MARGIN, ENDING, JOBS, Asked, Demands, Job, chance_of, doers
from stonechat.core.ledger.price import price_of
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.profile import loose_share
from stonechat.core.line.race_rules import missing_things
from stonechat.core.load.problem import placement_minutes
from stonechat.core.plan.margin_worth import MarginWorth, margins_of
from stonechat.core.plan.nights import rests_of
from stonechat.core.plan.plan import Variant
from stonechat.core.rig.carrier import Carrier

SHORT_REST = 3600.0  # s, a shorter rest is no night
CLEAR = 0.25  # 1, share of its saving that a cut must gain: worths are estimates, and less is within their blur
UNLIKE = 0.4  # 1, share of the loss that stays where only a thing of another kind does the job (estimate)
RACES = 3  # 1, carried so often, a record says what a thing without a job is worth
FIRST_STEP = 0.5  # kg, the next bit that riders ask about


def demands_of(ridden: Ridden) -> Demands:
    """Return what a race asks of a kit, as it is ridden.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    demands : Demands
        Nights, cold, rain, dark, ground, punctures, stops. [1]
    """
    nights = [rest for rest in rests_of(ridden) if rest.length >= SHORT_REST]
    out = [rest for rest in nights if rest.stop is None or "bed" not in rest.stop.offers]
    offers = [stop.offers for stop in ridden.way.stops]
    return Demands(
        days=ridden.ledger.prices.days,
        km=ridden.way.profile.length / 1e3,
        rough_km=loose_share(ridden.way.profile) * ridden.way.profile.length / 1e3,
        nights=len(nights),
        nights_out=len(out),
        low=float(ridden.ride.temps.min()),
        low_night=min((rest.low for rest in nights), default=float(ridden.ride.temps.min())),
        high=float(ridden.ride.temps.max()),
        wet=ridden.ledger.prices.often.wet,
        dark_hours=float(ridden.ride.times[ridden.ride.dark].sum()) / 3600.0,
        punctures=ridden.way.punctures,
        tubeless=ridden.rig.bike.tubeless,
        doubtful_water=_count(offers, {"doubtful_water"}, without={"water"}),
        shops=_count(offers, {"shop"}),
        bike_shops=_count(offers, {"bike_shop"}),
        electronic=ridden.rig.bike.electronic,
        dynamo=ridden.rig.bike.dynamo,
        indoor_stops=_count(offers, {"meal", "shop"}),
        compulsory=ridden.way.rules.compulsory,
    )


def _count(offers: list[frozenset[str]], wanted: set[str], without: frozenset[str] | set[str] = frozenset()) -> int:
    """Return how many stops offer one of some things, and none of others."""
    return sum(1 for entry in offers if entry & wanted and not entry & without)


def is_protected(item: Item, ridden: Ridden, demands: Demands) -> str:
    """Say why a thing is never offered for leaving at home; empty where it may be.

    Parameters
    ----------
    item : Item
        The thing.
    ridden : Ridden
        For the rules.
    demands : Demands
        For the light that is needed.

    Returns
    -------
    reason : str
        Compulsory, the rider's own must, or a job that is never cut: medicine, needed light, papers, a helmet.
    """
    said = (
        ("compulsory", _is_compulsory(item, ridden)),
        ("you marked it must", item.need == "must"),
        ("another relies on it", item.shared),
        ("you ride in it", item.worn),
    )
    everything = (*ridden.kit.items, *ridden.kit.relied)
    never = (JOBS[key] for key in sorted(item.roles) if JOBS[key].never_cut)
    alone = (job.name for job in never if job.ask(demands) is not None and not _done_by_others(item, job, everything))
    return next((words for words, holds in said if holds), next(alone, ""))


def _is_compulsory(item: Item, ridden: Ridden) -> bool:
    """Tell whether the race's rules would miss a thing that they do not miss now."""
    names = [other.name for other in ridden.kit.items]
    others = [other.name for other in ridden.kit.items if other.id != item.id]
    return bool(set(missing_things(ridden.way.rules, others)) - set(missing_things(ridden.way.rules, names)))


def _done_by_others(item: Item, job: Job, items: tuple[Item, ...]) -> bool:
    return any(job.key in other.roles for other in items if other.id != item.id)


@dataclass(frozen=True, kw_only=True)
class Worth:
    """What a thing is worth on this race, given what else goes along."""

    minutes: float  # min expected to be lost without it, an ended ride priced at ENDING
    ending: float  # 1, chance that its lack ends the ride
    reasons: tuple[str, ...]


def worth_of(
    item: Item,
    items: tuple[Item, ...],
    demands: Demands,
    dropped: frozenset[str] = frozenset(),
    *,
    reaching: float = 0.0,
    margins: Sequence[MarginWorth] = (),
) -> Worth:
    """Return what a thing is worth, given what else goes along.

    Parameters
    ----------
    item : Item
        The thing.
    items : tuple of Item
        All that goes along, this one too.
    demands : Demands
        What the race asks.
    dropped : frozenset of str
        Jobs that the rider does without.
    reaching : float
        What reaching for it costs over the race: nobody reaches for what is not worth the halt, so it is worth that
        at least. [min]
    margins : sequence of MarginWorth, optional
        What is lost to the cold and in the dark in what goes along, in place of the jobs that are judged by margin.

    Returns
    -------
    worth : Worth
        Over the jobs that nothing else does: chance times loss, less what can be bought on this route. A job that
        something else does counts nothing, so no job is counted twice; where only a thing of another kind does it, as
        wipes for soap, `UNLIKE` of it counts. [min]

    Examples
    --------
    >>> a, b = (Item(id=k, name="oil", mass=0.1, volume=0.0, roles=frozenset({"lube"})) for k in "ab")
    >>> worth_of(a, (a,), Demands()).minutes > worth_of(a, (a, b), Demands()).minutes
    True
    """
    minutes, safe, reasons = 0.0, 1.0, []
    for key in sorted(item.roles - dropped - BY_MARGIN):
        job, asked = JOBS[key], JOBS[key].ask(demands)
        if asked is None:
            reasons.append(f"{job.name}: not asked for here")
            continue
        like, unlike = _others(item, job, items)
        if like is not None:
            reasons.append(f"{job.name}: {like.name} does it too")
            continue
        chance = chance_of(item, asked)
        share = 1.0 if unlike is None else UNLIKE
        minutes += share * loss_of(item, key, demands)
        safe *= 1.0 - share * chance * job.ends
        reasons.append(_reason(job, asked, chance, demands) + (f"; {unlike.name} does part of it" if unlike else ""))
    for margin in margins:
        if margin.judges(item):
            lost = margin.worth(item, items)
            minutes += lost.minutes
            safe *= 1.0 - lost.ending
            reasons += margin.words(item, items)
    if not item.roles and item.record.carried:
        reasons.append(f"no job is known; used in {item.record.used} of {item.record.carried} races")
    if reaching > minutes:
        reasons.append("you reach for it, so it is worth those halts")
    return Worth(minutes=max(minutes, reaching), ending=1.0 - safe, reasons=tuple(reasons))


def _others(item: Item, job: Job, items: tuple[Item, ...]) -> tuple[Item | None, Item | None]:
    """Return another thing that stands for one in a job, and one of another kind that does part of it."""
    others = [other for other in doers(job.key, items) if other.id != item.id]
    like = next((other for other in others if not job.alike or (other.kind == item.kind and item.kind)), None)
    return like, next(iter(others), None) if like is None else None


def loss_of(item: Item, key: str, demands: Demands) -> float:
    """Return the minutes expected to be lost where a thing is lacking for one of its jobs, and nothing else does it.

    Parameters
    ----------
    item : Item
        The thing, whose record moves the chance.
    key : str
        The job.
    demands : Demands
        What the race asks.

    Returns
    -------
    minutes : float
        Chance times loss, less what can be bought on this route; 0 where the job is not asked for. [min]

    Examples
    --------
    >>> loss_of(Item(id="t", name="inner tube", mass=0.1, volume=0.0), "tube", Demands()) > 0.0
    True
    """
    job, asked = JOBS[key], JOBS[key].ask(demands)
    if asked is None:
        return 0.0
    return chance_of(item, asked) * BUYING[_bought(job, demands)] * (job.minutes + job.ends * ENDING)


def _bought(job: Job, demands: Demands) -> str:
    """Return where a replacement can be had on this route."""
    sold = {"shop": demands.shops > 0, "bike_shop": demands.bike_shops > 0}
    return job.bought if sold.get(job.bought, False) else ""


def _reason(job: Job, asked: Asked, chance: float, demands: Demands) -> str:
    where = {"shop": "a shop on the way has it", "bike_shop": "a bike shop on the way has it"}
    bought = where.get(_bought(job, demands), "cannot be bought on this route")
    return f"{job.name}: {asked.reason}; {100.0 * chance:.0f} % likely, then {job.fails}; {bought}"


@dataclass(frozen=True, kw_only=True)
class Cut:
    """One step of the cut list."""

    item: Item
    saving: float  # min
    worth: Worth
    mass_total: float  # kg left at home so far, this one included
    minutes_total: float  # min saved so far
    ending_total: float  # 1, chance that something left so far ends the ride

    @property
    def net(self) -> float:
        """What leaving it brings, its worth taken off. [min]"""
        return self.saving - self.worth.minutes

    @property
    def is_clear(self) -> bool:
        """Whether it gains more than the estimates may be off."""
        return self.net > CLEAR * self.saving


@dataclass(frozen=True, kw_only=True)
class CutList:
    """What to leave at home first."""

    cuts: tuple[Cut, ...]  # clear ones first, then most gain first, each given that those before it are left
    kept: tuple[tuple[Item, str], ...]  # never offered, and why
    unjudged: tuple[Item, ...]  # of which nobody knows what they are worth

    def next_step(self, mass: float = FIRST_STEP) -> tuple[Cut, ...]:
        """Return the first clear cuts that together reach a mass, as far as there are any."""
        taken: list[Cut] = []
        for cut in self.cuts:
            if sum(entry.item.total_mass for entry in taken) >= mass:
                break
            if cut.is_clear:
                taken.append(cut)
        return tuple(taken)


def _by_record(item: Item) -> str:
    """Say that a thing proved its worth: it was used in more than half of the races it was carried in."""
    record = item.record
    if record.carried < RACES or 2 * record.used <= record.carried:
        return ""
    return f"used in {record.used} of {record.carried} races"


def _is_last_of_a_job(item: Item, left: tuple[Item, ...], demands: Demands) -> bool:
    """Whether a thing is the last that does a job which is never cut."""
    jobs = [JOBS[key] for key in item.roles]
    return any(job.never_cut and job.ask(demands) and not _done_by_others(item, job, left) for job in jobs)


def _sorted_out(
    ridden: Ridden, demands: Demands, margins: Sequence[MarginWorth]
) -> tuple[list[Item], list[tuple[Item, str]], list[Item]]:
    """Return what may be offered, what is kept with its reason, and what is not judged."""
    holding = set(contents_of(ridden.kit.items))
    offered: list[Item] = []
    kept: list[tuple[Item, str]] = []
    unjudged: list[Item] = []
    for item in ridden.kit.items:
        holds = "it holds other things" if item.id in holding else ""
        reason = is_protected(item, ridden, demands) or holds or _by_record(item)
        if reason:
            kept.append((item, reason))
        elif not item.roles and item.record.carried < RACES and not any(margin.judges(item) for margin in margins):
            unjudged.append(item)
        else:
            offered.append(item)
    return offered, kept, unjudged


def cut_list(ridden: Ridden, variant: Variant) -> CutList:
    """Rank what to leave at home by price against worth.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    variant : Variant
        For jobs that the rider does without.

    Returns
    -------
    cuts : CutList
        One after the other: each is the greatest gain once those before it are left, so that of two things that do
        the same job only the first comes cheap. [min]

    Notes
    -----
    Compulsory things, the rider's own must, medicine and the light that is needed are never offered, nor a pouch
    that still holds something, nor what is ridden in. What does no job that is known, and has no record of three races
    or more, is not judged. Greedy, not proven best; each step is exact.
    """
    demands, margins = ridden.report(Demands), margins_of(ridden)
    left, cuts = [*ridden.kit.items, *ridden.kit.relied], []
    offered, kept, unjudged = _sorted_out(ridden, demands, margins)
    savings = {item.id: price_of(item, ridden).total for item in offered}
    reaching = {item.id: halts_of(item, ridden) for item in offered}
    mass = minutes = 0.0
    safe = 1.0
    while offered:
        worths = {
            item.id: worth_of(item, tuple(left), demands, variant.jobs_off, reaching=reaching[item.id], margins=margins)
            for item in offered
        }
        nets = {item.id: savings[item.id] - worths[item.id].minutes for item in offered}
        best = max(offered, key=lambda item: (nets[item.id] > CLEAR * savings[item.id], nets[item.id]))
        offered.remove(best)
        if _is_last_of_a_job(best, tuple(left), demands):
            kept.append((best, "the last that does a job which is never cut"))
            continue
        left.remove(best)
        mass, minutes = mass + best.total_mass, minutes + savings[best.id]
        safe *= 1.0 - worths[best.id].ending
        cuts.append(
            Cut(
                item=best,
                saving=savings[best.id],
                worth=worths[best.id],
                mass_total=mass,
                minutes_total=minutes,
                ending_total=1.0 - safe,
            )
        )
    return CutList(cuts=tuple(cuts), kept=tuple(kept), unjudged=tuple(unjudged))


def _carrier_of(item: Item, ridden: Ridden) -> Carrier | None:
    return next((c for c in ridden.rig.carriers if c.id == ridden.kit.places.get(item.id)), None)


def halts_of(item: Item, ridden: Ridden) -> float:
    """Return what a rider gives for a thing by reaching for it: its halts as if it were taken out by itself.

    Parameters
    ----------
    item : Item
        The thing.
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    minutes : float
        Over the legs on which it is aboard. [min]
    """
    carrier = _carrier_of(item, ridden)
    if carrier is None:
        return 0.0
    calm = replace(carrier, drag_fill=0.0)
    minutes = placement_minutes(item, calm, ridden.ledger.prices, lined=item.id in ridden.lined)
    return ridden.share_aboard(item.id) * minutes
