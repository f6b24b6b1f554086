"""`*.measure.json`: what was measured, with its calibration."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from gelvet import __version__
from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture, Calibration
from gelvet.core.capture.shots import RegisteredShot
from gelvet.core.card.layout import Placement
from gelvet.core.colour.spaces import hex_colour, xyz_to_lab
from gelvet.core.errors import MeasurementFileError
from gelvet.core.formats.documents import parse_document, read_text
from gelvet.core.measure.card import MeasuredCard
from gelvet.core.measure.evenness import chroma_peak, flare, shift_by_dilution
from gelvet.core.measure.values import (
    Absent,
    DilutionPath,
    Drying,
    Effect,
    Fading,
    Glaze,
    Gradient,
    Granulation,
    Hiding,
    HueShift,
    Lifting,
    Separation,
    Sheen,
    Sparkle,
    Strength,
    SwatchMeasures,
    Tilt,
    ValueRange,
    WaterDrop,
    WetDrop,
    ZoneColour,
)

_DIGITS = 5


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
        "zones": {name: _zone(colour, paper) for name, colour in card.zones.items()},
        "swatches": {name: _swatch(measures, paper) for name, measures in card.swatches.items()},
    }


def _numbers(values: Floats) -> list[float]:
    return [round(float(v), _DIGITS) for v in np.asarray(values).ravel()]


def _number(value: float | None) -> float | None:
    return None if value is None else round(float(value), _DIGITS)


def _plain(value: str | float) -> str | float:
    return value if isinstance(value, str) else round(value, _DIGITS)


def _shot(shot: RegisteredShot) -> dict[str, Any]:
    """A shot that was laid over the flat one."""
    return {
        "file": shot.file.title,
        "light": shot.file.light,
        "azimuth_deg": _number(shot.file.azimuth_deg),
        "elevation_deg": _number(shot.file.elevation_deg),
        "pixels_per_mm": _number(shot.geometry.pixels_per_mm),
        "rotation_deg": _number(shot.geometry.rotation_deg),
        "registration_mm": _number(shot.registration_mm),
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
        "pixels_per_mm": _number(cal.geometry.pixels_per_mm) if sized else None,
        "reprojection_px": _number(fitted),
        "reprojection_mm": None if fitted is None else _number(fitted / cal.geometry.pixels_per_mm),
        "placed_by": "tags" if placement is None else "corners",
        "scale": "tags" if placement is None else placement.scale,
        "tilt_deg": _number(cal.geometry.tilt_deg),
        "rotation_deg": _number(cal.geometry.rotation_deg),
        "blur_px": _number(cal.blur_px),
        "blur_mm": _number(cal.blur_mm),
        "homography": [_numbers(row) for row in cal.geometry.matrix],
        "lens_bend": 0.0 if cal.geometry.lens is None else _number(cal.geometry.lens.bend),
        "patches": 0 if cal.fit is None else len(cal.fit.residual_de00),
        "residual_de00": None if cal.fit is None else summary(cal.fit.residual_de00),
        "cross_validated_de00": None if cal.fit is None else summary(cal.fit.cross_validated_de00),
        "patch_errors": {patch: [round(v, 3) for v in error] for patch, error in cal.patch_errors.items()},
        "gates": [
            {"id": g.id, "state": g.state, "advice": g.advice, "value": _number(g.value), "where_mm": [r.as_list() for r in g.where]}
            for g in cal.gates
        ],
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
        "beyond_gamut": _number(colour.beyond_gamut),
        "absent": None,
    }


def _swatch(measures: SwatchMeasures, paper: Floats | None) -> dict[str, Any]:
    return {
        **_path(measures.path, paper),
        **_along(measures.path, paper),
        "hue_shift": _hue_shift(measures.hue_shift),
        "value_range": _value_range(measures.value_range),
        "granulation": _granulation(measures.granulation),
        "separation": _separation(measures.separation),
        "sparkle": _sparkle(measures.sparkle),
        "sheen": _sheen(measures.sheen),
        "hiding": _hiding(measures.hiding),
        "lifting": _lifting(measures.lifting),
        "strength": _strength(measures.strength),
        "glaze": _glaze(measures.glaze),
        "gradient": _gradient(measures.gradient),
        "drying": _drying(measures.drying),
        "wet_drop": _wet_drop(measures.wet_drop),
        "water_drop": _water_drop(measures.water_drop),
        "tilt": _tilt(measures.tilt),
        "effects": [] if isinstance(measures.effects, Absent) else [_effect(e) for e in measures.effects],
        "fade": _fade(measures.fading),
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
        names = ("index", "mottle", "grain_mm", "anisotropy", "anisotropy_deg", "tooth_correlation", "arms_length", "fine", "skew", "u")
        return {**dict.fromkeys(names), "by_depth": [], "spectrum": [], "absent": grain.reason}
    return {
        "index": _number(grain.index), "mottle": _number(grain.mottle), "grain_mm": _number(grain.grain_mm),
        "anisotropy": _number(grain.anisotropy), "anisotropy_deg": _number(grain.anisotropy_deg), "brush_marks": grain.brush_marks,
        "tooth_correlation": _number(grain.tooth_correlation), "arms_length": _number(grain.arms_length),
        "fine": _number(grain.fine), "skew": _number(grain.skew), "u": _number(grain.u),
        "grain_u": _number(grain.grain_u), "blur_mm": _number(grain.blur_mm), "gain": _number(grain.gain), "where": grain.where,
        "by_depth": [
            {"depth": _number(g.depth), "index": _number(g.index), "u": _number(g.u), "where": g.where} for g in grain.by_depth
        ],
        "spectrum": [{"frequency": _number(f), "wash": _number(wash), "paper": _number(bare)} for f, wash, bare in grain.spectrum],
        "absent": None,
    }  # fmt: skip


def _hiding(value: Hiding | Absent) -> dict[str, Any]:
    names = ("veil", "contrast_ratio", "hiding", "u", "transmits", "glinting_veil")
    if isinstance(value, Absent):
        return {**dict.fromkeys(names), "class": None, "wash": None, "absent": value.reason}
    wash = None if value.wash is None else {"veil": _number(value.wash.veil), "contrast_ratio": _number(value.wash.contrast_ratio),
                                            "hiding": _number(value.wash.hiding), "u": _number(value.wash.u)}  # fmt: skip
    return {**{name: _number(getattr(value, name)) for name in names}, "class": value.transparency, "wash": wash, "absent": None}


def _lifting(value: Lifting | Absent) -> dict[str, Any]:
    names = ("removed", "residual_de00", "u", "residue_hue", "residue_share", "glints", "damage")
    if isinstance(value, Absent):
        return {**dict.fromkeys(names), "class": None, "residue_component": None, "before": None, "absent": value.reason}
    figures = {name: _number(getattr(value, name)) for name in names}
    return {**figures, "class": value.staining, "residue_component": value.residue_component, "before": value.before, "absent": None}


def _along(path: DilutionPath | Absent, paper: Floats | None) -> dict[str, Any]:
    """What the path shows besides its ends."""
    if isinstance(path, Absent) or paper is None:
        return {"chroma_peak": None, "flare": None, "dilution_shift": None}
    chroma, depth = chroma_peak(path)
    sudden = flare(path)
    return {
        "chroma_peak": {"chroma": _number(chroma), "depth": _number(depth)},
        "flare": None if sudden is None else {"delta_e": _number(sudden.delta_e), "depth": _number(sudden.depth)},
        "dilution_shift": _number(shift_by_dilution(path, paper)),
    }


def _strength(value: Strength | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {"slope": None, "relative": None, "channel": None, "u": None, "absent": value.reason}
    return {
        "slope": _number(value.slope),
        "relative": _number(value.relative),
        "channel": value.channel,
        "u": _number(value.u),
        "absent": None,
    }


def _glaze(value: Glaze | Absent) -> dict[str, Any] | None:
    """None where the card has no layers at all."""
    if isinstance(value, Absent):
        return None
    steps = [
        {"layers": s.layers, "lab": _numbers(s.lab), "delta_L": _number(s.delta_l), "delta_C": _number(s.delta_c),
         "delta_h": _number(s.delta_h), "u": _number(s.u)} for s in value.steps
    ]  # fmt: skip
    return {"steps": steps, "stops_deepening_at": value.stops_deepening_at, "absent": None}


def _drying(value: Drying | Absent) -> dict[str, Any] | None:
    """None where the card was not captured wet as well."""
    if isinstance(value, Absent):
        return None
    return {
        place: {
            "delta_L": _number(at.delta_l),
            "delta_C": _number(at.delta_c),
            "delta_h": _number(at.delta_h),
            "delta_e00": _number(at.delta_e00),
        }
        for place, at in (("masstone", value.masstone), ("wash", value.wash))
    } | {"u": _number(value.u), "absent": None}


def _gradient(value: Gradient | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {"unevenness": None, "backruns": None, "backrun_strength": None, "absent": value.reason}
    return {"unevenness": _number(value.unevenness), "backruns": value.backruns, "backrun_strength": _number(value.backrun_strength),
            "absent": None}  # fmt: skip


def _no_zone(value: object) -> bool:
    """Whether a card simply has no place for something."""
    return isinstance(value, Absent) and value.reason.startswith("the card has no ") and value.reason.endswith(" zone for this paint")


def _profile(values: Floats) -> list[dict[str, Any]]:
    return [{"distance_mm": _number(r), "depth": _number(d)} for r, d in values]


def _wet_drop(value: WetDrop | Absent) -> dict[str, Any] | None:
    """None where the card has no such zone, as for the other things that water does."""
    if _no_zone(value):
        return None
    if isinstance(value, Absent):
        return {"reach_mm": None, "centre": None, "rim": None, "parted": None, "u": None, "profile": [], "absent": value.reason}
    return {"reach_mm": _number(value.reach_mm), "centre": {"lab": _numbers(value.centre)}, "rim": {"lab": _numbers(value.rim)},
            "parted": _number(value.parted), "u": _number(value.u), "profile": _profile(value.profile), "absent": None}  # fmt: skip


def _water_drop(value: WaterDrop | Absent) -> dict[str, Any] | None:
    if _no_zone(value):
        return None
    if isinstance(value, Absent):
        return {"area_mm2": None, "rim": None, "u": None, "profile": [], "absent": value.reason}
    return {"area_mm2": _number(value.area_mm2), "rim": _number(value.rim), "u": _number(value.u), "profile": _profile(value.profile),
            "absent": None}  # fmt: skip


def _tilt(value: Tilt | Absent) -> dict[str, Any] | None:
    if _no_zone(value):
        return None
    if isinstance(value, Absent):
        return {"head": None, "tail": None, "parted": None, "absent": value.reason}
    return {"head": {"lab": _numbers(value.head)}, "tail": {"lab": _numbers(value.tail)}, "parted": _number(value.parted), "absent": None}


def _effect(value: Effect) -> dict[str, Any]:
    return {"effect": value.name, "contrast": _number(value.contrast), "size_mm": _number(value.size_mm)}


def _separation(value: Separation | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {"index": None, "components": [], "u": None, "absent": value.reason}
    parts = [{"lab": _numbers(xyz_to_lab(c.xyz)), "share": _number(c.share)} for c in value.components]
    return {"index": _number(value.index), "components": parts, "u": _number(value.u), "absent": None}


def _sparkle(value: Sparkle | Absent) -> dict[str, Any]:
    names = ("density", "strength", "coverage", "u", "strength_u", "heavy", "light", "hue")
    if isinstance(value, Absent):
        return {**dict.fromkeys(names), "clipped": None, "shots": None, "absent": value.reason}
    return {**{name: _number(getattr(value, name)) for name in names}, "clipped": value.clipped, "shots": value.shots, "absent": None}


def _sheen(value: Sheen | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {"delta_e00": None, "hue_travel": None, "claimed": None, "absent": value.reason}
    return {"delta_e00": _number(value.delta_e00), "hue_travel": _number(value.hue_travel), "claimed": value.claimed, "absent": None}


def _fade(value: Fading | Absent) -> dict[str, Any] | None:
    """None where the card has no strip at all."""
    if isinstance(value, Absent):
        if _no_zone(value):
            return None
        return {"delta_e_ab": None, "delta_e00": None, "delta_L": None, "hours": None, "category": None, "u": None, "absent": value.reason}
    return {"delta_e_ab": _number(value.delta_e_ab), "delta_e00": _number(value.delta_e00), "delta_L": _number(value.delta_l),
            "hours": value.hours, "category": value.category, "u": _number(value.u), "absent": None}  # fmt: skip
