"""Painting surfaces against a plain raster."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.line.surface import SURFACES, SurfaceSpan, paint_surface

stretches = st.tuples(st.integers(0, 40), st.integers(0, 40), st.sampled_from(["", "track", "tarmac", "sand_mud"]))


@given(st.lists(stretches, max_size=8))
def test_every_metre_has_the_surface_that_was_painted_last(painted: list[tuple[int, int, str]]) -> None:
    raster = [""] * 40
    spans: tuple[SurfaceSpan, ...] = ()
    for a, b, surface in painted:
        start, end = min(a, b), max(a, b)
        spans = paint_surface(spans, start=float(start), end=float(end), surface=surface)
        raster[start:end] = [surface] * (end - start)
    laid = [""] * 40
    for span in spans:
        laid[int(span.start) : int(span.end)] = [span.surface] * int(span.end - span.start)
    assert laid == raster
    # in order, apart, and joined where alike
    for before, after in itertools.pairwise(spans):
        assert before.end <= after.start
        assert before.end < after.start or before.surface != after.surface


@pytest.mark.parametrize("surface", SURFACES, ids=lambda s: s.key)
def test_bands_hold_their_default_and_rougher_is_slower(surface: object) -> None:
    assert surface.rolling_low < surface.rolling < surface.rolling_high  # type: ignore[attr-defined]
