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
# Paper is the lightest thing that covers this share of a sheet or more.
_PAPER_SHARE = 0.08


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
    near = depth[np.abs(depth) < 0.06]
    noise = SPREAD_OF_MEDIAN * float(np.median(np.abs(near - np.median(near)))) if near.size else 0.01
    return SheetDepth(density, shown, scale, noise)


def _paper_light(linear: Floats, size_mm: tuple[float, float], scale: float) -> Floats:
    """Light (h, w, 3) that bare paper would give everywhere on the sheet."""
    side = max(2, round(CELL_MM * scale))
    rows, columns = linear.shape[0] // side, linear.shape[1] // side
    cells = linear[: rows * side, : columns * side].reshape(rows, side, columns, side, 3)
    medians = np.median(cells.transpose(0, 2, 1, 3, 4).reshape(rows, columns, side * side, 3), axis=2).reshape(-1, 3)
    y, x = np.mgrid[:rows, :columns]
    corners = np.column_stack([x.ravel(), y.ravel()]) * (side / scale)
    brightness = np.log(medians[:, 1])
    # The lightest thing of any extent: the level that most cells near the top share.
    level = _crowded(brightness[brightness >= np.quantile(brightness, 1 - _PAPER_SHARE) - 0.7])
    sure = np.abs(brightness - level) < 0.12
    field = fit_flat_field(PaperCells(corners, sure), medians, size_mm)
    y_mm, x_mm = ((np.arange(n) + 0.5) / scale for n in linear.shape[:2])
    shape = field.at(x_mm[None, :], y_mm[:, None])
    own = medians[sure] / field.at(*(corners[sure].T + CELL_MM / 2))
    return np.asarray(shape * np.median(own, axis=0))


def _crowded(values: Floats) -> float:
    """Where values (n,) lie closest together."""
    counts, edges = np.histogram(values, bins=max(8, int(np.ptp(values) / 0.04)))
    smooth = np.convolve(counts, [1, 2, 1], mode="same")
    peak = int(np.argmax(smooth))
    return float((edges[peak] + edges[peak + 1]) / 2)
