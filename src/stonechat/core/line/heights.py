"""Heights of a course freed of their noise: how much there is of it, and what is left of the hills under it.

Time is convex in grade, so noise makes a ride too slow and smoothing makes it too fast. What matters is how much of
the ups and downs of each length is left; here each length keeps as much as it has beyond the noise.
"""

import numpy as np
from numba import njit
from scipy.ndimage import gaussian_filter1d, median_filter, uniform_filter1d

from stonechat.core.numerics.arrays import ComplexArray, FloatArray, IntArray

LONGEST_STEP = 20.0  # m, step at which heights are read and cleaned where the points lie no closer
SHORTEST_STEP = 10.0  # m, and where they lie closer
SPIKE_WINDOW = 5  # points of the step that a spike is held against
SPIKE_LEAST = 8.0  # m off the points around it, from which a point is a spike
QUIET = 0.05  # m of noise below which nothing is taken away
_FAR = 400.0  # m from the first to the last of five points, beyond which ground is no longer smooth between them
_TOGETHER = 64  # points whose noise is averaged; of those averages the middle one counts
_WINDOW = 2_560.0  # m that are looked at together
_BESIDE = 4  # windows to either side over which their strength is averaged
_SHORT = 110.0  # m, ups and downs shorter than this are hardly ever ground
_CLEAR = 1.2  # 1, ground is told from noise where there is so many times the power of noise alone
_CLEAR_SHORT = 4.0  # 1, and where it is short
_LAGS = 64  # steps over which points far apart make noise alike


def cleaning_step(distances: FloatArray) -> float:
    """Return the step at which the heights of a course are cleaned: as close as its points, within limits.

    Parameters
    ----------
    distances : ndarray, shape (n,)
        Of the recorded points along the way. [m]

    Returns
    -------
    step : float
        From `SHORTEST_STEP` to `LONGEST_STEP`. [m]

    Notes
    -----
    Every second point left out is half of what the noise could be averaged with.

    Examples
    --------
    >>> cleaning_step(np.arange(0.0, 500.0, 12.0)), cleaning_step(np.arange(0.0, 500.0, 80.0))
    (12.0, 20.0)
    """
    return float(np.clip(np.median(np.diff(distances)), SHORTEST_STEP, LONGEST_STEP))


def without_spikes(heights: FloatArray) -> FloatArray:
    """Return heights with lone points far off those around them set to the running median.

    Parameters
    ----------
    heights : ndarray, shape (n,)
        At even steps. [m]

    Returns
    -------
    heights : ndarray, shape (n,)
        The same, but for spikes. [m]

    Examples
    --------
    >>> without_spikes(np.array([5.0, 5.0, 5.0, 90.0, 5.0, 6.0])).tolist()
    [5.0, 5.0, 5.0, 5.0, 5.0, 6.0]
    """
    middle = median_filter(heights, size=SPIKE_WINDOW, mode="nearest")
    off = np.abs(heights - middle)
    usual = 1.4826 * float(np.median(off))
    return np.where(off > max(SPIKE_LEAST, 6.0 * usual), middle, heights)


@njit(cache=True)
def _apart(distances: FloatArray, least: float) -> IntArray:
    """Return the points that are at least so far from the one taken before. [m]"""
    taken = [0]
    for index in range(1, distances.size):
        if distances[index] - distances[taken[-1]] >= least:
            taken.append(index)
    return np.array(taken)


