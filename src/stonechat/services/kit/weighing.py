"""Weigh-in: things one after another, packed bags against their sum, wheels against the balance model."""

import random
from dataclasses import dataclass, replace
from datetime import datetime
from threading import Lock
from uuid import UUID

from stonechat.core.kit.bands import mass_band
from stonechat.core.kit.containers import resolved_places
from stonechat.core.kit.item import Item
from stonechat.core.load.wheels import WEIGHED, WheelLoad, WheelVerdict, compare_wheels, corrected_bike
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.limits import LIMITS
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.rig.geometry import rider_position
from stonechat.errors import InvalidInput
from stonechat.outside.scale import MAKES, TROUBLES, Reading, SimulatedScale
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.variant import carrier_named, change_variant, item_named
from stonechat.services.workspace import Workspace

LONG_UNSETTLED = 8.0  # s after which a reading that does not settle is spoken of
_MOST_SCALES = 64
_ERROR = 0.04  # 1, how far the simulated truth lies from a claim (made up)
_SCALES: dict[UUID, SimulatedScale] = {}
_LOCK = Lock()


def scale_of(plan_id: UUID) -> SimulatedScale:
    """Return the scale beside a plan; each plan has its own."""
    with _LOCK:
        if plan_id not in _SCALES and len(_SCALES) >= _MOST_SCALES:
            _SCALES.pop(next(iter(_SCALES)))
        return _SCALES.setdefault(plan_id, SimulatedScale())


def choose_scale(plan_id: UUID, make: str, trouble: str) -> SimulatedScale:
    """Take another scale, or let the simulated one misbehave."""
    if make not in MAKES or trouble not in TROUBLES:
        raise InvalidInput("There is no such scale. Choose one from the list.", subject="make")
    scale = scale_of(plan_id)
    if scale.key != make:
        scale = SimulatedScale(make)
        with _LOCK:
            _SCALES[plan_id] = scale
    scale.trouble = trouble
    return scale


def simulated_truth(item: Item) -> float:
    """Return what the made-up world weighs one of a thing at: a few percent off its claim, the same every time. [kg]"""
    if item.weighed:
        return item.mass_now
    drawn = random.Random(item.id).gauss(0.02, _ERROR)  # kit is heavier than its makers say
    return max(item.mass_now * (1.0 + drawn), 0.001)


def put_on(opened: OpenPlan, item_id: str, count: int) -> None:
    """Let the simulated hand put so many of a thing on the scale."""
    item = item_named(opened.plan, item_id)
    scale_of(opened.id).put(simulated_truth(item) * _counted(count), item.id)


def put_bag_on(opened: OpenPlan, variant_id: str, carrier_id: str) -> None:
    """Let the simulated hand hang a packed bag on the scale."""
    variant = opened.plan.variant(variant_id)
    carrier = carrier_named(variant, carrier_id)
    inside = bag_items(opened.plan, variant, carrier_id)
    whole = carrier.mass + sum(simulated_truth(item) * item.quantity for item in inside)
    scale_of(opened.id).put(whole, carrier_id)


def _counted(count: int) -> int:
    low, high = LIMITS["quantity"]
    if not low <= count <= high:
        raise InvalidInput(f"Weigh {low:.0f} to {high:.0f} of a kind at once, not {count}.", subject="count")
    return count


def words_for(reading: Reading, scale: SimulatedScale) -> str:
    """Return what a reading means for the rider."""
    match reading.state:
        case "silent":
            return "The scale does not answer. Plug it in again; what was weighed so far is kept."
        case "overload":
            return f"Too heavy: the {scale.name} weighs up to {scale.most:.0f} kg. Take something off or use another."
        case "settling" if reading.since > LONG_UNSETTLED:
            return (
                f"Not settled for {reading.since:.0f} s. Keep draughts and hands away, put it on firm ground, "
                "or type the mass."
            )
        case "settling":
            return "Settling …"
        case _:
            return "Stable. Enter takes it."


def stable_mass(plan_id: UUID, what: str) -> float:
    """Return the mass of something on the scale, or refuse where it is not stable or something else lies there. [kg]"""
    scale = scale_of(plan_id)
    if scale.holds != what:
        raise InvalidInput("Nothing was taken: this is not on the scale yet. Put it on, then take it.", subject="scale")
    reading = scale.read()
    if not reading.is_stable:
        raise InvalidInput(f"Nothing was taken. {words_for(reading, scale)}", subject="scale")
    if reading.mass <= 0.0:
        raise InvalidInput("The scale shows nothing. Put the thing on it, then take it.", subject="scale")
    return reading.mass


