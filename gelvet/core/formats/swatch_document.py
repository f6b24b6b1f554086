"""A swatch's quantities as JSON-ready figures: null with the reason where absent."""

from collections.abc import Mapping
from typing import Any

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.formats.figures import number, numbers
from gelvet.core.measure.dilution.evenness import chroma_peak, flare, shift_by_dilution
from gelvet.core.measure.quantities.colour import DilutionPath, Drying, Fading, Gradient, HueShift, Strength, ValueRange
from gelvet.core.measure.quantities.layers import Glaze, Hiding, Lifting
from gelvet.core.measure.quantities.swatch import SwatchMeasures
from gelvet.core.measure.quantities.texture import Granulation, Separation, Sheen, Sparkle
from gelvet.core.measure.quantities.water import Effect, Tilt, WaterDrop, WetDrop
from gelvet.core.measure.values import Absent, Figure
from gelvet.core.measure.water.drying import NOT_WET


def swatch_document(measures: SwatchMeasures, paper: Floats | None) -> dict[str, Any]:
    return {
        **_path(measures.path, paper),
        **_along(measures.path, paper, hue_told=not isinstance(measures.hue_shift, Absent)),
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


def _figure(name: str, found: Figure | None) -> dict[str, float | None]:
    """Under its name, its uncertainty beside it."""
    return {name: None if found is None else number(found.value), f"{name}_u": None if found is None else number(found.u)}


def _figures(found: Mapping[str, Figure | None]) -> dict[str, float | None]:
    return {key: value for name, figure in found.items() for key, value in _figure(name, figure).items()}


def _end(lab: Floats, u: float) -> dict[str, Any]:
    return {"lab": numbers(lab), "u": number(u)}


def _place(lab: Floats, depth: float, u: float, u_lab: Floats) -> dict[str, Any]:
    return {"lab": numbers(lab), "depth": number(depth), "u": number(u), "u_lab": numbers(u_lab)}


def _path(path: DilutionPath | Absent, paper: Floats | None) -> dict[str, Any]:
    if isinstance(path, Absent):
        nothing = {"lab": None, "absent": path.reason}
        return {"masstone": {"depth": None, **nothing}, "half": nothing, "wash": nothing, "path": [], "gradient_ends_at": None}
    labs = xyz_to_lab(path.xyz)
    deepest = path.masstone_depth
    return {
        "masstone": _place(path.masstone.lab, deepest, path.masstone.u, path.masstone.u_lab),
        "half": _place(xyz_to_lab(path.half_xyz), 0.5 * deepest, path.u_half, path.u_half_lab),
        "wash": _place(path.wash_lab, 0.15 * deepest, path.u_wash, path.u_wash_lab),
        "path": [{"depth": number(d), "lab": numbers(lab)} for d, lab in zip(path.depth, labs, strict=True)],
        "gradient_ends_at": number(path.gradient_ends_at),
        "ordered_by": "place" if path.by_place else "depth",
        "paper_lab": None if paper is None else numbers(xyz_to_lab(paper)),
    }


def _hue_shift(shift: HueShift | Absent) -> dict[str, Any]:
    if isinstance(shift, Absent):
        return {**dict.fromkeys(("delta_h", "u", "delta_H", "delta_H_u", "travel", "travel_u")), "absent": shift.reason}
    return {"delta_h": number(shift.delta_h), "u": number(shift.u), "delta_H": number(shift.delta_big_h),
            "delta_H_u": number(shift.delta_big_h_u), "travel": number(shift.travel), "travel_u": number(shift.travel_u),
            "absent": None}  # fmt: skip


def _value_range(values: ValueRange | Absent) -> dict[str, Any]:
    if isinstance(values, Absent):
        return {**dict.fromkeys(("masstone_L", "wash_L", "span_L", "u", "reach", "reach_u")), "absent": values.reason}
    return {"masstone_L": number(values.masstone_l), "wash_L": number(values.wash_l), "span_L": number(values.span_l),
            "u": number(values.u), "reach": number(values.reach), "reach_u": number(values.reach_u), "absent": None}  # fmt: skip


def _granulation(grain: Granulation | Absent) -> dict[str, Any]:
    if isinstance(grain, Absent):
        names = ("index", "mottle", "grain_mm", "anisotropy", "anisotropy_deg", "tooth_correlation", "arms_length", "fine", "skew", "u")
        return {
            **dict.fromkeys((*names, "mottle_u", "fine_u", "grain_u", "anisotropy_u", "tooth_u", "arms_length_u", "skew_u")),
            "shaded_index": None,
            "by_depth": [],
            "spectrum": [],
            "absent": grain.reason,
        }
    return {
        "index": number(grain.index), "mottle": number(grain.mottle), "mottle_u": number(grain.mottle_u),
        "grain_mm": number(grain.grain_mm),
        "anisotropy": number(grain.anisotropy), "anisotropy_u": number(grain.anisotropy_u),
        "anisotropy_deg": number(grain.anisotropy_deg), "brush_marks": grain.brush_marks,
        "tooth_correlation": number(grain.tooth_correlation), "tooth_u": number(grain.tooth_u),
        "shaded_index": number(grain.shaded_index),
        "arms_length": number(grain.arms_length), "arms_length_u": number(grain.arms_length_u),
        "fine": number(grain.fine), "fine_u": number(grain.fine_u), "skew": number(grain.skew), "skew_u": number(grain.skew_u),
        "u": number(grain.u),
        "grain_u": number(grain.grain_u), "blur_mm": number(grain.blur_mm), "gain": number(grain.gain), "where": grain.where,
        "by_depth": [
            {"depth": number(g.depth), "index": number(g.index), "u": number(g.u), "where": g.where} for g in grain.by_depth
        ],
        "spectrum": [{"frequency": number(f), "wash": number(wash), "paper": number(bare)} for f, wash, bare in grain.spectrum],
        "absent": None,
    }  # fmt: skip


def _hiding(value: Hiding | Absent) -> dict[str, Any]:
    names = ("veil", "u", "contrast_ratio", "contrast_ratio_u", "hiding", "hiding_u", "transmits", "transmits_u")
    if isinstance(value, Absent):
        return {**dict.fromkeys((*names, *_figure("glinting_veil", None))), "class": None, "wash": None, "absent": value.reason}
    wash = None if value.wash is None else {name: number(getattr(value.wash, name)) for name in names[:6]}
    return {
        **{name: number(getattr(value, name)) for name in names},
        **_figure("glinting_veil", value.glinting_veil),
        "class": value.transparency,
        "wash": wash,
        "absent": None,
    }


def _lifting(value: Lifting | Absent) -> dict[str, Any]:
    names, figures = (
        ("removed", "u", "residue_share", "residue_share_before", "residue_share_u"),
        ("residual_de00", "residue_hue", "glints", "damage"),
    )
    if isinstance(value, Absent):
        absent = {**dict.fromkeys(names), **_figures(dict.fromkeys(figures))}
        return {**absent, "class": None, "residue_component": None, "before": None, "absent": value.reason}
    told = {name: number(getattr(value, name)) for name in names} | _figures({name: getattr(value, name) for name in figures})
    return {**told, "class": value.staining, "residue_component": value.residue_component, "before": value.before, "absent": None}


def _along(path: DilutionPath | Absent, paper: Floats | None, *, hue_told: bool) -> dict[str, Any]:
    """What the path shows besides its ends; a hue that turns by dilution alone only where the paint has one."""
    if isinstance(path, Absent) or paper is None:
        return dict.fromkeys(("chroma_peak", "flare", "dilution_shift", "dilution_shift_u"))
    peak, sudden = chroma_peak(path), flare(path)
    by_dilution = shift_by_dilution(path, paper) if hue_told else None
    return {
        "chroma_peak": {"chroma": number(peak.chroma), "u": number(peak.u), "depth": number(peak.depth)},
        "flare": None if sudden is None else {"delta_e": number(sudden.delta_e), "u": number(sudden.u), "depth": number(sudden.depth)},
        "dilution_shift": None if by_dilution is None else number(by_dilution.delta_h),
        "dilution_shift_u": None if by_dilution is None else number(by_dilution.u),
    }


def _strength(value: Strength | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {**dict.fromkeys(("slope", "u", "relative", "relative_u", "channel", "half_light")), "absent": value.reason}
    half = value.half_light
    return {
        "slope": number(value.slope),
        "u": number(value.u),
        "relative": number(value.relative),
        "relative_u": number(value.relative_u),
        "channel": value.channel,
        "half_light": half and {name: number(getattr(half, name)) for name in ("fraction", "u", "relative", "relative_u")},
        "absent": None,
    }


def _glaze(value: Glaze | Absent) -> dict[str, Any] | None:
    """None where the card has no layers at all."""
    if isinstance(value, Absent):
        return None
    steps = [
        {"layers": s.layers, "lab": numbers(s.lab), "delta_L": number(s.delta_l), "delta_C": number(s.delta_c),
         "u": number(s.u), "delta_h": number(s.delta_h), "delta_h_u": number(s.delta_h_u), "disturbance": number(s.disturbance),
         "disturbance_u": number(s.disturbance_u)}
        for s in value.steps
    ]  # fmt: skip
    over_ink = [
        {"layers": o.layers, "veil": number(o.hiding.veil), "u": number(o.hiding.u), "contrast_ratio": number(o.hiding.contrast_ratio),
         "contrast_ratio_u": number(o.hiding.contrast_ratio_u), "class": o.hiding.transparency} for o in value.hiding
    ]  # fmt: skip
    return {"steps": steps, "stops_deepening_at": value.stops_deepening_at, "hiding": over_ink, "absent": None}


def _drying(value: Drying | Absent) -> dict[str, Any] | None:
    """None where the card was not captured wet as well."""
    if isinstance(value, Absent):
        return None if value.reason == NOT_WET else {"masstone": None, "wash": None, "u": None, "absent": value.reason}
    return {
        place: {
            "delta_L": number(at.delta_l),
            "delta_C": number(at.delta_c),
            "delta_h": number(at.delta_h),
            "delta_e00": number(at.delta_e00),
            "u": number(at.u),
        }
        for place, at in (("masstone", value.masstone), ("wash", value.wash))
    } | {"u": number(value.u), "absent": None}


def _gradient(value: Gradient | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {**dict.fromkeys(("unevenness", "u", "backruns", "backrun_strength", "backrun_strength_u")), "absent": value.reason}
    return {"unevenness": number(value.unevenness), "u": number(value.u), "backruns": value.backruns,
            "backrun_strength": number(value.backrun_strength), "backrun_strength_u": number(value.backrun_strength_u),
            "absent": None}  # fmt: skip


def _no_zone(value: object) -> bool:
    """Whether a card simply has no place for something."""
    return isinstance(value, Absent) and value.reason.startswith("the card has no ") and value.reason.endswith(" zone for this paint")


def _profile(values: Floats) -> list[dict[str, Any]]:
    return [{"distance_mm": number(r), "depth": number(d)} for r, d in values]


def _wet_drop(value: WetDrop | Absent) -> dict[str, Any] | None:
    """None where the card has no such zone, as for the other things that water does."""
    if _no_zone(value):
        return None
    if isinstance(value, Absent):
        nothing = dict.fromkeys(("reach_mm", "u", "centre", "rim", "parted", "parted_u"))
        return {**nothing, "profile": [], "absent": value.reason}
    return {"reach_mm": number(value.reach_mm), "u": number(value.u), "centre": _end(value.centre, value.colour_u),
            "rim": _end(value.rim, value.colour_u), **_figure("parted", value.parted), "profile": _profile(value.profile),
            "absent": None}  # fmt: skip


def _water_drop(value: WaterDrop | Absent) -> dict[str, Any] | None:
    if _no_zone(value):
        return None
    if isinstance(value, Absent):
        return {**dict.fromkeys(("area_mm2", "area_u", "rim", "u")), "profile": [], "absent": value.reason}
    return {"area_mm2": number(value.area_mm2), "area_u": number(value.area_u), "rim": number(value.rim), "u": number(value.u),
            "profile": _profile(value.profile), "absent": None}  # fmt: skip


def _tilt(value: Tilt | Absent) -> dict[str, Any] | None:
    if _no_zone(value):
        return None
    if isinstance(value, Absent):
        return {**dict.fromkeys(("head", "tail", "parted", "parted_u")), "absent": value.reason}
    return {"head": _end(value.head, value.colour_u), "tail": _end(value.tail, value.colour_u), **_figure("parted", value.parted),
            "absent": None}  # fmt: skip


def _effect(value: Effect) -> dict[str, Any]:
    return {"effect": value.name, "contrast": number(value.contrast), "contrast_u": number(value.contrast_u),
            **_figure("size_mm", value.size_mm)}  # fmt: skip


def _separation(value: Separation | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {"index": None, "components": [], "u": None, "mixed": None, "absent": value.reason}
    parts = [
        {"lab": numbers(xyz_to_lab(c.xyz)), "u": number(c.u), "share": number(c.share), "share_u": number(c.share_u),
         **_figure("tooth", c.tooth)} for c in value.components
    ]  # fmt: skip
    return {"index": number(value.index), "components": parts, "u": number(value.u), "mixed": number(value.mixed), "absent": None}


def _sparkle(value: Sparkle | Absent) -> dict[str, Any]:
    names, figures = ("density", "u", "strength", "strength_u", "coverage", "coverage_u"), ("heavy", "light", "on_black", "hue")
    if isinstance(value, Absent):
        return {**dict.fromkeys(names), **_figures(dict.fromkeys(figures)), "clipped": None, "shots": None, "absent": value.reason}
    told = {name: number(getattr(value, name)) for name in names} | _figures({name: getattr(value, name) for name in figures})
    return {**told, "clipped": value.clipped, "shots": value.shots, "absent": None}


def _sheen(value: Sheen | Absent) -> dict[str, Any]:
    if isinstance(value, Absent):
        return {**dict.fromkeys(("delta_e00", "u", "hue_travel", "hue_travel_u", "claimed", "on_black")), "absent": value.reason}
    on_black = None if value.on_black is None else _sheen(value.on_black)
    return {"delta_e00": number(value.delta_e00), "u": number(value.u), "hue_travel": number(value.hue_travel),
            "hue_travel_u": number(value.hue_travel_u), "claimed": value.claimed, "on_black": on_black, "absent": None}  # fmt: skip


def _fade(value: Fading | Absent) -> dict[str, Any] | None:
    """None where the card has no strip at all."""
    if isinstance(value, Absent):
        if _no_zone(value):
            return None
        return {"delta_e_ab": None, "delta_e00": None, "delta_L": None, "hours": None, "category": None, "u": None, "absent": value.reason}
    return {"delta_e_ab": number(value.delta_e_ab), "delta_e00": number(value.delta_e00), "delta_L": number(value.delta_l),
            "hours": value.hours, "category": value.category, "u": number(value.u), "absent": None}  # fmt: skip
