"""What may happen where a thing rides: it is wanted at once and is far, or it is lost. Chance times minutes."""

from collections.abc import Iterable

from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import ENDING, JOBS
from stonechat.core.kit.reach import GRIP, HANDLING, Often, halt_seconds
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.places import WORN

# by kind: how often a day it is wanted in a hurry, and minutes that each second until it is in the hand costs then
URGENT = {
    "bear_spray": (0.01, 6.0), "dog_deterrent": (0.05, 0.5), "whistle": (0.002, 1.0), "rescue_blanket": (0.004, 0.2),
    "foil_bivvy": (0.004, 0.2), "first_aid_kit": (0.01, 0.2), "bandage": (0.01, 0.2), "antihistamine": (0.005, 0.5),
    "medicine": (0.01, 0.3), "satellite_messenger": (0.002, 0.5),
}  # fmt: skip
PLUGGED = 0.3  # 1, share of punctures that a plug stops while air is left (estimate)
LEAKING_OUT = 0.1  # min that each second costs while air leaks: a tyre pumped up again (estimate)
BY_LOSS = {"low": 0.0, "some": 3e-5, "high": 5e-4}  # per thing and hour of riding that it is lost (estimates)
ROUGH = 3.0  # 1, by how much more things are shaken out on loose ground (estimate)
HALFWAY = 0.5  # 1, share of the race for which what was lost is lacking
SELDOM = {"tools": 0.1, "hygiene": 0.5}  # 1, share of the races on which what is lost is wanted after (estimates)
TRIFLE = 5.0  # min that the loss of a thing without a known job costs (estimate)


def seconds_until_in_hand(carrier: Carrier) -> float:
    """Return how long it takes from the wish to the thing in the hand, riding along.

    Parameters
    ----------
    carrier : Carrier
        Where it rides.

    Returns
    -------
    time : float
        Halt, closure and grip; winning the speed back comes later and is left out. [s]

    Examples
    --------
    >>> seconds_until_in_hand(Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4,
    ...                               longest=0.4, open_time=12.0))
    48.0
    """
    return halt_seconds(carrier.access) + HANDLING[carrier.access] + carrier.open_time + GRIP


def urgency_minutes(items: Iterable[Item], carrier: Carrier, days: float, often: Often) -> float:
    """Return what it costs that things wanted in a hurry are not in the hand at once.

    Parameters
    ----------
    items : iterable of Item
        What rides in the carrier.
    carrier : Carrier
        The carrier.
    days : float
        Of the race. [1]
    often : Often
        For punctures.

    Returns
    -------
    minutes : float
        Chance times minutes, over the race. [min]

    Examples
    --------
    >>> pocket = Carrier(id="j", name="j", place="body", capacity=0.001, load_limit=1.0, mass=0.0, longest=0.2,
    ...                  access="riding", open_time=0.0)
    >>> spray = Item(id="b", name="spray", kind="bear_spray", mass=0.3, volume=0.0004)
    >>> urgency_minutes((spray,), pocket, 5.0, Often())
    2.4
    """
    total = 0.0
    for item in items:
        chance, price = URGENT.get(item.kind, (0.0, 0.0))
        total += chance * price
        if "plug" in item.roles:
            total += PLUGGED * often.punctures * LEAKING_OUT
    return days * total * seconds_until_in_hand(carrier)


def stake(item: Item) -> float:
    """Return the minutes that losing a thing on the way costs.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    minutes : float
        Of its weightiest job, over what is left of the race; an ended ride counts as `ENDING`. Tools are missed only
        where something breaks. [min]

    Examples
    --------
    >>> stake(Item(id="t", name="trinket", mass=0.1, volume=0.0001))
    5.0
    """
    jobs = [JOBS[key] for key in item.roles if key in JOBS]
    missed = HALFWAY * SELDOM.get(item.category, 1.0)
    return max([TRIFLE, *(missed * (job.minutes + job.ends * ENDING) for job in jobs)])


def loss_minutes(items: Iterable[Item], carrier: Carrier, hours: float, loose: float) -> float:
    """Return what it costs that things may be lost from where they ride.

    Parameters
    ----------
    items : iterable of Item
        What rides in the carrier.
    carrier : Carrier
        The carrier, with its risk.
    hours : float
        Of riding. [h]
    loose : float
        Share of the course on loose ground. [1]

    Returns
    -------
    minutes : float
        Chance times minutes, over the race. [min]

    Examples
    --------
    >>> straps = Carrier(id="o", name="o", place="seat_top", capacity=0.002, load_limit=1.0, mass=0.0, longest=0.4,
    ...                  loss="high")
    >>> round(loss_minutes((Item(id="r", name="rain jacket", roles=frozenset({"rain_top"}), mass=0.2, volume=0.001),),
    ...                    straps, 60.0, 0.0), 3)
    4.5
    """
    rate = BY_LOSS[carrier.loss] * (1.0 if carrier.place in WORN else 1.0 + (ROUGH - 1.0) * loose)
    return rate * hours * sum(stake(item) for item in items) if rate > 0.0 else 0.0
