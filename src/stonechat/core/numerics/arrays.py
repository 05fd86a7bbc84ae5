"""Names for array types."""

from typing import Any

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]
IntArray = npt.NDArray[np.int64]
ComplexArray = npt.NDArray[np.complex128]
BoolArray = npt.NDArray[np.bool_]


def frozen(values: npt.ArrayLike, dtype: Any = np.float64) -> npt.NDArray[Any]:
    """Return a read-only copy of an array.

    Parameters
    ----------
    values : array_like
        Values in any unit. [1]
    dtype : type
        Kind of the copy's values.

    Returns
    -------
    array : ndarray
        The copy; writing to it is an error. [1]

    Examples
    --------
    >>> frozen([1, 2]).flags.writeable
    False
    """
    array = np.array(values, dtype=dtype)
    array.flags.writeable = False
    return array


def runs_of(mask: BoolArray) -> list[tuple[int, int]]:
    """Return where a mask holds.

    Parameters
    ----------
    mask : ndarray, shape (n,)
        Whether it holds.

    Returns
    -------
    runs : list of tuple of int
        First index of each run, and first index after it. [1]

    Examples
    --------
    >>> runs_of(np.array([True, False, True, True]))
    [(0, 1), (2, 4)]
    """
    edges = np.flatnonzero(np.diff(np.concatenate(([0], np.asarray(mask, dtype=np.int8), [0]))))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
