"""Spectra that patches of known colour are likely to have, for targets whose file holds colours alone.

Many spectra have one colour. The sample of paints tells which are usual: each patch is given the mean reflectance of the paints of
nearly its colour, bent as little as makes that colour exact. What is not known of a spectrum then hardly biases what is learnt of the
device from all patches together, as with a regressor replaced by its expectation (R. J. Carroll and others, Measurement Error in
Nonlinear Models, 2006, chapter 4).
"""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.paint_prior import paint_prior
from gelvet.core.colour.spectra import observer_d50

LIKELY_NM = np.arange(380.0, 731.0, 10.0)
# So many paints of nearly the colour; within σ of this ratio of X, Y, Z at least, or of the few nearest.
_PAINTS, _NEAREST, _WIDTH = 60, 8, 0.12
_DARKEST_XYZ, _DARKEST = 0.05, 1e-4
# A target's inks are none of the usual pigments of paints.
_USUAL = 0.0
# The dearest bend has curvature; moving all of a spectrum a little is nearly free.
_BEND_COST, _MOVE_COST, _ROUNDS = 4.0, 0.02, 6


def prepare_likely_spectra() -> None:
    """Makes the sample, which takes a while, before it is needed."""
    paint_prior(tuple(LIKELY_NM.tolist()), _USUAL)


def likely_spectra(xyz: Floats) -> Floats:
    """Reflectance (n, 36) at `LIKELY_NM` of patches of colour `xyz` (n, 3), D50 and Y = 100; it integrates to just that."""
    paints = paint_prior(tuple(LIKELY_NM.tolist()), _USUAL)
    weights = observer_d50(LIKELY_NM)
    colours = np.log(np.maximum(paints @ weights, _DARKEST_XYZ))
    return np.array([_bent(_usual(paints, colours, np.log(np.maximum(known, _DARKEST_XYZ))), known, weights) for known in xyz])


def _usual(paints: Floats, colours: Floats, wanted: Floats) -> Floats:
    """Reflectance (m,) by a straight line through the logarithms of like paints, in those of their colours (k, 3)."""
    distance = np.linalg.norm(colours - wanted, axis=1)
    near = np.argsort(distance)[:_PAINTS]
    weight = np.exp(-0.5 * (distance[near] / max(_WIDTH, distance[near[_NEAREST]])) ** 2)
    design = np.column_stack([np.ones(_PAINTS), colours[near] - wanted])
    gram = design.T @ (design * weight[:, None]) + np.diag([0.0, 0.01, 0.01, 0.01])
    moment = design.T @ (np.log(np.maximum(paints[near], _DARKEST)) * weight[:, None])
    return np.asarray(np.exp(np.linalg.solve(gram, moment)[0]))


def _bent(reflectance: Floats, known: Floats, weights: Floats) -> Floats:
    """The spectrum (m,) times a smooth factor that makes its XYZ the `known` one, by Newton's steps."""
    bend = np.diff(np.eye(len(reflectance)), 2, axis=0)
    stiff = np.linalg.inv(_BEND_COST * bend.T @ bend + _MOVE_COST * np.eye(len(reflectance)))
    for _ in range(_ROUNDS):
        moves = stiff @ (weights * reflectance[:, None])
        missing = known - reflectance @ weights
        step = moves @ np.linalg.lstsq((weights * reflectance[:, None]).T @ moves, missing, rcond=None)[0]
        reflectance = reflectance * np.exp(np.clip(step, -1, 1))
    return reflectance
