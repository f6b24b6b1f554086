"""Figures as documents hold them: few digits, never anything that is not finite."""

import numpy as np

from gelvet.core.arrays import Floats

_DIGITS = 5


def numbers(values: Floats) -> list[float]:
    return [round(float(v), _DIGITS) for v in np.asarray(values).ravel()]


def number(value: float | None) -> float | None:
    return None if value is None else round(float(value), _DIGITS)
