"""Colour of a zone: its mean in linear XYZ, its spread and its uncertainty (measurement.md 2)."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.judging.cut_colours import cut_channels, said
from gelvet.core.card.layout import Zone
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.values import MINIMUM_PIXELS, Absent, ZoneColour, ZonePixels
from gelvet.core.measure.zone.light import ZoneLight

MINIMUM_USED_FRACTION = 0.30
# The largest blocks of which a zone holds four are taken: grain does not tie 2 mm together.
_BLOCKS_MM = (2.0, 1.0, 0.5)


def zone_pixels(capture: CalibratedCapture, light: ZoneLight) -> ZonePixels:
    """Colours of a zone's light."""
    return ZonePixels(xyz=capture.colours(light.linear), good=light.good, pixels_per_mm=light.pixels_per_mm)


def zone_colour(capture: CalibratedCapture, zone: Zone, pixels: ZonePixels) -> ZoneColour | Absent:
    """Mean colour of the measured pixels of `zone`, or why there is none."""
    used = pixels.used_fraction
    if used < MINIMUM_USED_FRACTION:
        if cut := cut_channels(capture.picture, capture.calibration.geometry, zone.rect):
            return Absent(f"its {said(cut)}, so it is more vivid than the picture can hold")
        return Absent(f"only {100 * used:.0f} % of the zone could be used (clipped, covered, left bare or outside the image)")
    if pixels.good.sum() < MINIMUM_PIXELS:
        return Absent("the zone has too few pixels at this resolution")
    chosen = pixels.xyz[pixels.good]
    mean = chosen.mean(axis=0, dtype=np.float64)
    lab_mean = xyz_to_lab(mean)
    spread = xyz_to_lab(chosen).std(axis=0, dtype=np.float64)
    spatial, spatial_lab = _spatial_uncertainty(pixels, lab_mean)
    colour_u, colour_u_lab = capture.calibration.colour_uncertainty(lab_mean)
    return ZoneColour(
        xyz=mean,
        sd=spread,
        u=float(np.hypot(spatial, colour_u)),
        u_lab=np.hypot(spatial_lab, colour_u_lab),
        u_spatial=spatial,
        used_fraction=used,
        beyond_gamut=capture.calibration.beyond_gamut(lab_mean),
    )


def _spatial_uncertainty(pixels: ZonePixels, lab_mean: Floats) -> tuple[float, Floats]:
    """Standard error of the mean from blocks of pixels."""
    means = next((m for size in _BLOCKS_MM if len(m := block_means(pixels, size)) >= 4), None)
    if means is None:  # too small for any blocks: its pixels may all be one grain
        labs = xyz_to_lab(pixels.xyz[pixels.good])
        return float(np.sqrt(np.mean(ciede2000(labs, lab_mean) ** 2))), labs.std(axis=0)
    labs = xyz_to_lab(means)
    root = np.sqrt(len(means))
    de = ciede2000(labs, lab_mean)
    return float(np.sqrt(np.mean(de**2)) / root), labs.std(axis=0, ddof=1) / root


def block_means(pixels: ZonePixels, block_mm: float) -> Floats:
    """Mean XYZ (n, 3) of square blocks that are at least half measured."""
    step = max(2, round(block_mm * pixels.pixels_per_mm))
    rows, columns = pixels.good.shape[0] // step, pixels.good.shape[1] // step
    if rows * columns == 0:
        return np.empty((0, 3))
    cut = (slice(0, rows * step), slice(0, columns * step))
    weight = pixels.good[cut].reshape(rows, step, columns, step).astype(np.float32)
    total = (pixels.xyz[cut].reshape(rows, step, columns, step, 3) * weight[..., None]).sum(axis=(1, 3))
    count = weight.sum(axis=(1, 3))
    enough = count > step * step / 2
    return np.asarray((total[enough] / count[enough][:, None]).astype(np.float64))
