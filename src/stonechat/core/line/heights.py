"""Heights of a course freed of their noise: how much there is of it, and what is left of the hills under it.

Time is convex in grade, so noise makes a ride too slow and smoothing makes it too fast. What matters is how much of
the ups and downs of each length is left; here each length keeps as much as it has beyond the noise.
"""

import numpy as np
from numba import njit
from scipy.ndimage import gaussian_filter1d, median_filter, uniform_filter1d

from stonechat.core.numerics.arrays import FloatArray

STEP = 20.0  # m, step at which heights are cleaned
SPIKE_WINDOW = 5  # points of the step that a spike is held against
SPIKE_LEAST = 8.0  # m off the points around it, from which a point is a spike
QUIET = 0.05  # m of noise below which nothing is taken away
_WINDOW = 128  # points of the step that are looked at together: 2.5 km
_BESIDE = 4  # windows to either side over which their strength is averaged
_CAUTION = 1.2  # 1, noise is taken for so much stronger than measured, as a strength of its own varies
_DIFFERENCE = 4  # order of the differences that show the noise alone
_OF_WHITE = 70.0  # 1, variance of fourth differences of white noise: 1 + 16 + 36 + 16 + 1


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


def height_noise(heights: FloatArray) -> float:
    """Return the standard deviation of what varies from point to point without being ground.

    Parameters
    ----------
    heights : ndarray, shape (n,)
        At even steps, free of spikes. [m]

    Returns
    -------
    noise : float
        0 where there are too few points to tell. [m]

    Notes
    -----
    From the fourth differences, of which smooth ground has next to none, by their median so that a few jumps do not
    count. Noise that drifts slowly is not seen, and does little to grades.

    Examples
    --------
    >>> round(height_noise(np.random.default_rng(1).normal(0.0, 1.0, 5_000)), 1)
    1.0
    """
    if heights.size <= 3 * _DIFFERENCE:
        return 0.0
    differences = np.diff(heights, _DIFFERENCE)
    return 1.4826 * float(np.median(np.abs(differences))) / float(np.sqrt(_OF_WHITE))


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


def without_noise(heights: FloatArray, step: float, noise: float) -> FloatArray:
    """Return heights in which every length of ups and downs keeps as much as it has beyond the noise.

    Parameters
    ----------
    heights : ndarray, shape (n,)
        At even steps. [m]
    step : float
        Of the heights. [m]
    noise : float
        Standard deviation of the noise from point to point. [m]

    Returns
    -------
    heights : ndarray, shape (n,)
        As given where the noise is under `QUIET`. [m]

    Notes
    -----
    Spectral subtraction on the slopes: in windows of 2.5 km that overlap by half, each frequency is weakened to
    ``sqrt(max(0, P - c N) / P)`` of itself, with ``P`` its power, averaged over the windows around, and ``N`` the power
    that white noise of heights has in slopes, ``4 sin²(pi f) noise²/step²``. So the power that is left is, on average,
    that of the ground, which is what moving time and climbing depend on.

    References
    ----------
    [Boll1979]

    Examples
    --------
    >>> at = np.arange(0.0, 20_000.0, 20.0)
    >>> hills = 3.2 * np.sin(at / 80.0)
    >>> noisy = hills + np.random.default_rng(1).normal(0.0, 1.0, at.size)
    >>> bool(np.std(without_noise(noisy, 20.0, 1.0) - hills) < 0.5)
    True
    """
    if noise < QUIET or heights.size < 4:
        return heights
    slopes = np.diff(heights) / step
    padded = np.pad(slopes, (_WINDOW, 2 * _WINDOW), mode="edge")
    firsts = np.arange(0, padded.size - _WINDOW + 1, _WINDOW // 2)
    shape = np.sqrt(0.5 - 0.5 * np.cos(2.0 * np.pi * (np.arange(_WINDOW) + 0.5) / _WINDOW))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[firsts]
    means = (windows * shape**2).sum(axis=1, keepdims=True) / (shape**2).sum()
    spectra = np.fft.rfft((windows - means) * shape, axis=1)
    power = uniform_filter1d(np.abs(spectra) ** 2, 2 * _BESIDE + 1, axis=0, mode="nearest")
    aside = np.pad(power, ((0, 0), (1, 1)), mode="edge")
    power = 0.25 * aside[:, :-2] + 0.5 * power + 0.25 * aside[:, 2:]
    frequencies = np.arange(_WINDOW // 2 + 1) / _WINDOW
    of_noise = (noise / step) ** 2 * 4.0 * np.sin(np.pi * frequencies) ** 2 * (shape**2).sum()
    gain = np.sqrt(np.clip((power - _CAUTION * of_noise) / np.maximum(power, 1e-30), 0.0, 1.0))
    parts = np.fft.irfft(spectra * gain, _WINDOW, axis=1) * shape + means * shape**2
    cleaned = np.zeros(padded.size)
    for first, part in zip(firsts, parts, strict=True):
        cleaned[first : first + _WINDOW] += part
    kept = cleaned[_WINDOW : _WINDOW + slopes.size]
    risen = np.concatenate(([0.0], np.cumsum(kept * step)))
    # the slopes sum to the whole way's rise again, so that start and finish stay where they are
    risen += np.linspace(0.0, float(heights[-1] - heights[0] - risen[-1]), risen.size)
    return np.asarray(heights[0] + risen, dtype=np.float64)


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
