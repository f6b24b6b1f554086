"""Figures as documents hold them: few digits, never anything that is not finite."""

import math

import numpy as np

from gelvet.core.arrays import Floats

_DIGITS, _FINEST = 5, 9
# Small figures, and above all small uncertainties, keep so many digits of their own.
_SIGNIFICANT = 3


def numbers(values: Floats) -> list[float]:
    return [_rounded(float(v)) for v in np.asarray(values).ravel()]


def number(value: float | None) -> float | None:
    return None if value is None else _rounded(float(value))


def _rounded(value: float) -> float:
    small = 0 < abs(value) < 10 ** (_SIGNIFICANT - 1 - _DIGITS)
    digits = _SIGNIFICANT - 1 - math.floor(math.log10(abs(value))) if small else _DIGITS
    return round(value, min(digits, _FINEST))