def weigh_item(
    workspace: Workspace, opened: OpenPlan, *, revision: int, item_id: str, mass: float, count: int
) -> OpenPlan:
    """Set the mass of a thing as weighed, several of a kind at once; the claim stays beside it. Mass in kg of all."""
    item = item_named(opened.plan, item_id)
    each = round(mass / _counted(count) * 1e4) / 1e4
    low, high = LIMITS["item_mass"]
    if not low <= each <= high:
        raise InvalidInput(
            f"{each * 1e3:g} g for one {item.name} is outside {low * 1e3:g} to {high * 1e3:,.0f} g. "
            "Is the right thing on the scale, and the count right?",
            subject="mass_g",
        )

    def change(plan: Plan) -> Plan:
        now = item_named(plan, item_id)
        claimed = now.claimed or (0.0 if now.weighed else now.mass)
        # what is used up is weighed as it is: the packing weighs what is left of it now
        full = each + now.content * (1.0 - now.left)
        new = replace(now, mass=round(full * 1e4) / 1e4, claimed=claimed, weighed=True)
        return replace(plan, items=tuple(new if entry.id == item_id else entry for entry in plan.items))

    label = f"weighed {item.name}, {each * 1e3:g} g"
    return change_plan(workspace, opened.id, revision=revision, label=label, change=change)


def bag_items(plan: Plan, variant: Variant, carrier_id: str) -> tuple[Item, ...]:
    """Return the things packed into a carrier at the start."""
    places = resolved_places(plan.items, variant.places)
    return tuple(i for i in plan.items if places.get(i.id) == carrier_id and i.id not in variant.joins and i.packed)


@dataclass(frozen=True, kw_only=True)
class BagVerdict:
    """A packed bag on the scale against the sum of what should be in it."""

    name: str
    weighed: float  # kg
    summed: float  # kg, bag and things
    band: float  # kg, how sure the sum is
    sentence: str


def compare_bag(opened: OpenPlan, variant_id: str, carrier_id: str, mass: float) -> BagVerdict:
    """Hold a packed bag against the sum of its things."""
    variant = opened.plan.variant(variant_id)
    carrier = carrier_named(variant, carrier_id)
    inside = bag_items(opened.plan, variant, carrier_id)
    summed = carrier.mass + sum(item.total_mass for item in inside)
    band = max(mass_band(inside), 0.015)
    off = mass - summed
    if abs(off) <= band:
        sentence = f"It agrees with the sum of {len(inside)} things and the bag within ± {band * 1e3:.0f} g."
    elif off > 0.0:
        sentence = (
            f"{off * 1e3:.0f} g more than the sum. Something is in it that is not on the list, or was weighed light."
        )
    else:
        sentence = f"{-off * 1e3:.0f} g less than the sum. Something is missing from it, or was weighed heavy."
    return BagVerdict(name=carrier.name, weighed=mass, summed=summed, band=band, sentence=sentence)


def model_of_wheels(plan: Plan, variant: Variant, evaluation: Evaluation, what: str) -> tuple[float, float, float]:
    """Return what the model says of mass [kg], share on the front wheel [1], and how sure its mass is [kg]."""
    bike, load = variant.bike, evaluation.ridden.film[0]
    band = mass_band(item for item in evaluation.ridden.kit.items if not item.worn)
    if what == "bare":
        return bike.mass, bike.front_share, 0.05
    statics = load.balance
    if what == "ridden":
        return load.mass, statics.front_share, band + 1.0  # nobody weighs the same all day
    rider = variant.rider.mass + sum(item.total_mass for item in evaluation.ridden.kit.items if item.worn)
    mass = load.mass - rider
    forward = statics.mass * statics.x - rider * rider_position(bike)[0]
    return mass, forward / mass / bike.wheelbase, band


def judge_wheels(plan: Plan, variant: Variant, evaluation: Evaluation, load: WheelLoad) -> WheelVerdict:
    """Hold a weighing at the wheels against the model."""
    mass, share, band = model_of_wheels(plan, variant, evaluation, load.what)
    return compare_wheels(load, mass=mass, front_share=share, band=band)


def add_wheel_load(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, what: str, front: float, rear: float
) -> OpenPlan:
    """Keep a weighing at the wheels. [kg]"""
    if what not in WEIGHED:
        raise InvalidInput("Say what was weighed: the bare bike, the loaded bike, or with you on it.", subject="what")
    load = WheelLoad(what=what, front=front, rear=rear, taken=datetime.now().replace(second=0, microsecond=0))
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label=f"weighed {WEIGHED[what]} at the wheels",
        change=lambda variant: replace(variant, wheel_loads=(*variant.wheel_loads[-40:], load)),
    )


def correct_bike(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int) -> OpenPlan:
    """Take the bare bike's mass and axle share from its last weighing."""
    loads = [load for load in opened.plan.variant(variant_id).wheel_loads if load.what == "bare"]
    if not loads:
        raise InvalidInput("The bare bike was not weighed yet. Weigh it at both wheels first.", subject="what")
    return change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label="took the bike's mass and axle share from the scale",
        change=lambda variant: replace(variant, bike=corrected_bike(variant.bike, loads[-1])),
    )
