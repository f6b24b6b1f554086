"""`*.measure.json`: what was measured, with its calibration."""

from pathlib import Path
from typing import Any

import numpy as np

from gelvet import __version__
from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture, Calibration
from gelvet.core.colour.spaces import hex_colour, xyz_to_lab
from gelvet.core.errors import MeasurementFileError
from gelvet.core.formats.documents import parse_document, read_text
from gelvet.core.measure.card import MeasuredCard
from gelvet.core.measure.values import (
    Absent,
    DilutionPath,
    Granulation,
    Hiding,
    HueShift,
    Lifting,
    SwatchMeasures,
    ValueRange,
    ZoneColour,
)

NOT_YET = "this version of Gelvet does not measure it"
_DIGITS = 5


def read_measurement(path: Path) -> dict[str, Any]:
    """The measurement in `path`; raises MeasurementFileError."""
    return parse_document(read_text(path, MeasurementFileError), "measurement", str(path), MeasurementFileError)


def measurement_document(capture: CalibratedCapture, card: MeasuredCard, state: str) -> dict[str, Any]:
    """JSON-ready measurement of a card."""
    paper = None if isinstance(card.paper, Absent) else card.paper.xyz
    return {
        "format": "gelvet.measurement",
        "version": 1,
        "card_id": capture.layout.card_id,
        "generator": f"gelvet {__version__}",
        "state": state,
        "calibration": _calibration(capture.calibration),
        "zones": {name: _zone(colour, paper) for name, colour in card.zones.items()},
        "swatches": {name: _swatch(measures, paper) for name, measures in card.swatches.items()},
    }


def _numbers(values: Floats) -> list[float]:
    return [round(float(v), _DIGITS) for v in np.asarray(values).ravel()]


def _number(value: float | None) -> float | None:
    return None if value is None else round(float(value), _DIGITS)


def _calibration(cal: Calibration) -> dict[str, Any]:
    def summary(values: Floats) -> dict[str, float]:
        return {
            "mean": round(float(values.mean()), 4),
            "p95": round(float(np.percentile(values, 95)), 4),
            "max": round(float(values.max()), 4),
        }

    return {
        "tier": cal.tier,
        "model": cal.model.title,
        "pixels_per_mm": _number(cal.geometry.pixels_per_mm),
        "reprojection_px": _number(cal.geometry.reprojection_px),
        "reprojection_mm": _number(cal.geometry.reprojection_px / cal.geometry.pixels_per_mm),
        "tilt_deg": _number(cal.geometry.tilt_deg),
        "rotation_deg": _number(cal.geometry.rotation_deg),
        "blur_px": _number(cal.blur_px),
        "blur_mm": _number(cal.blur_mm),
        "homography": [_numbers(row) for row in cal.geometry.matrix],
        "patches": 0 if cal.fit is None else len(cal.fit.residual_de00),
        "residual_de00": None if cal.fit is None else summary(cal.fit.residual_de00),
        "cross_validated_de00": None if cal.fit is None else summary(cal.fit.cross_validated_de00),
        "gates": [{"id": g.id, "state": g.state, "advice": g.advice, "value": _number(g.value)} for g in cal.gates],
    }


def _zone(colour: ZoneColour | Absent, paper: Floats | None) -> dict[str, Any]:
    if isinstance(colour, Absent):
        figures = dict.fromkeys(("xyz", "lab", "lch", "hex", "in_gamut", "sd", "u", "used_fraction"))
        return {**figures, "absent": colour.reason}
    hex_code, inside = hex_colour(colour.xyz)
    return {
        "xyz": _numbers(colour.xyz),
        "lab": _numbers(colour.lab),
        "lch": _numbers(colour.lch),
        "paper_relative_lab": None if paper is None else _numbers(colour.relative_to(paper)),
        "hex": hex_code,
        "in_gamut": inside,
        "sd": _numbers(colour.sd),
        "u": _number(colour.u),
        "u_lab": _numbers(colour.u_lab),
        "used_fraction": _number(colour.used_fraction),
        "absent": None,
    }


