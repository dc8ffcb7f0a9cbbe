"""Smoothing without lag, in real time: third differences are kept small (Whittaker 1923; Eilers 2003, from memory)."""

from __future__ import annotations

import numpy as np

from zesty_lever.physics.vectors import Array

ANGLE_HZ, SPEED_HZ = 6.0, 3.5
ORDER = 3


def runs(known: Array) -> list[tuple[int, int]]:
    """First and one-past-last index of each stretch without a gap; ``known`` ``(n,)`` booleans."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], known, [False]]).astype(int)))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]


def smoothed(times_s: Array, values: Array, cut_off_Hz: float) -> Array:
    """Values ``(n,)`` without what is faster than the cut-off (half of its size stays); NaN gaps stay gaps."""
    out: Array = np.array(values, dtype=float)
    for start, end in runs(~np.isnan(out)):
        if end - start > ORDER + 1:
            out[start:end] = _whittaker(times_s[start:end], out[start:end], cut_off_Hz)
    return out


def speed(times_s: Array, values: Array) -> Array:
    """Change a second of smoothed values ``(n,)``; NaN beside gaps."""
    calm = smoothed(times_s, values, SPEED_HZ)
    return np.gradient(calm, times_s) if len(calm) > 1 else np.zeros_like(calm)


def _whittaker(times_s: Array, values: Array, cut_off_Hz: float) -> Array:
    """Solve (W + D'VD) x = W y, the third divided differences weighed by their time."""
    count = len(values)
    weights = np.gradient(times_s)
    strength = 1.0 / (2.0 * np.pi * cut_off_Hz) ** (2 * ORDER)
    # Coefficients of the third derivative on four neighbours in time, (n - 3, 4).
    nodes = np.stack([times_s[k : count - ORDER + k] for k in range(ORDER + 1)], axis=1)
    gaps = nodes[:, :, None] - nodes[:, None, :]
    gaps[:, range(ORDER + 1), range(ORDER + 1)] = 1.0
    third = 6.0 / gaps.prod(axis=2)
    spans = (nodes[:, -1] - nodes[:, 0]) / ORDER
    band = np.zeros((ORDER + 1, count))
    band[0] = weights
    for i in range(ORDER + 1):
        for j in range(i, ORDER + 1):
            band[j - i, i : count - ORDER + i] += strength * spans * third[:, i] * third[:, j]
    return _solve_band(band, weights * values)


def _solve_band(band: Array, right: Array) -> Array:
    """Solve a symmetric positive banded system by LDL'; ``band[k, i]`` is entry (i + k, i)."""
    width, count = band.shape
    diagonal = band[0].tolist()
    lower = [band[k].tolist() for k in range(width)]
    y = right.tolist()
    for i in range(count):
        for k in range(1, min(width, count - i)):
            share = lower[k][i] / diagonal[i]
            for m in range(k, min(width, count - i)):
                if m == k:
                    diagonal[i + k] -= share * lower[m][i]
                else:
                    lower[m - k][i + k] -= share * lower[m][i]
            y[i + k] -= share * y[i]
    for i in range(count - 1, -1, -1):
        total = y[i]
        for k in range(1, min(width, count - i)):
            total -= lower[k][i] * y[i + k]
        y[i] = total / diagonal[i]
    return np.array(y)
