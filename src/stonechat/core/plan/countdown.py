"""What to do before the start, by date, from the plan and the rig."""

from dataclasses import dataclass
from datetime import date, timedelta

from stonechat.core.diary.shakedown import REMEDIES, TROUBLES, WORKSHOP
from stonechat.core.kit.item import HOME
from stonechat.core.kit.jobs import Demands
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.remedies import name_of
from stonechat.core.rig.places import TURNING
from stonechat.text import capital

LONG = 400.0  # km from which a race wears chain and pads (estimate)


@dataclass(frozen=True, kw_only=True)
class Task:
    """One thing to do before the start."""

    key: str
    title: str
    why: str
    due: date
    done: bool


def countdown(plan: Plan, variant: Variant, demands: Demands) -> tuple[Task, ...]:
    """Return the tasks before a start, the earliest first.

    Parameters
    ----------
    plan : Plan
        For start and rules.
    variant : Variant
        For bike, carriers, kit and what is ticked.
    demands : Demands
        What the race asks.

    Returns
    -------
    tasks : tuple of Task
        Only those that this plan and rig call for; days before the start are what is usual (estimate).
    """
    start = variant.rhythm.start.date()
    usual = [*_bike_tasks(variant, demands), *_load_tasks(plan, variant, demands), *_rider_tasks(plan, demands)]
    listed = [*usual, *_found_tasks(plan, variant)]
    tasks = (
        Task(key=key, title=title, why=why, due=start - timedelta(days=days), done=key in variant.ticked)
        for key, days, title, why in listed
    )
    return tuple(sorted(tasks, key=lambda task: task.due))


Entry = tuple[str, int, str, str]  # key, days before the start, title, why


def _bike_tasks(variant: Variant, demands: Demands) -> list[Entry]:
    bike, entries = variant.bike, []
    entries.append(("fit", 42, "Settle the fit", "Nothing of saddle, bars or cleats changes after this; note heights."))
    entries.append(("service", 21, "Service the bike", "Bearings, brakes, headset. Proven parts are left alone."))
    if demands.km > LONG:
        chain = f"{demands.km:.0f} km, {demands.rough_km:.0f} of them loose: new chain and pads, bedded in on a ride."
        entries.append(("chain", 14, "Fit a fresh chain and pads", chain))
    entries.append(("tyres", 10, "Fresh sealant, look tyres over", f"{demands.punctures:.1f} punctures are expected."))
    entries.append(("bolts", 3, "Turn every bolt with the tools you carry", "A size that is missing shows now."))
    if bike.electronic:
        entries.append(("shifting", 2, "Charge shifting and its spare", "Lever cells too: a flat one is one gear."))
    if bike.fork_travel > 0.0 or bike.rear_travel > 0.0:
        entries.append(("air", 2, "Set air for the loaded bike", "Load changes sag; clearance is for full travel."))
    if bike.dynamo:
        entries.append(("dynamo", 5, "Test light and charging at walking pace", "Cables chafe at the head tube."))
    if bike.aero_bars:
        entries.append(("aero", 7, "Check the aero bars' clamps by torque", "They slip on the first rough descent."))
    return entries


def _load_tasks(plan: Plan, variant: Variant, demands: Demands) -> list[Entry]:
    hung = [carrier for carrier in variant.carriers if carrier.mounted]
    strapped = [c.name for c in hung if c.strapped]
    places = {carrier.place for carrier in hung}
    rough = f"{demands.rough_km:.0f} km are loose" if demands.rough_km > 0.0 else "a night and a rough lane will do"
    loose = sum(1 for item in plan.items if not item.weighed and variant.places.get(item.id) != HOME)
    low = f"{demands.nights_out} nights out, down to {demands.low_night:.0f} °C: one night in the garden first."
    asked: tuple[tuple[object, Entry], ...] = (
        (strapped, ("tape", 12, "Tape under straps", f"{', '.join(strapped[:3])} rub paint and cables through.")),
        (
            places & TURNING,
            ("cables", 12, "Turn the bars from end to end, loaded, and pull both brakes", "Full bags pull cables."),
        ),
        (True, ("loaded", 10, "Ride loaded over rough ground", f"{rough}; what rattles is found now, not at km 300.")),
        (
            "fork" in places,
            ("cages", 9, "Check the fork cages after that ride", "Bolts work loose; carry the right key."),
        ),
        (True, ("weigh", 5, "Weigh the load again", f"{loose} things are not weighed yet." if loose else "As packed.")),
        (True, ("pack", 1, "Pack by the list and tick it", "Print the packing list in Cards.")),
        (demands.nights_out, ("bed", 14, "Sleep once in the sleeping kit", low)),
        (
            demands.doubtful_water,
            ("filter", 7, "Test the water treatment", "Filters frozen once are finished; drops have a date."),
        ),
        (variant.joins, ("boxes", 7, "Send the drop boxes", f"{len(variant.joins)} things wait in them.")),
    )
    return [entry for holds, entry in asked if holds]


def _found_tasks(plan: Plan, variant: Variant) -> list[Entry]:
    """Return what the loaded ride asks of the workshop and is not done; ticking the finding off takes it away."""
    return [
        (
            f"found-{k}",
            8,
            f"{capital(name_of(plan, variant, one.about))}: {REMEDIES[one.remedy]}",
            f"On the loaded ride: {TROUBLES[one.trouble]}{f', {one.words}' if one.words else ''}.",
        )
        for k, one in enumerate(variant.shakedown.findings)
        if one.remedy in WORKSHOP and not one.done
    ]


def _rider_tasks(plan: Plan, demands: Demands) -> list[Entry]:
    entries: list[Entry] = [
        ("maps", 4, "Load course and maps of this region", "Alerts off; open it once without a network."),
        ("charge", 1, "Charge everything", "Banks, lights, computer, tracker, phone."),
        ("papers", 7, "Papers and cards", "Identity, insurance, cash; a copy on the phone."),
        ("contact", 5, "Leave plan and contacts with someone", "Who calls whom, and when to worry."),
        ("sleep", 3, "Sleep early", "What is slept before the start is not missed on the second night."),
    ]
    if demands.dark_hours > 0.2:
        entries.append(
            ("lights", 4, "Try the lights on a dark lane", f"{demands.dark_hours:.0f} h are ridden in the dark.")
        )
    if plan.rules.compulsory:
        names = ", ".join(plan.rules.compulsory[:5])
        entries.append(("compulsory", 6, "Lay out the compulsory kit", f"{names}: it is inspected."))
    if any("medicine" in item.roles for item in plan.items):
        entries.append(("medicine", 10, "Fill up your medicine", "With a reserve of two days; ask who prescribes it."))
    if plan.rules.start is not None:
        entries.append(("registration", 2, "Registration", f"The race starts on {plan.rules.start:%A %d %B, %H:%M}."))
    return entries
