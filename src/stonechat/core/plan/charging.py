"""The electricity of a ridden race: its steps, and what becomes of every battery."""

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from stonechat.core.charge.dynamo import hub_drag, lamp_output
from stonechat.core.charge.light import LOW, NAMES, WAYS, dark_hours, modes_of
from stonechat.core.charge.report import Charge
from stonechat.core.charge.rule import DAY, NIGHT, ChargingRule
from stonechat.core.charge.run import Steps, run_batteries
from stonechat.core.charge.setup import setup_of
from stonechat.core.charge.sockets import Sockets, sockets_of
from stonechat.core.charge.things import Electrics, electrics_of
from stonechat.core.ledger.ridden import Added, Ridden, part_of
from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.core.plan.clocked import Clocked, clocked
from stonechat.core.plan.plan import START
from stonechat.core.plan.scenario import Scenario
from stonechat.core.rhythm.inputs import RideResult

_REST = 3600.0  # s, in a halt of an hour everything is put on the bank (estimate)
_INDOORS = 18.0  # °C where one charges at a socket (estimate)
_SUN_RIDING, _SUN_HALTED, _CLOUD = 0.15, 0.4, 0.7  # 1, of a panel's watts: on a bag, laid out; lost on a wet day


class Needs(NamedTuple):
    """What is wanted and given by step."""

    steps: Steps
    loads: FloatArray  # W, shape (n, d)
    beam: FloatArray  # h of each mode of the battery lamp, shape (3,)


def sockets_at(ridden: Ridden) -> Sockets:
    """Return what each halt at a socket gives.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    sockets : Sockets
        In order.
    """
    return sockets_of(ridden.report(Charge), part_of(ridden.settled, Powered).at.stops)


@dataclass(frozen=True, kw_only=True)
class Powered:
    """What is settled with the ride: a hub that charges brakes."""

    scenario: Scenario
    ride: RideResult

    @cached_property
    def at(self) -> Clocked:
        """The race by steps."""
        return clocked(self.scenario, self.ride)

    @cached_property
    def charge(self) -> Charge:
        """Every battery by the clock."""
        electrics = electrics_of(self.scenario.items, electronic=self.scenario.variant.bike.electronic)
        return self.charged(electrics, self.scenario.variant.charging)

    def charged(self, electrics: Electrics, rule: ChargingRule) -> Charge:
        """Return what becomes of some batteries under some rule, by the clock of this ride."""
        scenario, at = self.scenario, self.at
        needs, setup = needs_of(scenario, at, electrics, rule), setup_of(electrics, rule)
        run = run_batteries(needs.steps, needs.loads, setup)
        return Charge(
            electrics=electrics,
            rule=rule,
            steps=needs.steps,
            loads=needs.loads,
            setup=setup,
            run=run,
            dark=dark_hours((at.lengths * at.dark / 3600.0) @ at.ways),
            beam=needs.beam,
            hub_could=float((needs.steps.hub * at.lengths).sum() / 3600.0),
            hub_drag=_drag_of(scenario, self.ride, at, run.hub, lit=electrics.has_hub_light),
        )

    @cached_property
    def added(self) -> Added:
        """What the hub takes at the wheel; without one the batteries need not be known while the ride settles."""
        still = np.zeros(self.ride.times.size)
        if not self.scenario.variant.bike.dynamo:
            return Added(masses=still, drags=still, brakes=still)
        brakes = self.charge.hub_drag * self.ride.times / self.scenario.profile.lengths
        return Added(masses=still, drags=still, brakes=brakes)


def power(scenario: Scenario, ride: RideResult) -> Powered:
    """Return what becomes of every battery, and how the hub brakes.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        A ride of it.

    Returns
    -------
    powered : Powered
        All begin full; things that join on the way are there from the start.
    """
    return Powered(scenario=scenario, ride=ride)


def charge_of(ridden: Ridden) -> Charge:
    """Return the batteries of a ridden variant.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    charge : Charge
        As it settled with the ride.
    """
    return part_of(ridden.settled, Powered).charge


