"""Light that bends too fast for a low-order surface: on a card that does not lie flat, or through a lens that darkens its corners."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from gelvet.core.arrays import Floats, Integers, Mask
from gelvet.core.capture.placing.geometry import sample_places
from gelvet.core.card.layout import Rect
from gelvet.core.robust import SPREAD_OF_MEDIAN

if TYPE_CHECKING:
    from scipy.sparse import csr_array

# Nothing narrower than about two of these is followed: it would be the paper's own cloudiness, or paint that ran out of its zone.
_KNOT_MM = 16.0
# How much the surface is drawn to none at all where no place near tells of it; where places do, this is nothing to them.
_PULL = 2.0
# Neighbouring places err together, by the relief that a low lamp shades and the words that run through them, so that each term which
# the surface spends counts as so many.
_COUNTS_AS = 4.0
_STIFFNESSES = 10.0 ** np.arange(-2.0, 5.5, 0.5)
_FEWEST_CELLS, _ROUNDS = 60, 3


@dataclass(frozen=True, slots=True)
class LocalShading:
    """`coefficients` (rows, columns) of a surface of uniform cubic B-splines, the logarithm of the light, from edge to edge of the card."""

    coefficients: Floats
    size_mm: tuple[float, float]

    def at(self, x_mm: Floats, y_mm: Floats) -> Floats:
        """Logarithm (...) of the relative light at card points (...)."""
        across, down = _bases(np.ravel(x_mm), np.ravel(y_mm), self.size_mm)
        return np.asarray(((down @ self.coefficients) * across).sum(axis=1).reshape(np.shape(x_mm)))

    def over(self, rect: Rect, shape: tuple[int, int]) -> Floats:
        """The same (h, w) over the samples of a rectified `rect`."""
        x, y = sample_places(rect, shape)
        across, down = _bases(x, y, self.size_mm)
        return np.asarray(down @ self.coefficients @ across.T)


def fit_local_shading(centres_mm: Floats, log_light: Floats, kept: Mask, size_mm: tuple[float, float]) -> LocalShading | None:
    """Surface through what a low-order one leaves over of the light (n,) at `centres_mm` (n, 2), of those `kept` (n,) that lie near it.

    Penalised B-splines (Eilers and Marx, Statistical Science 11, 1996, 89), stiff as generalised cross-validation wants it. None where
    too few places tell.
    """
    design, (rows, columns) = _design(centres_mm, size_mm)
    bend = np.kron(np.eye(rows), _bends(columns)) + np.kron(_bends(rows), np.eye(columns)) + _PULL * np.eye(rows * columns)
    near: Mask = kept
    solution: Floats = np.zeros(design.shape[1])
    for _ in range(_ROUNDS):
        if near.sum() < _FEWEST_CELLS:
            return None
        solution = _smoothed(design[near], log_light[near], bend)
        left = log_light - design @ solution
        spread = SPREAD_OF_MEDIAN * float(np.median(np.abs(left[near]))) + 1e-3
        near = kept & (np.abs(left) < 3 * spread)
    return LocalShading(solution.reshape(rows, columns), size_mm)


def _smoothed(design: "csr_array", light: Floats, bend: Floats) -> Floats:
    """Coefficients (terms,) of the stiffness that predicts best what is left out."""
    from scipy.linalg import eigh

    gram = (design.T @ design).toarray()
    gram += 1e-6 * np.trace(gram) / len(gram) * np.eye(len(gram))
    bends, back = eigh(bend, gram)
    along = back.T @ (design.T @ light)
    total, count = float(light @ light), len(light)
    kept = 1 / (1 + _STIFFNESSES[:, None] * np.maximum(bends, 0))
    left = total - ((2 * kept - kept**2) * along**2).sum(axis=1)
    score = left / np.maximum(count - _COUNTS_AS * kept.sum(axis=1), 1) ** 2
    return np.asarray(back @ (kept[int(score.argmin())] * along))


def _bends(count: int) -> Floats:
    second = np.diff(np.eye(count), n=2, axis=0)
    return np.asarray(second.T @ second)


def _bases(x: Floats, y: Floats, size_mm: tuple[float, float]) -> tuple[Floats, Floats]:
    """What each spline across (n, columns) and down (m, rows) weighs at these places; the edge goes on outside the card."""
    return _dense(*_basis(x, size_mm[0])), _dense(*_basis(y, size_mm[1]))


def _design(places: Floats, size_mm: tuple[float, float]) -> tuple["csr_array", tuple[int, int]]:
    """What each spline of the surface weighs at `places` (n, 2): (n, rows · columns), and these."""
    from scipy.sparse import csr_array

    (first_x, across, columns), (first_y, down, rows) = (_basis(places[:, axis], size_mm[axis]) for axis in (0, 1))
    terms = (first_y[:, None, None] + np.arange(4)[:, None]) * columns + first_x[:, None, None] + np.arange(4)
    weights = down[:, :, None] * across[:, None, :]
    starts = np.arange(0, weights.size + 1, 16)
    return csr_array((weights.ravel(), terms.ravel(), starts), shape=(len(places), rows * columns)), (rows, columns)


def _basis(at_mm: Floats, length_mm: float) -> tuple[Integers, Floats, int]:
    """Uniform cubic B-splines: the first of the four that reach each place (n,), their weights (n, 4), and how many there are in all."""
    pieces = max(2, round(length_mm / _KNOT_MM))
    at = np.clip(at_mm / length_mm, 0, 1) * pieces
    piece = np.minimum(at.astype(int), pieces - 1)
    t = at - piece
    weights = np.stack([(1 - t) ** 3, 3 * t**3 - 6 * t**2 + 4, -3 * t**3 + 3 * t**2 + 3 * t + 1, t**3], axis=1) / 6
    return piece, weights, pieces + 3


def _dense(first: Integers, weights: Floats, count: int) -> Floats:
    basis = np.zeros((len(first), count))
    np.put_along_axis(basis, first[:, None] + np.arange(4), weights, axis=1)
    return basis
