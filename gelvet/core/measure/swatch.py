"""All quantities of one swatch, from the zones that its card has for it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.card.layout import Rect, Zone
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.dilution_path import dilution_path
from gelvet.core.measure.granulation import PaperTexture, granulation
from gelvet.core.measure.hiding import hiding
from gelvet.core.measure.hue_shift import hue_shift
from gelvet.core.measure.lifting import lifting
from gelvet.core.measure.value_range import value_range
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
    ZonePixels,
    nothing_measured,
    tint_depth,
)
from gelvet.core.measure.zone_colour import without_foreign_matter, zone_pixels

_GRAIN_FROM, _GRAIN_TO = 0.25, 0.60


@dataclass(frozen=True, slots=True)
class Paper:
    """The bare paper of the capture: pooled colour and texture."""

    colour: ZoneColour
    texture: PaperTexture | None


@dataclass(frozen=True, slots=True)
class MeasuredZone:
    zone: Zone
    pixels: ZonePixels
    colour: ZoneColour | Absent


def measure_swatch(
    capture: CalibratedCapture,
    zones: Mapping[str, list[MeasuredZone]],
    inks: list[MeasuredZone],
    paper: Paper | Absent,
    state: str,
) -> SwatchMeasures:
    """`zones` of the swatch by kind; `inks` bare ink anywhere on the card, for swatches without their own."""
    if isinstance(paper, Absent):
        return nothing_measured(paper)
    path = _with_uncertainty(_path(zones, paper.colour.xyz), capture)
    if state == "wet":
        return replace(nothing_measured(Absent("the card was captured wet")), path=path)
    shift, values = _ends(path, capture, paper)
    return SwatchMeasures(
        path=path,
        hue_shift=shift,
        value_range=values,
        granulation=_granulation(capture, zones, paper, path),
        hiding=_hiding(zones, inks, paper),
        lifting=_lifting(zones, paper),
    )


def _ends(path: DilutionPath | Absent, capture: CalibratedCapture, paper: Paper) -> tuple[HueShift | Absent, ValueRange | Absent]:
    """What the two ends of the path say together."""
    if isinstance(path, Absent):
        return path, path
    u_masstone = path.masstone.u_lab
    u_wash = capture.calibration.colour_uncertainty(path.wash_lab)[1]
    return hue_shift(path, u_masstone, u_wash), value_range(path, paper.colour.xyz, float(u_masstone[0]), float(u_wash[0]))


def _with_uncertainty(path: DilutionPath | Absent, capture: CalibratedCapture) -> DilutionPath | Absent:
    if isinstance(path, Absent):
        return path
    of = capture.calibration.colour_uncertainty
    spatial = path.masstone.u_spatial
    colour_u, colour_u_lab = of(path.masstone.lab)
    # A masstone zone's uncertainty holds the calibration's already; the larger of both is the same then.
    masstone = replace(
        path.masstone,
        u=max(path.masstone.u, float(np.hypot(colour_u, spatial))),
        u_lab=np.maximum(path.masstone.u_lab, colour_u_lab),
    )
    return replace(
        path,
        masstone=masstone,
        u_half=float(np.hypot(of(xyz_to_lab(path.half_xyz))[0], spatial)),
        u_wash=float(np.hypot(of(path.wash_lab)[0], spatial)),
    )


def _first(zones: Mapping[str, list[MeasuredZone]], kind: str) -> MeasuredZone | None:
    return zones[kind][0] if zones.get(kind) else None


def _path(zones: Mapping[str, list[MeasuredZone]], paper: Floats) -> DilutionPath | Absent:
    gradient, masstone = _first(zones, "gradient"), _first(zones, "masstone")
    others = [z.pixels for kind in ("masstone", "wash", "step") for z in zones.get(kind, []) if isinstance(z.colour, ZoneColour)]
    colour = masstone.colour if masstone else Absent("the card has no masstone zone for this paint")
    usable = gradient is not None and isinstance(gradient.colour, ZoneColour)
    return dilution_path(
        gradient.pixels if gradient and usable else None, (gradient.zone.axis or "+x") if gradient else "+x", others, colour, paper
    )


def _granulation(
    capture: CalibratedCapture, zones: Mapping[str, list[MeasuredZone]], paper: Paper, path: DilutionPath | Absent
) -> Granulation | Absent:
    cal = capture.calibration
    chosen = next((z for z in zones.get("wash", []) if z.zone.extra.get("strength") != "heavy"), None)
    if chosen is not None:
        fine = without_foreign_matter(zone_pixels(capture, chosen.zone, full_resolution=True), "wash", paper.colour.xyz)
        return granulation(fine, paper.texture, cal.blur_mm, cal.noise_l, "wash")
    gradient = _first(zones, "gradient")
    if gradient is None or isinstance(path, Absent):
        return Absent("the card has neither a wash nor a gradient zone for this paint")
    part = _stretch(gradient, paper.colour.xyz, path.masstone_depth)
    if part is None:
        return Absent("the gradient has no stretch of middle depth to judge grain on")
    fine = without_foreign_matter(zone_pixels(capture, part, full_resolution=True), "gradient", paper.colour.xyz)
    return granulation(fine, paper.texture, cal.blur_mm, cal.noise_l, "gradient")


def _stretch(gradient: MeasuredZone, paper: Floats, masstone_depth: float) -> Zone | None:
    """The part of the gradient between 0.25 and 0.6 of the masstone's depth, as a zone."""
    vertical = "y" in (gradient.zone.axis or "+x")
    lines = gradient.pixels.xyz.mean(axis=1 if vertical else 0)
    depth = np.convolve(tint_depth(lines, paper), np.ones(9) / 9, mode="same")
    inside = np.flatnonzero((depth >= _GRAIN_FROM * masstone_depth) & (depth <= _GRAIN_TO * masstone_depth))
    if len(inside) < 10:
        return None
    rect, count = gradient.zone.rect, len(lines)
    low, high = inside[0] / count, (inside[-1] + 1) / count
    if vertical:
        part = Rect(rect.x, rect.y + low * rect.height, rect.width, (high - low) * rect.height)
    else:
        part = Rect(rect.x + low * rect.width, rect.y, (high - low) * rect.width, rect.height)
    return Zone(id=gradient.zone.id, kind="gradient", rect=part, swatch=gradient.zone.swatch, axis=gradient.zone.axis)


def _colours(zones: Mapping[str, list[MeasuredZone]], *kinds: str) -> list[ZoneColour] | Absent:
    found = []
    for kind in kinds:
        zone = _first(zones, kind)
        if zone is None:
            return Absent(f"the card has no {kind} zone for this paint")
        if isinstance(zone.colour, Absent):
            return Absent(f"{kind}: {zone.colour.reason}")
        found.append(zone.colour)
    return found


def _hiding(zones: Mapping[str, list[MeasuredZone]], inks: list[MeasuredZone], paper: Paper) -> Hiding | Absent:
    with_ink = zones if zones.get("ink") else {**zones, "ink": inks}
    colours = _colours(with_ink, "ink", "over_ink", "beside_ink")
    return colours if isinstance(colours, Absent) else hiding(paper.colour, *colours)


def _lifting(zones: Mapping[str, list[MeasuredZone]], paper: Paper) -> Lifting | Absent:
    colours = _colours(zones, "unlifted", "lifted")
    return colours if isinstance(colours, Absent) else lifting(paper.colour, *colours)
