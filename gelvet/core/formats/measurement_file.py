"""`*.measure.json`: what was measured, with its calibration."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from gelvet import __version__
from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture, Calibration
from gelvet.core.capture.shots.registered import RegisteredShot
from gelvet.core.card.layout import Placement
from gelvet.core.colour.spaces import hex_colour
from gelvet.core.errors import MeasurementFileError
from gelvet.core.formats.documents import parse_document, read_text
from gelvet.core.formats.figures import number, numbers
from gelvet.core.formats.swatch_document import swatch_document
from gelvet.core.measure.card import MeasuredCard
from gelvet.core.measure.quantities.paper import PaperRelief
from gelvet.core.measure.quantities.texture import Sparkle
from gelvet.core.measure.values import Absent, ZoneColour


def read_measurement(path: Path) -> dict[str, Any]:
    """The measurement in `path`; raises MeasurementFileError."""
    return parse_document(read_text(path, MeasurementFileError), "measurement", str(path), MeasurementFileError)


def measurement_document(
    capture: CalibratedCapture, card: MeasuredCard, state: str, shots: Sequence[RegisteredShot] = ()
) -> dict[str, Any]:
    """JSON-ready measurement of a card."""
    paper = None if isinstance(card.paper, Absent) else card.paper.xyz
    return {
        "format": "gelvet.measurement",
        "version": 1,
        "card_id": capture.layout.card_id,
        "generator": f"gelvet {__version__}",
        "state": state,
        "device": {k: _plain(v) for k, v in capture.picture.provenance.items()},
        "calibration": _calibration(capture.calibration, capture.layout.placement),
        "shots": [_shot(shot) for shot in shots],
        "paper": {
            "relief": _relief(card.relief),
            "shading_in_hollows": None if card.shading is None else number(card.shading.in_hollows),
        },
        "zones": {name: {**_zone(colour, paper), **_glints(card.mixes.get(name))} for name, colour in card.zones.items()},
        "swatches": {name: swatch_document(measures, paper) for name, measures in card.swatches.items()},
    }


def _plain(value: str | float) -> str | float:
    return value if isinstance(value, str) else number(value) or 0.0


def _shot(shot: RegisteredShot) -> dict[str, Any]:
    """A shot that was laid over the flat one."""
    return {
        "file": shot.file.title,
        "light": shot.file.light,
        "state": shot.file.state,
        "azimuth_deg": number(shot.file.azimuth_deg),
        "elevation_deg": number(shot.file.elevation_deg),
        "pixels_per_mm": number(shot.geometry.pixels_per_mm),
        "rotation_deg": number(shot.geometry.rotation_deg),
        "registration_mm": number(shot.registration_mm),
    }


def _calibration(cal: Calibration, placement: Placement | None) -> dict[str, Any]:
    # A sheet without tags has nothing to fit, and perhaps no known size.
    sized = placement is None or placement.scale != "unknown"
    fitted = cal.geometry.reprojection_px if placement is None else None

    def summary(values: Floats) -> dict[str, float]:
        return {
            "mean": round(float(values.mean()), 4),
            "p95": round(float(np.percentile(values, 95)), 4),
            "max": round(float(values.max()), 4),
        }

    return {
        "tier": cal.tier,
        "model": cal.model.title,
        "pixels_per_mm": number(cal.geometry.pixels_per_mm) if sized else None,
        "reprojection_px": number(fitted),
        "reprojection_mm": None if fitted is None else number(fitted / cal.geometry.pixels_per_mm),
        "placed_by": "tags" if placement is None else "corners",
        "scale": "tags" if placement is None else placement.scale,
        "tilt_deg": number(cal.geometry.tilt_deg),
        "rotation_deg": number(cal.geometry.rotation_deg),
        "blur_px": number(cal.blur_px),
        "blur_mm": number(cal.blur_mm),
        "sharpening": None
        if cal.sharpening is None
        else {
            "halo": number(cal.sharpening.halo),
            "halo_mm": number(cal.sharpening.halo_px / cal.geometry.pixels_per_mm),
        },
        "dark_light": None
        if cal.dark_light is None
        else {"light": numbers(cal.dark_light.light), "missing": numbers(cal.dark_light.missing)},
        "fringes_px": [number(px) for px in cal.geometry.fringes_px],
        "homography": [numbers(row) for row in cal.geometry.matrix],
        "lens_bend": 0.0 if cal.geometry.lens is None else number(cal.geometry.lens.bend),
        "patches": 0 if cal.fit is None else len(cal.fit.residual_de00),
        "residual_de00": None if cal.fit is None else summary(cal.fit.residual_de00),
        "cross_validated_de00": None if cal.fit is None else summary(cal.fit.cross_validated_de00),
        "patch_errors": {patch: [round(v, 3) for v in error] for patch, error in cal.patch_errors.items()},
        "gates": [
            {"id": g.id, "state": g.state, "advice": g.advice, "value": number(g.value), "where_mm": [r.as_list() for r in g.where]}
            for g in cal.gates
        ],
    }


def _relief(found: PaperRelief | Absent) -> dict[str, Any]:
    if isinstance(found, Absent):
        return {"slope": None, "u": None, "absent": found.reason}
    return {"slope": number(found.slope), "u": number(found.u), "absent": None}


def _glints(found: Sparkle | Absent | None) -> dict[str, Any]:
    """Of a mix that low lamps shone on; nothing of other zones."""
    if found is None:
        return {}
    if isinstance(found, Absent):
        return {"glints": {"density": None, "strength": None, "u": None, "absent": found.reason}}
    return {"glints": {"density": number(found.density), "strength": number(found.strength), "u": number(found.u), "absent": None}}


def _zone(colour: ZoneColour | Absent, paper: Floats | None) -> dict[str, Any]:
    if isinstance(colour, Absent):
        figures = dict.fromkeys(("xyz", "lab", "lch", "hex", "in_gamut", "sd", "u", "used_fraction"))
        return {**figures, "absent": colour.reason}
    hex_code, inside = hex_colour(colour.xyz)
    return {
        "xyz": numbers(colour.xyz),
        "lab": numbers(colour.lab),
        "lch": numbers(colour.lch),
        "paper_relative_lab": None if paper is None else numbers(colour.relative_to(paper)),
        "hex": hex_code,
        "in_gamut": inside,
        "sd": numbers(colour.sd),
        "u": number(colour.u),
        "u_lab": numbers(colour.u_lab),
        "used_fraction": number(colour.used_fraction),
        "beyond_gamut": number(colour.beyond_gamut),
        "absent": None,
    }
