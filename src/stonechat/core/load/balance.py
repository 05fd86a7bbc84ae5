"""Axle shares, centre of gravity, sway and steering of the loaded bike. Rigid-body statics."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from stonechat.core.physics.constants import GRAVITY
from stonechat.core.rig import places
from stonechat.core.rig.bike import Bike

BEHIND = places.where(lambda place: place.sways)  # behind the saddle
Mass = tuple[float, float, float, float]  # kg at x, y, z in m
RACKS = places.where(lambda place: place.on_rack)


@dataclass(frozen=True, kw_only=True)
class Bands:
    """What a loaded bike should keep to; all estimates."""

    front_low: float = 0.36  # 1, share of the weight on the front wheel
    front_high: float = 0.52
    lean: float = math.radians(0.5)  # rad
    sway: float = 0.80  # kg·m
    steering: float = 0.25  # kg·m² added by load


USUAL_BANDS = Bands()


def bands_for(loose: float, places: Iterable[str]) -> Bands:
    """Return the bands for a terrain and for where a rig carries.

    Parameters
    ----------
    loose : float
        Share of the distance on loose or rough ground. [1]
    places : iterable of str
        Places of what is mounted: with nothing behind the saddle the front may bear more; a rack sways less.

    Returns
    -------
    bands : Bands
        On loose ground the rear wheel wants weight to drive and the bars want to be light, and all tosses more: the
        upper end of the front share falls by up to 3 %, sway by up to a quarter, lean and steering by up to a fifth.

    Examples
    --------
    >>> bands_for(0.0, ("seat",)) == USUAL_BANDS
    True
    >>> round(bands_for(1.0, ()).front_high, 3)
    0.51
    """
    hung = set(places)
    behind = bool(hung & (BEHIND | RACKS))
    sway = 1.20 if hung & RACKS else USUAL_BANDS.sway
    return Bands(
        front_low=USUAL_BANDS.front_low + (0.0 if behind else 0.02),
        front_high=USUAL_BANDS.front_high + (0.0 if behind else 0.02) - 0.03 * loose,
        lean=USUAL_BANDS.lean * (1.0 - 0.2 * loose),
        sway=sway * (1.0 - 0.25 * loose),
        steering=USUAL_BANDS.steering * (1.0 - 0.2 * loose),
    )


@dataclass(frozen=True, kw_only=True)
class Balance:
    """Statics of rider, bike and load standing on level ground."""

    mass: float  # kg
    x: float  # m, centre of gravity forward of the rear contact
    y: float  # m, to the left
    z: float  # m, up
    front_share: float  # 1, share of weight on the front wheel
    front_force: float  # N
    rear_force: float  # N
    lean: float  # rad, at which the bike stands in balance, positive to the left
    wheel_lift_grade: float  # 1, grade at which the front wheel goes light


def balance(masses: Iterable[Mass], wheelbase: float) -> Balance:
    """Return the balance of a set of masses on two wheels.

    Parameters
    ----------
    masses : iterable of tuple
        Mass and place of each: kg, then x, y, z. [m]
    wheelbase : float
        Distance between the contacts. [m]

    Returns
    -------
    balance : Balance
        Centre of gravity and wheel forces; the forces sum to the weight. [N]

    Examples
    --------
    >>> balance([(10.0, 0.5, 0.0, 1.0)], 1.0).front_share
    0.5
    """
    listed = list(masses)
    total = sum(m for m, _, _, _ in listed)
    x, y, z = (sum(entry[0] * entry[axis] for entry in listed) / total for axis in (1, 2, 3))
    share = x / wheelbase
    return Balance(
        mass=total,
        x=x,
        y=y,
        z=z,
        front_share=share,
        front_force=share * total * GRAVITY,
        rear_force=(1.0 - share) * total * GRAVITY,
        lean=math.atan2(y, z),
        wheel_lift_grade=x / z,
    )


def steering_inertia(masses: Iterable[Mass], bike: Bike) -> float:
    """Return the moment of inertia about the steering axis of what turns with the bars.

    Parameters
    ----------
    masses : iterable of tuple
        Mass and place of each: kg, then x, y, z. [m]
    bike : Bike
        The bike, for head angle and rake.

    Returns
    -------
    inertia : float
        Sum of mass times squared distance from the axis. [kg·m²]

    Examples
    --------
    >>> axle = (1.0, Bike().wheelbase, 0.0, Bike().wheel_radius)
    >>> round(steering_inertia([axle], Bike()), 4)
    0.0025
    """
    return sum(mass * turning_lever((x, y, z), bike) for mass, x, y, z in masses)


def turning_lever(position: tuple[float, float, float], bike: Bike) -> float:
    """Return the squared distance of a place from the steering axis.

    Parameters
    ----------
    position : tuple of float
        Forward, to the left, up. [m]
    bike : Bike
        The bike, for head angle and rake.

    Returns
    -------
    lever : float
        Inertia that a kilogram there adds. [m²]

    Examples
    --------
    >>> round(turning_lever((Bike().wheelbase, 0.0, Bike().wheel_radius), Bike()), 4)
    0.0025
    """
    x, y, z = position
    head = math.radians(bike.head_angle)
    ux, uz = -math.cos(head), math.sin(head)
    dx, dz = x - bike.wheelbase + bike.fork_rake * uz, z - bike.wheel_radius - bike.fork_rake * ux
    along = dx * ux + dz * uz
    return dx * dx + y * y + dz * dz - along * along
