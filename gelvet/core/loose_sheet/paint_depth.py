"""How much paint lies where on a sheet: tint depth against the paper around it, coarse, for finding swatches only."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.capture.colour.white_paper import stated_encoding
from gelvet.core.capture.device import Device, apply_lookup
from gelvet.core.capture.light.flat_field import CELL_MM, PaperCells, fit_flat_field
from gelvet.core.capture.placing.geometry import Geometry, rectify
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Rect
from gelvet.core.robust import SPREAD_OF_MEDIAN

# Swatches are some millimetres large: six samples to the millimetre show their edges.
_PIXELS_PER_MM, _MOST_SAMPLES = 6.0, 2000.0
_DARKEST = 1e-3
# Depths below this may be bare paper; they are counted by such steps.
_NEARLY_BARE, _STEP = 0.06, 0.004
# Paper is the lightest thing that covers this share of a sheet or more, and this much of what any wash covers.
_PAPER_SHARE, _BESIDE_WASHES = 0.08, 0.5
_LIGHTEST_SHARE, _LEVEL_STEP = 0.02, 0.04
# Cells this near the level begin the fit of the light, on logarithms; those this near the fit are paper, for as many rounds.
_NEAR_LEVEL, _NEAR_FIT, _ROUNDS = 0.12, 0.05, 3


@dataclass(frozen=True, slots=True)
class SheetDepth:
    """`density` (h, w, 3) float32 of each channel, about 0 on paper; `shown` (h, w) is False outside the image; `noise` is
    the paper's own SD."""

    density: Floats
    shown: Mask
    pixels_per_mm: float
    noise: float

    @property
    def depth(self) -> Floats:
        """(h, w): the densest of the channels."""
        return np.ascontiguousarray(self.density.max(axis=-1))


def sheet_depth(picture: Picture, geometry: Geometry) -> SheetDepth:
    """Of the sheet placed by `geometry`, with the light's fall-off taken out."""
    import cv2

    size = geometry.size_mm
    scale = min(_PIXELS_PER_MM, _MOST_SAMPLES / max(size), geometry.pixels_per_mm)
    factor = max(1, int(geometry.pixels_per_mm / scale))
    height, width = (side // factor * factor for side in picture.pixels.shape[:2])
    small = cv2.resize(picture.pixels[:height, :width], (width // factor, height // factor), interpolation=cv2.INTER_AREA)
    reduced = geometry.reduced(factor)
    sheet = Rect(0, 0, *size)
    upright = rectify(np.asarray(small), (0, 0), reduced, sheet, scale)
    shown = rectify(np.ones(small.shape[:2], dtype=np.uint8), (0, 0), reduced, sheet, scale, nearest=True) > 0
    encoding = stated_encoding(picture)
    curve = power_curve(1.0 if encoding is not None or picture.linear else 2.2)
    linear = np.maximum(apply_lookup(upright, Device(picture, encoding).lookup(curve)), _DARKEST)
    light = _paper_light(linear, size, scale)
    density = np.log10(light / linear).astype(np.float32)
    depth = density.max(axis=-1)
    return SheetDepth(density, shown, scale, _noise(depth[shown & (np.abs(depth) < _NEARLY_BARE)]))


def _noise(near: Floats) -> float:
    """SD of bare paper, from depths (n,) near 0: on the lighter side of what most have lie no pale washes."""
    if near.size == 0:
        return 0.01
    lighter = near[near < (usual := _crowded(near, _STEP))]
    return SPREAD_OF_MEDIAN * float(np.median(usual - lighter)) if lighter.size else 0.01


def _paper_light(linear: Floats, size_mm: tuple[float, float], scale: float) -> Floats:
    """Light (h, w, 3) that bare paper would give everywhere on the sheet."""
    side = max(2, round(CELL_MM * scale))
    rows, columns = linear.shape[0] // side, linear.shape[1] // side
    cells = linear[: rows * side, : columns * side].reshape(rows, side, columns, side, 3)
    medians = np.median(cells.transpose(0, 2, 1, 3, 4).reshape(rows, columns, side * side, 3), axis=2).reshape(-1, 3)
    y, x = np.mgrid[:rows, :columns]
    corners = np.column_stack([x.ravel(), y.ravel()]) * (side / scale)
    logs = np.log(medians)
    # Whatever is laid on paper darkens one of its channels at least.
    brightness = np.min(logs - np.quantile(logs, 1 - _LIGHTEST_SHARE, axis=0), axis=1)
    near = brightness[brightness >= np.quantile(brightness, 1 - _PAPER_SHARE) - 0.7]
    level = _crowded(near, _LEVEL_STEP, _BESIDE_WASHES)
    paper = np.abs(brightness - level) < _NEAR_LEVEL
    for _ in range(_ROUNDS):
        field = fit_flat_field(PaperCells(corners[paper], paper[paper]), medians[paper], size_mm)
        own = medians / field.at(*(corners.T + CELL_MM / 2))
        colour = np.median(own[paper], axis=0)
        fits = np.abs(np.log(own / colour)).max(axis=1) < _NEAR_FIT
        paper = fits if fits.any() else paper
    y_mm, x_mm = ((np.arange(n) + 0.5) / scale for n in linear.shape[:2])
    shape = field.at(x_mm[None, :], y_mm[:, None])
    return np.asarray(shape * colour)


def _crowded(values: Floats, step: float, least: float = 1.0) -> float:
    """The highest place where values (n,) lie close together, by steps of this size: at least `least` as close as anywhere."""
    counts, edges = np.histogram(values, bins=max(8, int(np.ptp(values) / step)))
    smooth = np.convolve(counts, [1, 2, 1], mode="same")
    below, above = np.pad(smooth, (1, 0))[:-1], np.pad(smooth, (0, 1))[1:]
    peak = int(np.flatnonzero((smooth >= least * smooth.max()) & (smooth >= below) & (smooth >= above))[-1])
    return float((edges[peak] + edges[peak + 1]) / 2)