def _swatch(measures: SwatchMeasures, paper: Floats | None) -> dict[str, Any]:
    later = {"absent": NOT_YET}
    return {
        **_path(measures.path, paper),
        "hue_shift": _hue_shift(measures.hue_shift),
        "value_range": _value_range(measures.value_range),
        "granulation": _granulation(measures.granulation),
        "separation": {"index": None, "components": [], "u": None, **later},
        "sparkle": {"density": None, "strength": None, "coverage": None, "u": None, **later},
        "sheen": {"delta_e00": None, **later},
        "hiding": _hiding(measures.hiding),
        "lifting": _lifting(measures.lifting),
        "strength": {"slope": None, "relative": None, **later},
        "glaze": None,
        "drying": None,
        "fade": None,
    }


def _path(path: DilutionPath | Absent, paper: Floats | None) -> dict[str, Any]:
    if isinstance(path, Absent):
        nothing = {"lab": None, "absent": path.reason}
        return {"masstone": {"depth": None, **nothing}, "half": nothing, "wash": nothing, "path": [], "gradient_ends_at": None}
    labs = xyz_to_lab(path.xyz)
    return {
        "masstone": {"lab": _numbers(path.masstone.lab), "depth": _number(path.masstone_depth), "u": _number(path.masstone.u)},
        "half": {"lab": _numbers(xyz_to_lab(path.half_xyz)), "depth": _number(0.5 * path.masstone_depth), "u": _number(path.u_half)},
        "wash": {"lab": _numbers(path.wash_lab), "depth": _number(0.15 * path.masstone_depth), "u": _number(path.u_wash)},
        "path": [{"depth": _number(d), "lab": _numbers(lab)} for d, lab in zip(path.depth, labs, strict=True)],
        "gradient_ends_at": _number(path.gradient_ends_at),
        "ordered_by": "place" if path.by_place else "depth",
        "paper_lab": None if paper is None else _numbers(xyz_to_lab(paper)),
    }


def _hue_shift(shift: HueShift | Absent) -> dict[str, Any]:
    if isinstance(shift, Absent):
        return {"delta_h": None, "delta_H": None, "travel": None, "u": None, "absent": shift.reason}
    return {"delta_h": _number(shift.delta_h), "delta_H": _number(shift.delta_big_h), "travel": _number(shift.travel),
            "u": _number(shift.u), "absent": None}  # fmt: skip


def _value_range(values: ValueRange | Absent) -> dict[str, Any]:
    if isinstance(values, Absent):
        return {"masstone_L": None, "wash_L": None, "span_L": None, "reach": None, "u": None, "absent": values.reason}
    return {"masstone_L": _number(values.masstone_l), "wash_L": _number(values.wash_l), "span_L": _number(values.span_l),
            "reach": _number(values.reach), "u": _number(values.u), "absent": None}  # fmt: skip


def _granulation(grain: Granulation | Absent) -> dict[str, Any]:
    if isinstance(grain, Absent):
        names = ("index", "mottle", "grain_mm", "anisotropy", "anisotropy_deg", "tooth_correlation", "fine", "skew", "u")
        return {**dict.fromkeys(names), "absent": grain.reason}
    return {
        "index": _number(grain.index), "mottle": _number(grain.mottle), "grain_mm": _number(grain.grain_mm),
        "anisotropy": _number(grain.anisotropy), "anisotropy_deg": _number(grain.anisotropy_deg), "brush_marks": grain.brush_marks,
        "tooth_correlation": None, "fine": _number(grain.fine), "skew": _number(grain.skew), "u": _number(grain.u),
        "grain_u": _number(grain.grain_u), "blur_mm": _number(grain.blur_mm), "gain": _number(grain.gain), "where": grain.where,
        "absent": None,
    }  # fmt: skip


def _hiding(value: Hiding | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {"veil": None, "contrast_ratio": None, "hiding": None, "class": None, "u": None, "absent": value.reason}
    return {"veil": _number(value.veil), "contrast_ratio": _number(value.contrast_ratio), "hiding": _number(value.hiding),
            "class": value.transparency, "u": _number(value.u), "absent": None}  # fmt: skip


def _lifting(value: Lifting | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {"removed": None, "residual_de00": None, "class": None, "u": None, "absent": value.reason}
    return {"removed": _number(value.removed), "residual_de00": _number(value.residual_de00), "class": value.staining,
            "u": _number(value.u), "absent": None}  # fmt: skip
