"""Drag area and rolling from a ride with a power meter: the height that power and speed imply, against that measured.

Energy in blocks of ten seconds, with mean wind as two figures more, and noise that is white (the height sensor) plus a
walk (power meter, gusts). A gust changes the speed too, so the speed that goes into the drag would carry the noise:
the drag is told by the speed that the power alone would give (an instrument), not by the one that was measured.

References: [Martin1998] for the forces; form of the method after [Chung2003]; instruments as in [Wooldridge2010].
"""

import math
from dataclasses import dataclass

import numpy as np
from numba import njit

from stonechat.core.diary.record import MOST_GAP, RideRecord
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.physics.air import air_density, standard_pressure
from stonechat.core.physics.constants import BEARING_CONSTANT, BEARING_SLOPE, GRAVITY

BLOCK = 10  # s of a block
LEAST_TIME = 900.0  # s of pedalling that a fit needs
LEAST_SPREAD = 1.4  # 1, speed of the fastest tenth over that of the slowest
WIDEST = 0.15  # 1, half of a band over the figure, beyond which the ride cannot tell
_PEDALLED = 20.0  # W, below which one may be braking
_LEAST_PIECE = 120  # s of a piece that is used
_MOST_BLOCKS = 1_500  # of all pieces, so that it stays fast
_WIND_SD = 4.0  # m/s, how windy it may have been
_RATIOS = np.concatenate(([0.0], 10.0 ** np.linspace(-6.0, 2.0, 25)))  # 1, walk over white noise
_ROUNDS = 12  # of the fit, at most
_ROLLING_START, _DRAG_START = 0.008, 0.36  # 1, m²: usual figures that the search begins with
_WIDER = 1.25  # 1, bands by the equations alone held the truth of simulated rides with gusts in 80 of 100
_METER = 0.015  # 1, how wrong a power meter may be, one sd; no ride shows it


@dataclass(frozen=True, kw_only=True)
class Setting:
    """What must be known beside the ride."""

    mass: float  # kg, all that rolls
    efficiency: float  # 1, share of power that reaches the wheel
    inertia: float  # kg that the turning wheels add
    humidity: float = 0.6  # 1
    temp: float = 15.0  # °C where no sensor says


@dataclass(frozen=True, kw_only=True)
class DragFit:
    """What a ride tells, each figure with the half width of its 95 % band."""

    drag_area: float  # m²
    drag_band: float
    rolling: float  # 1
    rolling_band: float
    wind: tuple[float, float]  # m/s towards east and north, at the rider
    minutes: float  # of pedalling that it stands on
    misfit: float  # m, root mean square of height that is left unexplained
    meter_band: float  # 1, how wrong the power meter may be, one sd
    residuals: FloatArray  # m of height left unexplained, by block


@dataclass(frozen=True, kw_only=True)
class Refusal:
    """Why a ride cannot tell, and which could."""

    reason: str
    would: str


@dataclass(frozen=True, kw_only=True)
class _Piece:
    """A stretch without a gap, a value a second."""

    powers: FloatArray
    speeds: FloatArray
    heights: FloatArray
    headings: FloatArray  # radians from north
    density: float


def fit_drag(record: RideRecord, setting: Setting) -> DragFit | Refusal:
    """Return drag area and rolling of a ride, or why it cannot tell them.

    Parameters
    ----------
    record : RideRecord
        The good part of a ride, best on one surface in one position.
    setting : Setting
        What must be known beside it.

    Returns
    -------
    fit : DragFit or Refusal
        With 95 % bands; the error of the power meter is told apart.
    """
    if not record.has_power:
        return Refusal(
            reason="No power meter wrote anything: drag and rolling cannot be parted from power.",
            would="A ride with a power meter; without one only what is held on climbs can be told.",
        )
    pieces = _pieces(record, setting)
    seconds = sum(piece.powers.size for piece in pieces)
    if seconds < LEAST_TIME:
        return Refusal(
            reason=f"Only {seconds / 60.0:.0f} min of steady pedalling with height, speed and power.",
            would="An hour on one loop, on one surface, without traffic lights: by turns ten minutes gently, ten hard.",
        )
    speeds = np.concatenate([piece.speeds for piece in pieces])
    spread = float(np.quantile(speeds, 0.9) / max(float(np.quantile(speeds, 0.1)), 0.1))
    if spread < LEAST_SPREAD:
        return Refusal(
            reason=f"All was ridden at nearly one speed (fast over slow {spread:.1f}): drag and rolling look the same.",
            would="Ten minutes gently and ten hard by turns on the same loop, or one with hills.",
        )
    return _fitted(pieces, setting, seconds / 60.0)


