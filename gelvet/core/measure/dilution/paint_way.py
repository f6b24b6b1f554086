"""One paint's colours at its depths, as the device saw them, to set its calibration right (measurement.md 1.4)."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture, PaintCorrection
from gelvet.core.card.layout import Zone
from gelvet.core.measure.values import tint_depth

# Zones of the paint on bare paper, and in how many depths each is read.
_DEPTHS = {"masstone": 1, "gradient": 4, "wash": 1, "step": 1, "beside_ink": 1, "unlifted": 1, "glaze": 1}
_PIXELS_PER_MM = 4.0
_INSET_MM = 0.8
_MINIMUM_PIXELS = 40
# A way is told by at least this many places, the deepest at least this deep.
_MINIMUM_PLACES, _MINIMUM_DEPTH = 3, 0.08
OTHER_GROUND = {"ink", "over_ink", "black_paper"}


def paint_correction(capture: CalibratedCapture, zones: Sequence[Zone], paper: Floats) -> PaintCorrection | None:
    """What the colours of one paint's `zones` are to be multiplied with, by depth; None where its way cannot be told."""
    fit = capture.calibration.fit
    if fit is None or fit.paths is None:
        return None
    places = [place for zone in zones for place in _places(capture, zone)]
    if len(places) < _MINIMUM_PLACES:
        return None
    rgb = capture.as_dry(np.array(places))
    depth = np.asarray(tint_depth(capture.calibration.model.to_xyz(rgb), paper))
    order = np.argsort(depth)
    rgb, depth = rgb[order], depth[order]
    if depth[-1] < _MINIMUM_DEPTH:
        return None
    factor = fit.paths.correction(rgb)
    # Bare paper is known already.
    return PaintCorrection(paper=paper, depth=np.append(0.0, np.maximum(depth, 1e-3)), log_factor=np.vstack([np.zeros(3), factor]))


def with_film_of(wet: CalibratedCapture, dry: CalibratedCapture, zones: Sequence[Zone]) -> CalibratedCapture:
    """The wet capture with as much surface to come as one paint's masstone gained until the `dry` one."""
    masstone = next((zone for zone in zones if zone.kind == "masstone"), None)
    if masstone is None or wet.film is None:
        return wet
    before, after = _places(wet, masstone), _places(dry, masstone)
    return replace(wet, film=wet.film.beside(before[0], after[0])) if before and after else wet


def _places(capture: CalibratedCapture, zone: Zone) -> list[Floats]:
    """Mean device colours (3,) of the zone, the gradient in stretches."""
    parts = _DEPTHS.get(zone.kind, 0)
    if parts == 0:
        return []
    side = min(zone.rect.width, zone.rect.height)
    linear, good = capture.linear(zone.rect.inset(min(_INSET_MM, 0.15 * side)), _PIXELS_PER_MM)
    along = 0 if "y" in (zone.axis or "+x") else 1
    stretches = zip(np.array_split(linear, parts, axis=along), np.array_split(good, parts, axis=along), strict=True)
    return [colours[used].mean(axis=0, dtype=float) for colours, used in stretches if used.sum() >= _MINIMUM_PIXELS]
