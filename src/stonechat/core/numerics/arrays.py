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