def _pieces(record: RideRecord, setting: Setting) -> list[_Piece]:
    """Return stretches of steady pedalling on a grid of one second."""
    good = (
        np.isfinite(record.heights) & np.isfinite(record.speeds) & np.isfinite(record.powers)
        & (record.powers > _PEDALLED) & (record.speeds > 1.5)
    )  # fmt: skip
    breaks = np.flatnonzero((np.diff(record.times) > MOST_GAP) | (good[1:] != good[:-1])) + 1
    found, left = list[_Piece](), _MOST_BLOCKS
    for run in np.split(np.arange(record.times.size), breaks):
        run = run[record.times[run] <= record.times[run[0]] + left * BLOCK]
        if not good[run[0]] or record.times[run[-1]] - record.times[run[0]] < _LEAST_PIECE:
            continue
        piece = _piece(record, run, setting)
        left -= piece.powers.size // BLOCK
        found.append(piece)
    return found


def _piece(record: RideRecord, run: IntArray, setting: Setting) -> _Piece:
    times = record.times[run]
    at = np.arange(times[0], times[-1] + 0.5)

    def resampled(values: FloatArray) -> FloatArray:
        return np.asarray(np.interp(at, times, values[run]), dtype=np.float64)

    lat, lon = resampled(record.latitudes), resampled(record.longitudes)
    # directions over some ten seconds, as positions jitter
    step = min(5, max(1, at.size // 4))
    east = np.cos(np.radians(lat)) * (np.roll(lon, -step) - np.roll(lon, step))
    north = np.roll(lat, -step) - np.roll(lat, step)
    headings = np.arctan2(east, north)
    headings[:step], headings[-step:] = headings[step], headings[-step - 1]
    temps = record.temps[run]
    temp = float(np.nanmean(temps)) if np.isfinite(temps).any() else setting.temp
    heights = resampled(record.heights)
    return _Piece(
        powers=resampled(record.powers),
        speeds=resampled(record.speeds),
        heights=heights,
        headings=headings,
        density=air_density(standard_pressure(float(heights.mean())), temp, setting.humidity),
    )


def _fitted(pieces: list[_Piece], setting: Setting, minutes: float) -> DragFit | Refusal:
    bases = [_waves(piece.powers.size // BLOCK) for piece in pieces]
    beta = np.array([_ROLLING_START, _DRAG_START, 0.0, 0.0])
    for _ in range(_ROUNDS):
        system = _System.of(pieces, bases, setting, beta)
        fresh, covariance = system.solved()
        moved = np.abs(fresh - beta) / np.array([1e-4, 1e-3, 0.05, 0.05])
        beta = np.clip(fresh, [0.001, 0.08, -12.0, -12.0], [0.15, 1.5, 12.0, 12.0])
        if moved.max() < 1.0:
            break
    rolling_band, drag_band = (1.96 * _WIDER * math.sqrt(max(float(covariance[k, k]), 0.0)) for k in (0, 1))
    if drag_band > WIDEST * beta[1]:
        return Refusal(
            reason=f"Drag is only told within {100.0 * drag_band / beta[1]:.0f} %: it looks too much like "
            "rolling, or wind.",
            would="A loop with hills or with slow and fast laps, ridden two times or more in little wind.",
        )
    residuals = system.residuals(beta, setting)
    return DragFit(
        drag_area=float(beta[1]),
        drag_band=drag_band,
        rolling=float(beta[0]),
        rolling_band=rolling_band,
        wind=(float(beta[2]), float(beta[3])),
        minutes=minutes,
        misfit=float(np.sqrt(np.mean(residuals**2))),
        meter_band=_METER,
        residuals=residuals,
    )


def _waves(count: int) -> tuple[FloatArray, FloatArray]:
    """Return the waves that part a walk of so many steps, and their sizes: eigenvectors of min(i, j)."""
    k = np.arange(1, count + 1)
    angles = (2 * k - 1) * math.pi / (2 * count + 1)
    vectors = np.sin(np.outer(angles, k)) * (2.0 / math.sqrt(2 * count + 1))
    return vectors, 1.0 / (4.0 * np.sin(angles / 2.0) ** 2)


def _blocks(values: FloatArray) -> FloatArray:
    count = values.shape[0] // BLOCK
    return np.asarray(values[: count * BLOCK].reshape(count, BLOCK, *values.shape[1:]).mean(axis=1))


def _gathered(values: FloatArray) -> FloatArray:
    """Return the integral by trapezes from the first second on."""
    return np.concatenate((np.zeros((1, *values.shape[1:])), np.cumsum(0.5 * (values[1:] + values[:-1]), axis=0)))


@dataclass(frozen=True, kw_only=True)
class _System:
    """All pieces as one set of equations in waves: y = x beta + noise, whose size goes with its wave."""

    y: FloatArray
    x: FloatArray  # columns: rolling, drag, wind east, wind north, one constant a piece
    z: FloatArray  # instruments of the same columns
    sizes: FloatArray  # of the walk, by wave
    raw: tuple[tuple[FloatArray, FloatArray], ...]  # by block: energy, columns

    @classmethod
    def of(
        cls, pieces: list[_Piece], bases: list[tuple[FloatArray, FloatArray]], setting: Setting, beta: FloatArray
    ) -> "_System":
        """Build it, the drag made straight about some figures."""
        ys, xs, zs, raw = [], [], [], []
        for number, (piece, (vectors, _)) in enumerate(zip(pieces, bases, strict=True)):
            energy, columns = _columns(piece, piece.speeds, setting, beta)
            calm = _calm_speeds(piece, setting, beta)
            _, instruments = _columns(piece, calm, setting, beta)
            constants = np.zeros((energy.size, len(pieces)))
            constants[:, number] = 1.0
            ys.append(vectors @ energy)
            xs.append(vectors @ np.hstack((columns, constants)))
            zs.append(vectors @ np.hstack((instruments, constants)))
            raw.append((energy, columns))
        return cls(
            y=np.concatenate(ys), x=np.vstack(xs), z=np.vstack(zs), sizes=np.concatenate([s for _, s in bases]),
            raw=tuple(raw),
        )  # fmt: skip

    def solved(self) -> tuple[FloatArray, FloatArray]:
        """Return figures and their covariance, by instruments, the noise weighed as restricted likelihood says."""
        scale = np.abs(self.x).max(axis=0)
        x, z, y = self.x / scale, self.z / scale, self.y
        count, columns = x.shape
        prior = np.zeros((columns, columns))
        weights = min((self._likely(x, y, ratio) for ratio in _RATIOS.tolist()), key=lambda found: found[0])[1]
        gram = (z.T * weights) @ x
        sds = np.full(columns, np.inf)
        sds[2:4] = _WIND_SD * scale[2:4]
        target = (z.T * weights) @ y
        left = y - x @ np.linalg.lstsq(gram, target, rcond=None)[0]
        variance = float((weights * left**2).sum() / (count - columns))
        prior[2, 2], prior[3, 3] = variance / sds[2] ** 2, variance / sds[3] ** 2
        inverse = np.linalg.pinv(gram + prior)
        fresh = inverse @ target
        left = y - x @ fresh
        variance = float((weights * left**2).sum() / (count - columns))
        middle = (z.T * weights) @ z + prior
        covariance = variance * inverse @ middle @ inverse.T / np.outer(scale, scale)
        return (fresh / scale)[:4], covariance[:4, :4]

    def _likely(self, x: FloatArray, y: FloatArray, ratio: float) -> tuple[float, FloatArray]:
        """Return how unlikely a size of the walk is, and the weights of the waves with it."""
        count, columns = x.shape
        weights = 1.0 / (1.0 + ratio * self.sizes)
        gram = (x.T * weights) @ x
        left = y - x @ np.linalg.lstsq(gram, (x.T * weights) @ y, rcond=None)[0]
        variance = float((weights * left**2).sum() / (count - columns))
        sign, logged = np.linalg.slogdet(gram)
        spread = float(logged) if sign > 0 else math.inf
        return (count - columns) * math.log(variance) - float(np.log(weights).sum()) + spread, weights

    def residuals(self, beta: FloatArray, setting: Setting) -> FloatArray:
        """Return height left unexplained, each piece about its own mean. [m]"""
        left = [energy - columns @ beta for energy, columns in self.raw]
        return np.concatenate([(piece - piece.mean()) / (setting.mass * GRAVITY) for piece in left])


def _columns(piece: _Piece, speeds: FloatArray, setting: Setting, beta: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return energy not explained by height and motion, and what rolling, drag and wind take of it, by block. [J]"""
    v = speeds
    mass = setting.mass
    sine, cosine = np.sin(piece.headings), np.cos(piece.headings)
    air = v - beta[2] * sine - beta[3] * cosine
    half = 0.5 * piece.density
    push = np.concatenate(([0.0], np.cumsum(setting.efficiency * piece.powers[1:])))
    kept = mass * GRAVITY * (piece.heights - piece.heights[0]) + 0.5 * (mass + setting.inertia) * piece.speeds**2
    energy = push - kept - _gathered(BEARING_CONSTANT * piece.speeds + BEARING_SLOPE * piece.speeds**2)
    drag = half * np.abs(air) * air * v
    # a wind figure changes the drag by its slope there: the part beside the present wind goes to the energy
    by_wind = -beta[1] * 2.0 * half * np.abs(air) * v
    columns = np.column_stack((mass * GRAVITY * v, drag, by_wind * sine, by_wind * cosine))
    gathered = _gathered(columns)
    shift = gathered[:, 2] * beta[2] + gathered[:, 3] * beta[3]
    return _blocks(energy + shift), _blocks(gathered)


@njit(cache=True)
def _ridden(
    powers: FloatArray, slopes: FloatArray, winds: FloatArray, first: float, mass: float, inertia: float,
    rolling: float, half_drag: float,
) -> FloatArray:  # fmt: skip
    """Return the speeds that power, slope and mean wind give. [m/s]"""
    out = np.empty(powers.size)
    v = first
    for k in range(powers.size):
        for _ in range(2):
            air = v - winds[k]
            force = powers[k] / max(v, 1.0) - mass * GRAVITY * (slopes[k] + rolling) - half_drag * abs(air) * air
            force -= BEARING_CONSTANT + BEARING_SLOPE * v
            v = max(v + 0.5 * force / (mass + inertia), 1.0)
        out[k] = v
    return out


def _calm_speeds(piece: _Piece, setting: Setting, beta: FloatArray) -> FloatArray:
    """Return the speeds without gusts, by power, slope and mean wind alone. [m/s]"""
    smooth = np.convolve(np.pad(piece.heights, 10, mode="edge"), np.full(21, 1.0 / 21.0), "valid")
    slopes = np.gradient(smooth) / np.maximum(piece.speeds, 1.0)
    winds = beta[2] * np.sin(piece.headings) + beta[3] * np.cos(piece.headings)
    return _ridden(
        setting.efficiency * piece.powers, slopes, winds, float(piece.speeds[:10].mean()), setting.mass,
        setting.inertia, float(beta[0]), 0.5 * piece.density * float(beta[1]),
    )  # fmt: skip
