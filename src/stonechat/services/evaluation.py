"""Evaluate a variant, and keep the result while the plan stands as it does."""

from collections import OrderedDict
from threading import Lock
from typing import Any

from stonechat.core.line.track import Profile, make_profile
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.plan import Plan
from stonechat.services.history import OpenPlan

_KEPT = 64


class _Kept:
    """A few results by key, least used out first; safe between threads."""

    def __init__(self, size: int) -> None:
        self._size, self._lock = size, Lock()
        self._results: OrderedDict[Any, Any] = OrderedDict()

    def get(self, key: Any) -> Any:
        with self._lock:
            if key in self._results:
                self._results.move_to_end(key)
            return self._results.get(key)

    def put(self, key: Any, value: Any) -> None:
        with self._lock:
            self._results[key] = value
            while len(self._results) > self._size:
                self._results.popitem(last=False)


_PROFILES, _EVALUATIONS = _Kept(16), _Kept(_KEPT)


def cleaned_profile(plan: Plan, course_hash: str) -> Profile:
    """Return the cleaned course of a plan."""
    line = plan.line
    key = (course_hash, line.cleaning, line.spans, line.default_surface)
    profile: Profile | None = _PROFILES.get(key)
    if profile is None:
        profile = make_profile(
            track=line.track, cleaning=line.cleaning, spans=line.spans, default_surface=line.default_surface
        )
        _PROFILES.put(key, profile)
    return profile


def evaluated(opened: OpenPlan, variant_id: str) -> Evaluation:
    """Return a variant ridden, supplied, priced and checked."""
    key = (opened.id, opened.revision, variant_id)
    result: Evaluation | None = _EVALUATIONS.get(key)
    if result is None:
        profile = cleaned_profile(opened.plan, opened.course_hash)
        result = evaluate(opened.plan, variant_id, profile=profile)
        _EVALUATIONS.put(key, result)
    return result
