"""All quantities of one swatch, from the zones that its card has for it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.lit_shots import LitShot
from gelvet.core.card.layout import Rect, Zone
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.dilution_path import dilution_path
from gelvet.core.measure.drying import drying
from gelvet.core.measure.evenness import gradient_evenness
from gelvet.core.measure.fading import fading
from gelvet.core.measure.glaze import glaze
from gelvet.core.measure.granulation import PaperTexture, granulation
from gelvet.core.measure.hiding import hiding
from gelvet.core.measure.hue_shift import hue_shift
from gelvet.core.measure.lifting import lifting
from gelvet.core.measure.separation import pixel_path, separation
from gelvet.core.measure.sheen import sheen
from gelvet.core.measure.sparkle import sparkle
from gelvet.core.measure.strength import strength
from gelvet.core.measure.tooth import tooth_correlation
from gelvet.core.measure.value_range import value_range
from gelvet.core.measure.values import (
    Absent,
    DilutionPath,
    Fading,
    Glaze,
    Gradient,
    Granulation,
    Hiding,
    HueShift,
    Lifting,
    Separation,
    Strength,
    SwatchMeasures,
    Tooth,
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


@dataclass(frozen=True, slots=True)
class _Texture:
    """The pixels at full resolution on which grain and separation are judged, of which kind and where they are."""

    pixels: ZonePixels
    kind: str
    rect: Rect


def measure_swatch(
    capture: CalibratedCapture,
    zones: Mapping[str, list[MeasuredZone]],
    inks: list[MeasuredZone],
    paper: Paper | Absent,
    state: str,
    lights: Sequence[LitShot] = (),
    wet: Mapping[str, list[MeasuredZone]] | None = None,
) -> SwatchMeasures:
    """`zones` of the swatch by kind; `inks` bare ink anywhere on the card, for swatches without their own; `lights` the flat
    shot and those lit otherwise; `wet` the same zones in a shot of the wet card."""
    if isinstance(paper, Absent):
        return nothing_measured(paper)
    path = _with_uncertainty(_path(zones, paper.colour.xyz), capture)
    if state == "wet":
        return replace(nothing_measured(Absent("the card was captured wet")), path=path)
    shift, values = _ends(path, capture, paper)
    places = {kind: [m.zone for m in measured] for kind, measured in zones.items()}
    texture = _texture_zone(capture, zones, paper.colour.xyz, path)
    tooth = _tooth(lights, texture, paper)
    return SwatchMeasures(
        path=path,
        hue_shift=shift,
        value_range=values,
        granulation=_granulation(capture, paper, texture, tooth),
        tooth=tooth,
        strength=_strength(zones, paper),
        glaze=_glaze(zones),
        gradient=_gradient(zones, paper),
        drying=path if isinstance(path, Absent) else drying(None if wet is None else _path(wet, paper.colour.xyz), path),
        separation=_separation(capture, zones, paper, texture),
        hiding=_hiding(zones, inks, paper),
        lifting=_lifting(zones, paper),
        fading=_fading(zones),
        sparkle=sparkle(lights, places),
        sheen=sheen(lights, places),
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


def _texture_zone(
    capture: CalibratedCapture, zones: Mapping[str, list[MeasuredZone]], paper: Floats, path: DilutionPath | Absent
) -> _Texture | Absent:
    """The pixels at full resolution on which grain and separation are judged, and of which kind they are."""
    chosen = next((z for z in zones.get("wash", []) if z.zone.extra.get("strength") != "heavy"), None)
    if chosen is not None:
        return _texture(capture, chosen.zone, "wash", paper)
    gradient = _first(zones, "gradient")
    if gradient is None or isinstance(path, Absent):
        return Absent("the card has neither a wash nor a gradient zone for this paint")
    part = _stretch(gradient, paper, path.masstone_depth)
    if part is None:
        return Absent("the gradient has no stretch of middle depth to judge grain on")
    return _texture(capture, part, "gradient", paper)


def _texture(capture: CalibratedCapture, zone: Zone, kind: str, paper: Floats) -> _Texture:
    return _Texture(without_foreign_matter(zone_pixels(capture, zone, full_resolution=True), kind, paper), kind, zone.rect.inset(0.6))


def _granulation(capture: CalibratedCapture, paper: Paper, texture: _Texture | Absent, tooth: Tooth | Absent) -> Granulation | Absent:
    if isinstance(texture, Absent):
        return texture
    cal = capture.calibration
    known = None if isinstance(tooth, Absent) else tooth
    return granulation(texture.pixels, paper.texture, cal.blur_mm, cal.noise_l, texture.kind, known)


def _tooth(lights: Sequence[LitShot], texture: _Texture | Absent, paper: Paper) -> Tooth | Absent:
    return texture if isinstance(texture, Absent) else tooth_correlation(lights, texture.rect, paper.colour.xyz)


def _strength(zones: Mapping[str, list[MeasuredZone]], paper: Paper) -> Strength | Absent:
    """Steps say their paint fraction as `dilution`, or as `fraction`."""
    steps = [
        (float(share), m.colour)
        for m in zones.get("step", [])
        for share in (m.zone.extra.get("dilution", m.zone.extra.get("fraction")),)
        if isinstance(share, int | float) and isinstance(m.colour, ZoneColour)
    ]
    return strength(paper.colour, steps)


def _glaze(zones: Mapping[str, list[MeasuredZone]]) -> Glaze | Absent:
    layers = [
        (int(count), m.colour)
        for m in zones.get("glaze", [])
        for count in (m.zone.extra.get("layers"),)
        if isinstance(count, int) and isinstance(m.colour, ZoneColour)
    ]
    return glaze(layers)


def _gradient(zones: Mapping[str, list[MeasuredZone]], paper: Paper) -> Gradient | Absent:
    gradient = _first(zones, "gradient")
    if gradient is None:
        return Absent("the card has no gradient zone for this paint")
    found = gradient_evenness(gradient.pixels, gradient.zone.axis or "+x", paper.colour.xyz)
    return found or Absent("the gradient is too short to judge its evenness")


def _separation(
    capture: CalibratedCapture, zones: Mapping[str, list[MeasuredZone]], paper: Paper, texture: _Texture | Absent
) -> Separation | Absent:
    if isinstance(texture, Absent):
        return texture
    cal, white = capture.calibration, paper.colour.xyz
    # Deeper colour than the gradient's is far from what the wash's pixels are judged by.
    fine = [zone_pixels(capture, z.zone, full_resolution=True) for z in zones.get("gradient", zones.get("masstone", []))]
    path = pixel_path([*fine, texture.pixels], white)
    eight_bit = capture.picture.pixels.dtype == np.uint8
    return separation(texture.pixels, path, white, paper.texture, cal.blur_mm, cal.pixel_noise, coarse_colour=eight_bit)


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


def _fading(zones: Mapping[str, list[MeasuredZone]]) -> Fading | Absent:
    colours = _colours(zones, "covered", "exposed")
    if isinstance(colours, Absent):
        return colours
    hours = zones["exposed"][0].zone.extra.get("hours", 0.0)
    if not isinstance(hours, int | float) or hours <= 0:
        return Absent("the strip has not been in the light yet")
    covered, exposed = colours
    return fading(covered, exposed, float(hours))
