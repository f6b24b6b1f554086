"""One paint's colours at its depths, as the device saw them, to set its calibration right (measurement.md 1.4)."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture, PaintCorrection
from gelvet.core.card.layout import Zone
from gelvet.core.measure.values import tint_depth
from gelvet.core.measure.zone.light import ZoneLight, zone_light

# Zones of the paint on bare paper, and in how many depths each is read.
_DEPTHS = {"masstone": 1, "gradient": 4, "wash": 1, "step": 1, "beside_ink": 1, "unlifted": 1, "glaze": 1}
_MINIMUM_MM2 = 2.5
# A way is told by at least this many places, the deepest at least this deep.
_MINIMUM_PLACES, _MINIMUM_DEPTH = 3, 0.08
OTHER_GROUND = {"ink", "over_ink", "black_paper"}


def paint_correction(capture: CalibratedCapture, zones: Sequence[tuple[Zone, ZoneLight]], paper: Floats) -> PaintCorrection | None:
    """What the colours of one paint's `zones` are to be multiplied with, by depth; None where its way cannot be told."""
    fit = capture.calibration.fit
    if fit is None or fit.paths is None:
        return None
    places = [place for zone, light in zones for place in _places(zone, light)]
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
    before, after = (_places(masstone, zone_light(card, masstone)) for card in (wet, dry))
    return replace(wet, film=wet.film.beside(before[0], after[0])) if before and after else wet


def _places(zone: Zone, light: ZoneLight) -> list[Floats]:
    """Mean device colours (3,) of the zone, the gradient in stretches."""
    import cv2

    parts = _DEPTHS.get(zone.kind, 0)
    if parts == 0:
        return []
    along = 0 if "y" in (zone.axis or "+x") else 1
    stretches = zip(*(np.array_split(field, parts, axis=along) for field in (light.linear, light.good.astype(np.uint8))), strict=True)
    enough = _MINIMUM_MM2 * light.pixels_per_mm**2
    return [np.array(cv2.mean(colours, used)[:3]) for colours, used in stretches if np.count_nonzero(used) >= enough]
