"""What the ride takes: course, rider, clock. Named tuples of plain arrays, so that they compile."""

from typing import NamedTuple

from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray


class Course(NamedTuple):
    """Segments as arrays of shape (n,)."""

    lengths: FloatArray  # m
    grades: FloatArray  # 1
    heights: FloatArray  # m, at the middle
    rolling: FloatArray  # 1, dry and at 20 °C
    loose: FloatArray  # 1 on loose ground, 0 on tarmac
    caps: FloatArray  # m/s, fastest by day and dry: surface, grade and bends
    grades_most: FloatArray  # 1, steepest ridden
    speeds_least: FloatArray  # m/s, slowest ridden
    headings: FloatArray  # °, clockwise from north
    brakes: FloatArray  # N that a hub dynamo takes at the wheel


class Legs(NamedTuple):
    """What a rider holds, and for how long."""

    power: float  # W
    endurance: float = 1.0  # 1
    fade_time: float = 1e5  # s
    recovery_time: float = 1e5  # s
    night_dip: float = 0.0  # 1
    altitude: int = 0  # 0 no effect, 1 acclimatised, 2 fresh from the lowlands
    tired: float = 0.0  # 1, tiredness at the start
    awake: float = 0.0  # s awake at the start


class Pace(NamedTuple):
    """How power goes with the ground."""

    uphill: float = 0.0  # 1
    downhill: float = 0.0  # 1
    most: float = 1.0  # 1
    coasting: float = 0.0  # 1


class OnFoot(NamedTuple):
    """How a rider pushes the bike."""

    gross_efficiency: float = 0.22  # 1
    walk_factor: float = 0.85  # 1
    push_efficiency: float = 0.20  # 1


WHEEL_INERTIA = 1.5  # kg that two turning wheels add to what is sped up (estimate)


class RiderNumbers(NamedTuple):
    """A rider as numbers; see `stonechat.core.rhythm.rider.Rider`."""

    body_mass: float  # kg
    legs: Legs
    pace: Pace = Pace()
    on_foot: OnFoot = OnFoot()
    drivetrain: float = 0.96  # 1
    night_cap: float = 0.80  # 1
    inertia: float = WHEEL_INERTIA  # kg
    momentum: bool = True  # carry speed from segment to segment; else steady speed on each


def with_power(rider: RiderNumbers, power: float) -> RiderNumbers:
    """Return a rider with another power.

    Parameters
    ----------
    rider : RiderNumbers
        The rider.
    power : float
        Held on the flat. [W]

    Returns
    -------
    rider : RiderNumbers
        The same otherwise.

    Examples
    --------
    >>> with_power(RiderNumbers(70.0, Legs(150.0)), 160.0).legs.power
    160.0
    """
    return rider._replace(legs=rider.legs._replace(power=power))


class Halts(NamedTuple):
    """Rests that go by places and by what lies ahead. Moments count from midnight of the first day."""

    # moments at which a stop is left where that is set by the clock, one list after another
    leave_index: IntArray  # first moment of each stop, shape (s + 1,)
    leave_times: FloatArray  # s, shape (m,)
    can_sleep: BoolArray  # whether a long stay there is a rest, shape (s,)
    is_room: BoolArray  # whether a room may be taken there, shape (s,)
    latest_times: FloatArray  # s, latest arrival at a room by day, shape (d,)
    expected: FloatArray  # s of moving from the start to each segment end, as far as is known, shape (n + 1,)
    quota: float  # m ridden from rest to rest; 0: not by distance
    quota_sleep: float  # s, least rest after them, camp time included
    rise_times: FloatArray  # s, when such a rest may end, by day, shape (d,)


class Nights(NamedTuple):
    """Nights that are rested, in order: from a moment, until one or for so long. Arrays of shape (k,)."""

    begin: FloatArray  # s
    until: FloatArray  # s
    lasting: FloatArray  # s; 0 where the rest has an end by the clock
    camp_time: float  # s of each rest that are not slept


class Stays(NamedTuple):
    """Stops, ascending. Arrays of shape (s,)."""

    segments: IntArray  # first segment after each stop
    dwells: FloatArray  # s
    rests: FloatArray  # s rested at a chosen stop, camp time included


class Doors(NamedTuple):
    """Opening times of all stops, one list after another."""

    first: IntArray  # first door of each stop, shape (s + 1,)
    opens: FloatArray  # s, shape (o,)
    shuts: FloatArray  # s, shape (o,)
    known: BoolArray  # False: always open, or not known, shape (s,)
    waits_most: FloatArray  # s, longest wait for each door, shape (s,)


class Sky(NamedTuple):
    """Sun and weather by day, shape (d,); the sun at points spread evenly along the course, shape (d, p)."""

    sunrises: FloatArray  # s after midnight
    sunsets: FloatArray  # s after midnight
    lows: FloatArray  # °C at the reference height
    highs: FloatArray  # °C
    wind_speeds: FloatArray  # m/s, 10 m above open ground
    winds_from: FloatArray  # °
    humidities: FloatArray  # 1
    wet: FloatArray  # 1 on a day of rain
    reference_height: float  # m
    shelter: float  # 1, share of the open wind that reaches the rider


class Clock(NamedTuple):
    """Start, nights, stops and days. Times count from midnight of the first day, by a clock that is never set, in s."""

    start_of_day: float  # s
    reach_share: float  # 1, seconds spent reaching for things per second of moving
    nights: Nights
    stays: Stays
    halts: Halts
    doors: Doors
    sky: Sky


class Conditions(NamedTuple):
    """What held on every segment, fixed by a ride by the clock; arrays of shape (n,)."""

    wheel_power: FloatArray  # W at the wheel while riding
    walk_power: FloatArray  # W, metabolic, while walking
    rolling: FloatArray  # 1
    density: FloatArray  # kg/m³
    caps: FloatArray  # m/s
    headwinds: FloatArray  # m/s at the rider
    crosswinds: FloatArray  # m/s at the rider
    from_rest: BoolArray  # whether the segment begins at a standstill


class RideResult(NamedTuple):
    """The race by the clock."""

    conditions: Conditions
    times: FloatArray  # s moving, shape (n,)
    walked: FloatArray  # 1, share of each segment on which the bike is pushed, shape (n,)
    clocks: FloatArray  # s since the start, when each segment begins, shape (n + 1,) with the finish last
    rests: FloatArray  # s rested before each segment, shape (n,)
    temps: FloatArray  # °C, shape (n,)
    powers: FloatArray  # W at the pedals, mean over the segment, shape (n,)
    dark: BoolArray  # whether the segment begins between sunset and sunrise, shape (n,)
    arrivals: FloatArray  # s since the start, shape (s,)
    departures: FloatArray  # s since the start, after any rest there, shape (s,)
    waits: FloatArray  # s waited for a door, shape (s,)
    stop_rests: FloatArray  # s rested at the stop itself, shape (s,)
    awake: FloatArray  # s awake at the end of each segment, shape (n,)