def needs_of(scenario: Scenario, at: Clocked, electrics: Electrics, rule: ChargingRule) -> Needs:
    """Return what is wanted of batteries and what comes from outside, by step.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    at : Clocked
        The race by steps.
    electrics : Electrics
        What is aboard.
    rule : ChargingRule
        How it is charged.

    Returns
    -------
    needs : Needs
        Steps and loads. [W]
    """
    modes = modes_of(np.arange(len(WAYS)), dim_when_slow=rule.dim_when_slow)
    if rule.light != "need":
        modes = np.where((modes == LOW) & rule.dim_when_slow, LOW, NAMES.index(rule.light))
    lit = at.riding & at.dark
    by_hub = scenario.variant.bike.dynamo and electrics.has_hub_light
    by_battery = lit * at.slow if by_hub else lit.astype(np.float64)
    loads = np.zeros((at.lengths.size, len(electrics.batteries)))
    for k, one in enumerate(electrics.devices):
        if one.role == "light":
            dark = at.ways @ np.array([one.mode(name) for name in NAMES])[modes] * by_battery
        elif one.role == "rear":
            dark = one.dark * (lit & (not (scenario.variant.bike.dynamo and electrics.has_hub_rear)))
        else:
            dark = one.dark * lit
        loads[:, k] = one.always + one.riding * at.riding + dark
    indoors = (at.stops >= 0) & (rule.sockets != "none")
    steps = Steps(
        begins=at.begins,
        lengths=at.lengths,
        distances=at.distances,
        speeds=at.speeds,
        dark=at.dark,
        temps=np.where(indoors, _INDOORS, at.temps),
        hub=_hub(scenario, at, electrics, rule),
        wall=np.where(indoors, electrics.wall, 0.0),
        sun=_sun(at, electrics),
        resting=_resting(at),
    )
    hours = (at.lengths * by_battery / 3600.0) @ at.ways
    return Needs(steps, loads, np.bincount(modes, weights=hours, minlength=len(NAMES)).astype(np.float64))


def _resting(at: Clocked) -> BoolArray:
    """Tell which steps are of halts that are long enough to put everything on the bank."""
    halted = np.bincount(at.segments, weights=np.where(at.riding, 0.0, at.lengths))
    return ~at.riding & (halted[at.segments] >= _REST)


def _hub(scenario: Scenario, at: Clocked, electrics: Electrics, rule: ChargingRule) -> FloatArray:
    """Return what the hub can give to charge on each step, as the rule switches it. [W]"""
    if not scenario.variant.bike.dynamo or electrics.hub_charger is None or rule.hub == "off":
        return np.zeros(at.lengths.size)
    output = at.fast if rule.hub_when == "fast" else at.charger
    if electrics.has_hub_light:
        left = np.maximum(0.0, output - at.lamp) if rule.parallel else 0.0
        output = np.where(at.dark, left, output)
    if rule.hub_when == "legs":
        output = output * _switched_on(scenario, at, rule)
    return np.where(at.riding, output, 0.0)


def _switched_on(scenario: Scenario, at: Clocked, rule: ChargingRule) -> BoolArray:
    """Tell on which steps the rule names the leg for the hub."""
    begins = [START, *(stop.id for stop in scenario.stops)]
    by_day = np.array([f"{stop} {DAY}" in rule.hub_on for stop in begins])
    by_night = np.array([f"{stop} {NIGHT}" in rule.hub_on for stop in begins])
    leg = scenario.leg_of[at.segments]
    return np.where(at.dark, by_night[leg], by_day[leg])


def _sun(at: Clocked, electrics: Electrics) -> FloatArray:
    """Return what panels give on each step. [W]"""
    share = np.where(at.riding, _SUN_RIDING, _SUN_HALTED) * np.where(at.wet, 1.0 - _CLOUD, 1.0)
    return np.where(at.dark, 0.0, share * sum(panel.gives for panel in electrics.panels))


def _drag_of(scenario: Scenario, ride: RideResult, at: Clocked, hub: FloatArray, *, lit: bool) -> FloatArray:
    """Return what a hub takes at the wheel on each segment; nothing where there is none. [W]"""
    count = ride.times.size
    if not scenario.variant.bike.dynamo:
        return np.zeros(count)
    speeds = scenario.profile.lengths / np.maximum(ride.times, 1e-6)
    given = np.bincount(at.segments, weights=hub * at.lengths * at.riding, minlength=count)
    spent = np.bincount(at.segments, weights=at.lengths * at.riding, minlength=count)
    output = given / np.maximum(spent, 1e-6)
    lamp = np.where(ride.dark, lamp_output(speeds), 0.0) if lit else 0.0
    return hub_drag(speeds, output + lamp)
