"""What is wrong with a calibrated capture: noise, clipping, uneven paper, and the gates that follow."""

from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture import gates as g
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.colour.icc import ProfileCurves
from gelvet.core.capture.device import KnownPatches
from gelvet.core.colour.spaces import xyz_to_lab


def with_quality(
    capture: CalibratedCapture, rows: KnownPatches, missing_tags: list[int], profile: ProfileCurves | None, state: str
) -> CalibratedCapture:
    """The same capture with noise and gates filled in."""
    cal = capture.calibration
    noise, patch_clipped = _patch_noise(capture, rows)
    shade, paper_clipped = _paper_quality(capture)
    gates = [g.tags_gate(missing_tags)]
    if cal.tier == "profile" and profile is not None:
        worth = "its tables are only approximated" if profile.misfit_de00 > 1 else "colours rest on the embedded profile alone"
        gates.append(
            g.Gate("reference", "warn", f"No reference values are known for this card, so {worth}; add the target's CGATS file.", 0)
        )
    else:
        gates.append(g.reference_gate(rows.missing, len(rows.ids) if cal.fit else 0))
    gates += [g.resolution_gate(cal.geometry.pixels_per_mm), g.focus_gate(cal.blur_mm)]
    if cal.fit is not None:
        gates.append(g.residual_gate(float(cal.fit.cross_validated_de00.mean()), float(np.percentile(cal.fit.cross_validated_de00, 95))))
    gates += [
        g.clipping_gate(paper_clipped, patch_clipped),
        g.noise_gate(float(np.median(noise[:, 1])) if len(noise) else 0.0),
        g.fall_off_gate(cal.light.fall_off()),
        g.tilt_gate(cal.geometry.tilt_deg),
        g.paper_shade_gate(shade),
        g.wet_gate(state),
    ]
    return replace(capture, calibration=replace(cal, noise_l=noise, gates=tuple(gates)))


def _patch_noise(capture: CalibratedCapture, rows: KnownPatches) -> tuple[Floats, float]:
    """Pixel noise in L* of flat patches, from differences of neighbours, and the clipped share of the worst patch."""
    found, clipped = [], 0.0
    for rect in rows.rects:
        xyz, good = capture.xyz(rect.inset(0.2 * min(rect.width, rect.height)))
        lab = xyz_to_lab(xyz)[..., 0]
        second = lab[:, 2:] - 2 * lab[:, 1:-1] + lab[:, :-2]
        found.append((float(np.median(lab)), float(1.4826 * np.median(np.abs(second)) / np.sqrt(6))))
        clipped = max(clipped, float(1 - good.mean()))
    return np.array(found).reshape(-1, 2), clipped


def _paper_quality(capture: CalibratedCapture) -> tuple[float, float]:
    """Largest colour difference (ΔE*ab) of a paper zone from the middle one, and the clipped share of bare paper."""
    labs, clipped = [], 0.0
    shown = capture.picture.pixels.shape
    for zone in (z for z in capture.layout.zones_of("paper") if capture.calibration.geometry.holds(z.rect, shown)):
        xyz, good = capture.xyz(zone.rect.inset(0.15 * min(zone.rect.width, zone.rect.height)), 6.0)
        clipped = max(clipped, float(1 - good.mean()))
        labs.append(xyz_to_lab(np.median(xyz.reshape(-1, 3), axis=0).astype(float)))
    if len(labs) < 2:
        return 0.0, clipped
    middle = np.median(labs, axis=0)
    return float(np.linalg.norm(np.array(labs) - middle, axis=1).max()), clipped