def height_noise(distances: FloatArray, heights: FloatArray) -> float | None:
    """Return the standard deviation of what varies from point to point without being ground.

    Parameters
    ----------
    distances : ndarray, shape (n,)
        Of the recorded points, rising. [m]
    heights : ndarray, shape (n,)
        There, free of spikes. [m]

    Returns
    -------
    noise : float or None
        None where there are too few points, or they lie too far apart, to tell. [m]

    Notes
    -----
    From how far each point lies off the cubic through the two on either side, of which smooth ground has next to none:
    the mean square over 64 points, of those the median, so that a few jumps do not count. Noise that drifts slowly is
    not seen, and does little to grades.

    Examples
    --------
    >>> at = np.arange(0.0, 50_000.0, 10.0)
    >>> round(height_noise(at, np.random.default_rng(1).normal(0.0, 1.0, at.size)), 1)
    1.0
    """
    taken = _apart(distances, 0.95 * SHORTEST_STEP)
    if taken.size <= 12:
        return None
    at = np.lib.stride_tricks.sliding_window_view(distances[taken], 5)
    around, middle = at[:, [0, 1, 3, 4]], at[:, 2:3]
    weights = np.ones_like(around)
    for i in range(4):
        for j in range(4):
            if i != j:
                weights[:, i] *= (middle[:, 0] - around[:, j]) / (around[:, i] - around[:, j])
    beside = np.lib.stride_tricks.sliding_window_view(heights[taken], 5)
    off = beside[:, 2] - (weights * beside[:, [0, 1, 3, 4]]).sum(axis=1)
    squares = (off**2 / (1.0 + (weights**2).sum(axis=1)))[at[:, 4] - at[:, 0] <= _FAR]
    if squares.size < 8:
        return None
    parts = np.array_split(squares, max(1, squares.size // _TOGETHER))
    return float(np.sqrt(np.median([part.mean() for part in parts])))


def _noise_power(distances: FloatArray, at: FloatArray, frequencies: FloatArray) -> FloatArray:
    """Return the power at each frequency [1/step] that noise of 1 m at points has once it is read at even steps.

    Reading between two points makes a mean of them, and long gaps a line: what is left is less, and not white. The
    covariance of what is read is known from the weights alone, and the power is its transform.
    """
    before = np.clip(np.searchsorted(distances, at, side="right") - 1, 0, distances.size - 2)
    later = np.clip((at - distances[before]) / (distances[before + 1] - distances[before]), 0.0, 1.0)
    power = np.full(frequencies.size, float(np.mean((1.0 - later) ** 2 + later**2)))
    for lag in range(1, min(_LAGS, at.size - 1)):
        first, second = before[:-lag], before[lag:]
        same = (first == second) * ((1.0 - later[:-lag]) * (1.0 - later[lag:]) + later[:-lag] * later[lag:])
        shared = (first + 1 == second) * later[:-lag] * (1.0 - later[lag:])
        covariance = float(np.mean(same + shared))
        if covariance < 1e-6:
            break
        power += 2.0 * covariance * np.cos(2.0 * np.pi * lag * frequencies)
    return np.asarray(np.maximum(power, 0.0), dtype=np.float64)


def smoothed(heights: FloatArray, step: float, width: float) -> FloatArray:
    """Return heights smoothed by a Gaussian.

    Parameters
    ----------
    heights : ndarray, shape (n,)
        At even steps. [m]
    step : float
        Of the heights. [m]
    width : float
        Standard deviation along the way; 0 leaves them as they are. [m]

    Returns
    -------
    heights : ndarray, shape (n,)
        Smoothed. [m]

    Examples
    --------
    >>> smoothed(np.array([0.0, 3.0, 0.0]), 20.0, 0.0).tolist()
    [0.0, 3.0, 0.0]
    """
    return np.asarray(gaussian_filter1d(heights, width / step, mode="nearest")) if width > 0.0 else heights


def without_noise(heights: FloatArray, step: float, noise: float, distances: FloatArray) -> FloatArray:
    """Return heights in which every length of ups and downs keeps as much as it has beyond the noise.

    Parameters
    ----------
    heights : ndarray, shape (n,)
        At even steps. [m]
    step : float
        Of the heights. [m]
    noise : float
        Standard deviation of the noise from point to point. [m]
    distances : ndarray, shape (m,)
        Of the recorded points that the heights were read from, rising. [m]

    Returns
    -------
    heights : ndarray, shape (n,)
        As given where the noise is under `QUIET`. [m]

    Notes
    -----
    Spectral subtraction on the slopes: in windows of 2.5 km that overlap by half, each frequency is weakened to
    ``sqrt((P - N) / P)`` of itself, with ``P`` its power, averaged over the windows around, and ``N`` that of the
    noise, ``4 sin²(pi f) noise²/step²`` where every point is read as it is; to nothing where ``P`` is not clearly more
    than ``N``. So the power that is left is, on average, that of the ground, which is what moving time and climbing
    depend on.

    References
    ----------
    [Boll1979]

    Examples
    --------
    >>> at = np.arange(0.0, 20_000.0, 20.0)
    >>> hills = 3.2 * np.sin(at / 80.0)
    >>> noisy = hills + np.random.default_rng(1).normal(0.0, 1.0, at.size)
    >>> bool(np.std(without_noise(noisy, 20.0, 1.0, at) - hills) < 0.5)
    True
    """
    if noise < QUIET or heights.size < 4:
        return heights
    slopes = np.diff(heights) / step
    size = 2 * round(0.5 * _WINDOW / step)
    padded = np.pad(slopes, (size, 2 * size), mode="edge")
    firsts = np.arange(0, padded.size - size + 1, size // 2)
    shape = np.sqrt(0.5 - 0.5 * np.cos(2.0 * np.pi * (np.arange(size) + 0.5) / size))
    windows = np.lib.stride_tricks.sliding_window_view(padded, size)[firsts]
    means = (windows * shape**2).sum(axis=1, keepdims=True) / (shape**2).sum()
    spectra = np.fft.rfft((windows - means) * shape, axis=1)
    frequencies: FloatArray = np.arange(size // 2 + 1) / size
    of_heights = noise**2 * _noise_power(distances, np.arange(float(heights.size)) * step, frequencies)
    of_noise = of_heights * 4.0 * np.sin(np.pi * frequencies) ** 2 * (shape**2).sum() / step**2
    parts = np.fft.irfft(spectra * _gain(spectra, of_noise, frequencies / step), size, axis=1)
    together = np.zeros(padded.size)
    for first, part in zip(firsts, parts * shape + means * shape**2, strict=True):
        together[first : first + size] += part
    risen = np.concatenate(([0.0], np.cumsum(together[size : size + slopes.size] * step)))
    # the slopes sum to the whole way's rise again, so that start and finish stay where they are
    risen += np.linspace(0.0, float(heights[-1] - heights[0] - risen[-1]), risen.size)
    return np.asarray(heights[0] + risen, dtype=np.float64)


def _gain(spectra: ComplexArray, of_noise: FloatArray, frequencies: FloatArray) -> FloatArray:
    """Return what share of each frequency [1/m] of each window is kept, shape as the spectra. [1]"""
    power = uniform_filter1d(np.abs(spectra) ** 2, 2 * _BESIDE + 1, axis=0, mode="nearest")
    aside = np.pad(power, ((0, 0), (1, 1)), mode="edge")
    power = 0.25 * aside[:, :-2] + 0.5 * power + 0.25 * aside[:, 2:]
    clear = power > np.where(frequencies * _SHORT > 1.0, _CLEAR_SHORT, _CLEAR) * of_noise
    return np.sqrt(np.clip(1.0 - of_noise / np.maximum(power, 1e-30), 0.0, 1.0)) * clear


@njit(cache=True)
def ascent_by_threshold(heights: FloatArray, threshold: float) -> FloatArray:
    """Return the climbing done from the start to each point, small ups and downs left out.

    Parameters
    ----------
    heights : ndarray, shape (n,)
        Heights along the way. [m]
    threshold : float
        A rise counts once it is at least this high over the last low, and a fall ends it once it is as deep. [m]

    Returns
    -------
    climbed : ndarray, shape (n,)
        Climbing up to each point. [m]

    Examples
    --------
    >>> ascent_by_threshold(np.array([0.0, 10.0, 8.0, 20.0, 0.0]), 5.0)
    array([ 0., 10., 10., 20., 20.])
    """
    climbed = np.zeros(heights.size)
    low = high = heights[0]
    done = 0.0
    climbing = False
    for index, height in enumerate(heights):
        if climbing:
            if height > high:
                done += height - high
                high = height
            elif high - height >= threshold:
                climbing, low = False, height
        elif height < low:
            low = height
        elif height - low >= threshold and height > low:
            climbing, high = True, height
            done += height - low
        climbed[index] = done
    return climbed
