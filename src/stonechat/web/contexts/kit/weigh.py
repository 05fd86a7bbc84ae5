"""What the weigh-in shows: things one after another, packed bags, wheel loads."""

from dataclasses import dataclass

from stonechat.core.kit.item import HOME, Item
from stonechat.core.load.wheels import WEIGHED, WheelLoad, WheelVerdict
from stonechat.outside.scale import MAKES, TROUBLES
from stonechat.services.kit import weighing
from stonechat.services.kit.weighing import BagVerdict
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.weigh import WheelForm


@dataclass(frozen=True, kw_only=True)
class WeighRow:
    """A thing beside its claim."""

    item: Item
    is_now: bool
    is_home: bool
    difference: float | None  # 1, measured for claimed, less one
    address: str


@dataclass(frozen=True, kw_only=True)
class WheelRow:
    """A weighing at the wheels beside the model."""

    load: WheelLoad
    what: str
    verdict: WheelVerdict


@dataclass(frozen=True, kw_only=True)
class WeighView:
    """The weigh-in."""

    now: Item | None
    next_address: str
    count: int
    rows: tuple[WeighRow, ...]
    weighed: int
    claimed_sum: float  # kg, of those that have both
    measured_sum: float  # kg, of the same
    scale: "ScaleView"
    bags: tuple[tuple[str, str], ...]
    bag: BagVerdict | None
    wheels: tuple[WheelRow, ...]
    wheel_form: BoundForm[WheelForm]
    can_correct: bool
    read_address: str
    put_address: str
    take_address: str
    tare_address: str
    choose_address: str
    bag_address: str
    wheels_address: str
    correct_address: str


@dataclass(frozen=True, kw_only=True)
class ScaleView:
    """The scale, as it shows the thing in hand."""

    name: str
    make: str
    trouble: str
    makes: tuple[tuple[str, str], ...]
    troubles: tuple[tuple[str, str], ...]
    words: str
    mass: float  # kg
    state: str


def _in_hand(items: list[Item], wanted: str) -> Item | None:
    """Return the thing that is asked for, else the first that is not weighed, else the first."""
    ways = ([item for item in items if item.id == wanted], [item for item in items if not item.weighed], items)
    return next((way[0] for way in ways if way), None)


def weigh_view(desk: Desk) -> WeighView:
    """Return what the weigh-in shows."""
    plan, variant = desk.opened.plan, desk.variant
    items = sorted(plan.items, key=lambda item: (variant.places.get(item.id) == HOME, item.weighed))
    now = _in_hand(items, desk.look.open)
    both = [item for item in plan.items if item.weighed and item.claimed]
    following = _following(items, now)
    return WeighView(
        now=now,
        next_address=desk.at(tab="weigh", open=following.id) if following else "",
        count=now.quantity if now else 1,
        rows=tuple(_row(desk, item, now) for item in items),
        weighed=sum(1 for item in plan.items if item.weighed),
        claimed_sum=sum(item.claimed * item.quantity for item in both),
        measured_sum=sum(item.mass * item.quantity for item in both),
        scale=_scale(desk, now),
        bags=tuple((c.id, c.name) for c in variant.bags),
        bag=desk.carry.get("bag"),
        wheels=tuple(_wheel_row(desk, load) for load in reversed(variant.wheel_loads)),
        wheel_form=desk.form("wheels", WheelForm, {"what": "bare"}),
        can_correct=any(load.what == "bare" for load in variant.wheel_loads),
        read_address=desk.do("scale"),
        put_address=desk.do("scale", "put"),
        take_address=desk.do("scale", "take"),
        tare_address=desk.do("scale", "tare"),
        choose_address=desk.do("scale", "choose"),
        bag_address=desk.do("scale", "bag"),
        wheels_address=desk.do("wheels"),
        correct_address=desk.do("wheels", "correct"),
    )


def _scale(desk: Desk, now: Item | None) -> ScaleView:
    """Return what the scale shows of the thing in hand."""
    scale = weighing.scale_of(desk.opened.id)
    reading = scale.read()
    lies_there = now is not None and scale.holds == now.id
    return ScaleView(
        name=scale.name,
        make=scale.key,
        trouble=scale.trouble,
        makes=tuple((key, f"{make.name}, to {make.most:.0f} kg") for key, make in MAKES.items()),
        troubles=tuple(TROUBLES.items()),
        words=weighing.words_for(reading, scale) if lies_there else "Put it on the scale.",
        mass=reading.mass if lies_there else 0.0,
        state=reading.state if lies_there else "settling",
    )


def _following(items: list[Item], now: Item | None) -> Item | None:
    """Return the next thing in the list that is not weighed, else the next."""
    if now is None:
        return None
    place = [item.id for item in items].index(now.id)
    after = items[place + 1 :] + items[:place]
    return next((item for item in after if not item.weighed), after[0] if after else None)


def _row(desk: Desk, item: Item, now: Item | None) -> WeighRow:
    known = item.weighed and item.claimed > 0.0
    return WeighRow(
        item=item,
        is_now=now is not None and item.id == now.id,
        is_home=desk.variant.places.get(item.id) == HOME,
        difference=item.mass / item.claimed - 1.0 if known else None,
        address=desk.at(tab="weigh", open=item.id),
    )


def _wheel_row(desk: Desk, load: WheelLoad) -> WheelRow:
    verdict = weighing.judge_wheels(desk.opened.plan, desk.variant, desk.evaluation, load)
    return WheelRow(load=load, what=WEIGHED[load.what], verdict=verdict)
