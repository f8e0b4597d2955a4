"""Columns of any numbers and flags come back exactly, and overviews miss no extreme."""

from __future__ import annotations

import math

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.blocks import Scaled
from tickstone.core.status import Status
from tickstone.store.columns import (
    BUCKET_SAMPLES,
    overview_of,
    pack_column,
    pack_overview,
    unpack_column,
    unpack_overview,
)

numbers = st.one_of(
    st.floats(allow_nan=False, allow_infinity=False),
    st.integers(-(2**53), 2**53).map(float),
    st.decimals(-(10**6), 10**6, places=3).map(float),
)
columns = st.lists(
    st.tuples(numbers, st.sampled_from([0, 0, 0, int(Status.MISSING), int(Status.OVER_RANGE)])),
    max_size=120,
)


@given(columns)
def test_any_numbers_and_flags_survive_packing(rows: list[tuple[float, int]]) -> None:
    status = np.array([flag for _, flag in rows], dtype=np.uint8)
    values = np.array([math.nan if flag else value for value, flag in rows], dtype=np.float64)
    back, flags = unpack_column(pack_column(values, status))
    np.testing.assert_array_equal(back, values)
    np.testing.assert_array_equal(np.signbit(back), np.signbit(values))
    np.testing.assert_array_equal(flags, status)


@given(st.lists(st.integers(-(2**50), 2**50), min_size=1, max_size=80), st.integers(0, 9))
def test_scaled_whole_numbers_survive_packing(ints: list[int], decimals: int) -> None:
    scaled = Scaled(np.array(ints, dtype=np.int64), decimals)
    back, _ = unpack_column(pack_column(scaled, None))
    np.testing.assert_array_equal(back, scaled.values)


def test_whole_numbers_pack_small() -> None:
    rng = np.random.default_rng(1)
    values = np.round(rng.normal(512, 3, 65_536))
    assert len(pack_column(values, None)) < values.nbytes / 8
    volts = np.round(rng.normal(4.9, 0.01, 65_536), 3)
    assert len(pack_column(volts, None)) < volts.nbytes / 6


@given(st.integers(1, 3 * BUCKET_SAMPLES), st.integers(0, 2**32 - 1))
def test_an_overview_misses_no_extreme(count: int, seed: int) -> None:
    rng = np.random.default_rng(seed)
    values = rng.normal(0, 100, count)
    status = (rng.random(count) < 0.3).astype(np.uint8) * int(Status.MISSING)
    values[status != 0] = np.nan
    overview = unpack_overview(pack_overview(overview_of(values, status)))
    for n, first in enumerate(range(0, count, BUCKET_SAMPLES)):
        part = values[first : first + BUCKET_SAMPLES]
        good = part[~np.isnan(part)]
        if len(good):
            assert overview.lowest[n] == good.min()
            assert overview.highest[n] == good.max()
        else:
            assert math.isnan(overview.lowest[n])
        assert overview.flagged[n] == np.isnan(part).sum()
    same = overview_of(values, status)
    np.testing.assert_array_equal(same.lowest, overview.lowest)
