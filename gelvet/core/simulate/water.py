"""What water does to wet paint: drops that spread, drops that push paint aside, blooms, salt, gauze and splatter."""

from collections.abc import Callable

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.simulate.texture import smooth_noise

Pattern = Callable[[tuple[int, int], float, np.random.Generator], Floats]


def _radius(shape: tuple[int, int], centre: tuple[float, float], pixels_per_mm: float) -> Floats:
    """Distance (h, w) in mm from a place in pixels, row first."""
    y, x = np.mgrid[: shape[0], : shape[1]]
    return np.asarray(np.hypot(y - centre[0], x - centre[1]) / pixels_per_mm)


def _middle(shape: tuple[int, int]) -> tuple[float, float]:
    return (shape[0] - 1) / 2, (shape[1] - 1) / 2


def drop_of_paint(shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator) -> Floats:
    """Paint touched into a wet patch (h, w), 1 where the brush touched: it runs out to a feathered front."""
    reach = min(shape) / pixels_per_mm * float(rng.uniform(0.24, 0.34))
    front = reach * (1 + 0.06 * smooth_noise(shape, rng, 1.5 * pixels_per_mm))
    radius = _radius(shape, _middle(shape), pixels_per_mm)
    return np.asarray(0.5 * (1 - np.tanh((radius - front) / (0.1 * reach))) * (1 - 0.6 * np.clip(radius / reach, 0, 1)))


def drop_of_water(shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator) -> Floats:
    """Water dropped into a fresh wash (h, w), 1 where the wash was left alone: it pushes paint to a dark rim."""
    reach = min(shape) / pixels_per_mm * float(rng.uniform(0.18, 0.28))
    front = reach * (1 + 0.04 * smooth_noise(shape, rng, 1.5 * pixels_per_mm))
    radius = _radius(shape, _middle(shape), pixels_per_mm)
    inside = 0.5 * (1 - np.tanh((radius - front) / 0.35))
    return np.asarray(1 - 0.6 * inside + 0.9 * np.exp(-(((radius - front - 0.3) / 0.4) ** 2)))


def backruns(shape: tuple[int, int], pixels_per_mm: float, count: int, rng: np.random.Generator) -> Floats:
    """Factor (h, w) of a gradient with `count` closed ridges where water ran back into it."""
    factor = np.ones(shape)
    for number in range(count):
        reach = min(shape) / pixels_per_mm * float(rng.uniform(0.18, 0.3))
        margin = (reach + 1) * pixels_per_mm
        row = float(rng.uniform(margin, max(shape[0] - margin, margin + 1)))
        column = (0.15 + 0.7 * (number + 0.5) / count) * shape[1]
        radius = _radius(shape, (row, column), pixels_per_mm)
        factor *= 1 - 0.2 * (radius < reach) + 0.7 * np.exp(-(((radius - reach) / 0.3) ** 2))
    return factor


def _salt(shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator) -> Floats:
    return _spots(shape, pixels_per_mm, rng, per_cm2=9.0, size=(0.7, 1.3), inside=-0.75, rim=0.35)


def _splatter(shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator) -> Floats:
    return _spots(shape, pixels_per_mm, rng, per_cm2=12.0, size=(0.3, 0.9), inside=1.6, rim=0.2)


def _bloom(shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator) -> Floats:
    return _spots(shape, pixels_per_mm, rng, per_cm2=1.0, size=(2.2, 3.2), inside=-0.4, rim=0.9)


def _spots(
    shape: tuple[int, int],
    pixels_per_mm: float,
    rng: np.random.Generator,
    *,
    per_cm2: float,
    size: tuple[float, float],
    inside: float,
    rim: float,
) -> Floats:
    factor = np.ones(shape)
    count = max(1, int(rng.poisson(per_cm2 * shape[0] * shape[1] / (100 * pixels_per_mm**2))))
    for _ in range(count):
        reach = float(rng.uniform(*size))
        radius = _radius(shape, (float(rng.uniform(0, shape[0])), float(rng.uniform(0, shape[1]))), pixels_per_mm)
        factor *= 1 + inside * 0.5 * (1 - np.tanh((radius - reach) / 0.15)) + rim * np.exp(-(((radius - reach) / 0.2) ** 2))
    return factor


def _gauze(shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator) -> Floats:
    """Threads 1.6 mm apart, under which the paint gathered."""
    y, x = np.mgrid[: shape[0], : shape[1]] / pixels_per_mm
    turn = float(rng.uniform(-0.2, 0.2))
    one, other = x * np.cos(turn) + y * np.sin(turn), y * np.cos(turn) - x * np.sin(turn)
    threads = np.maximum(np.cos(2 * np.pi * one / 1.6), np.cos(2 * np.pi * other / 1.6))
    return np.asarray(0.7 + 0.8 * np.clip(threads, 0, 1) ** 4)


PATTERNS: dict[str, Pattern] = {"salt": _salt, "splatter": _splatter, "bloom": _bloom, "gauze": _gauze}
