"""A few computed results in memory, so that the same thing is not worked out twice."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, Generic, TypeVar
from weakref import WeakSet

T = TypeVar("T")
_EVERY: "WeakSet[Kept[Any]]" = WeakSet()


def forget_all() -> None:
    """Throw out every result of this process, as where what they were made of is deleted for good."""
    for kept in _EVERY:
        kept.clear()


class Kept(Generic[T]):
    """A few results by key, the one least used thrown out first; safe between threads."""

    def __init__(self, size: int) -> None:
        self._size, self._lock = size, Lock()
        self._results: OrderedDict[Hashable, T] = OrderedDict()
        _EVERY.add(self)

    def clear(self) -> None:
        """Throw all results out."""
        with self._lock:
            self._results.clear()

    def get(self, key: Hashable) -> T | None:
        """Return a result, or None where it is not kept."""
        with self._lock:
            if key in self._results:
                self._results.move_to_end(key)
            return self._results.get(key)

    def __contains__(self, key: Hashable) -> bool:
        """Tell whether a result is kept."""
        with self._lock:
            return key in self._results

    def of(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return what is kept, made now where nothing is."""
        found = self.get(key)
        return self.put(key, make()) if found is None else found

    def put(self, key: Hashable, value: T) -> T:
        """Keep a result and return it."""
        with self._lock:
            self._results[key] = value
            while len(self._results) > self._size:
                self._results.popitem(last=False)
        return value
