"""All quantities of one swatch, from the zones that its card has for it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.shots.lit_shots import LitShot
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.dilution.evenness import gradient_evenness
from gelvet.core.measure.dilution.hue_shift import hue_shift
from gelvet.core.measure.dilution.path import dilution_path, wash_moves
from gelvet.core.measure.dilution.strength import strength
from gelvet.core.measure.dilution.value_range import value_range
from gelvet.core.measure.fading import fading
from gelvet.core.measure.grain.roughness import rise_of_roughness
from gelvet.core.measure.grain.tooth import hollows_of, tooth_correlation
from gelvet.core.measure.layers.glaze import Layer, glaze, unevenness
from gelvet.core.measure.layers.hiding import hiding
from gelvet.core.measure.layers.lifting import lifting
from gelvet.core.measure.low_lamps.sheen import sheen
from gelvet.core.measure.low_lamps.sparkle import FoundGlints, find_glints, glint_light, glints_of, sparkle, without_glints
from gelvet.core.measure.quantities.colour import DilutionPath, Fading, Gradient, HueShift, Strength, ValueRange
from gelvet.core.measure.quantities.layers import Glaze, Hiding, LayersOverInk, Lifting
from gelvet.core.measure.quantities.paper import PaperShading
from gelvet.core.measure.quantities.swatch import SwatchMeasures, nothing_measured
from gelvet.core.measure.quantities.texture import Separation
from gelvet.core.measure.quantities.water import Effect
from gelvet.core.measure.swatch_texture import grain_of, parting_of
from gelvet.core.measure.swatch_zones import MeasuredZone, Paper, SwatchZones, Texture, colour_of, wash_texture
from gelvet.core.measure.values import Absent, Figure, ZoneColour
from gelvet.core.measure.views import swatch_views
from gelvet.core.measure.water.drying import drying
from gelvet.core.measure.water.patterns import effect, tilt, water_drop, wet_drop

T = TypeVar("T")


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """What a swatch shares with its card: the paper, its roughness under low lamps and its shading in the flat shot, bare ink anywhere,
    the flat shot and those lit otherwise."""

    paper: Paper
    inks: Sequence[MeasuredZone] = ()
    lights: Sequence[LitShot] = ()
    roughness: Figure | None = None
    shading: PaperShading | None = None
    state: str = "dry"
    with_views: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherMoments:
    """The swatch's zones in shots of the same card while it was wet, and before it was lifted; None without such a shot."""

    wet: SwatchZones | Absent | None = None
    before_lifting: SwatchZones | Absent | None = None
    wet_apart: float = 0.0  # ΔE00 by which the wet shot's patches differ from the dry one's


@dataclass(frozen=True, slots=True)
class MeasuredSwatch:
    """Its figures, and the pictures (h, w, 3) uint8 made from the arrays that gave them, by name."""

    figures: SwatchMeasures
    views: dict[str, Image]


def measure_swatch(capture: CalibratedCapture, zones: SwatchZones, around: Surroundings, moments: OtherMoments) -> MeasuredSwatch:
    """Every figure that the swatch's zones allow."""
    paper = around.paper
    white = paper.colour.xyz
    path = _with_uncertainty(_path(zones, white), capture, white)
    if around.state == "wet":
        return MeasuredSwatch(replace(nothing_measured(Absent("the card was captured wet")), path=path), {})
    shift, values = _ends(path, paper)

    def doubt(lab: Floats) -> float:
        return capture.calibration.colour_uncertainty(lab)[0]

    found = find_glints(around.lights, zones.places())
    texture = wash_texture(zones, white, path)
    if isinstance(texture, Texture):
        texture = replace(texture, pixels=without_glints(texture.pixels, (texture.rect.x, texture.rect.y), found))
    hollows = texture if isinstance(texture, Absent) else hollows_of(around.lights, texture.rect)
    tooth = texture if isinstance(texture, Absent) else tooth_correlation(hollows, texture.pixels, white, around.shading)
    ways, parted = parting_of(capture, zones, paper, texture, hollows)
    figures = SwatchMeasures(
        path=path,
        hue_shift=shift,
        value_range=values,
        granulation=grain_of(capture, zones, paper, texture, tooth),
        tooth=tooth,
        strength=_strength(zones, paper),
        glaze=_glaze(zones, around),
        gradient=_where_there_is(zones, "gradient", lambda drawn_out: _evenness(drawn_out, paper)),
        drying=drying(
            _path(moments.wet, white) if isinstance(moments.wet, SwatchZones) else moments.wet, path, white, apart=moments.wet_apart
        ),
        separation=parted,
        hiding=_hiding(zones, around, found),
        lifting=_lifting(zones, around, moments, found, parted),
        fading=_fading(zones),
        sparkle=sparkle(found, len(around.lights)),
        sheen=sheen(around.lights, zones.places()),
        wet_drop=_where_there_is(zones, "wet_drop", lambda drop: wet_drop(drop.pixels, white, path, doubt)),
        water_drop=_where_there_is(zones, "water_drop", lambda drop: water_drop(drop.pixels, white)),
        tilt=_where_there_is(zones, "tilt", lambda strip: tilt(strip.pixels, strip.zone.axis or "+x", white, path, doubt)),
        effects=_effects(zones),
    )
    if not around.with_views:
        return MeasuredSwatch(figures, {})
    return MeasuredSwatch(figures, swatch_views(texture, ways, white, parted, around.lights, zones.places()))


def _ends(path: DilutionPath | Absent, paper: Paper) -> tuple[HueShift | Absent, ValueRange | Absent]:
    """What the two ends of the path say together."""
    if isinstance(path, Absent):
        return path, path
    u_masstone, u_wash = path.masstone.u_lab, path.u_wash_lab
    return hue_shift(path, u_masstone, u_wash), value_range(path, paper.colour, float(u_masstone[0]), float(u_wash[0]))


def _with_uncertainty(path: DilutionPath | Absent, capture: CalibratedCapture, paper: Floats) -> DilutionPath | Absent:
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
    half, wash, moves = xyz_to_lab(path.half_xyz), path.wash_lab, wash_moves(path, paper)
    half_u, half_u_lab = of(half)
    wash_u, wash_u_lab = of(wash)
    between = float(ciede2000(half, half + path.half_doubt))
    beyond = [float(ciede2000(wash, wash + by)) for by in (moves, path.wash_doubt)]
    return replace(
        path,
        masstone=masstone,
        u_half=float(np.linalg.norm([half_u, spatial, between])),
        u_half_lab=np.hypot(half_u_lab, path.half_doubt),
        u_wash=float(np.linalg.norm([wash_u, spatial, *beyond])),
        u_wash_lab=np.linalg.norm([wash_u_lab, moves, path.wash_doubt], axis=0),
    )


def _path(zones: SwatchZones, paper: Floats) -> DilutionPath | Absent:
    gradient, masstone = zones.first("gradient"), zones.first("masstone")
    others = [z.pixels for kind in ("masstone", "wash", "step") for z in zones.all(kind) if isinstance(z.colour, ZoneColour)]
    colour = masstone.colour if masstone else Absent("the card has no masstone zone for this paint")
    usable = gradient is not None and isinstance(gradient.colour, ZoneColour)
    return dilution_path(
        gradient.pixels if gradient and usable else None, (gradient.zone.axis or "+x") if gradient else "+x", others, colour, paper
    )


def _strength(zones: SwatchZones, paper: Paper) -> Strength | Absent:
    """Steps say their paint fraction as `dilution`, or as `fraction`."""
    steps = [
        (float(share), m.colour)
        for m in zones.all("step")
        for share in (m.zone.extra.get("dilution", m.zone.extra.get("fraction")),)
        if isinstance(share, int | float) and isinstance(m.colour, ZoneColour)
    ]
    return strength(paper.colour, steps)


def _glaze(zones: SwatchZones, around: Surroundings) -> Glaze | Absent:
    paper = around.paper
    layers = [
        Layer(count, m.colour, unevenness(m.pixels, paper.colour.xyz), m.pixels.good.size / m.pixels.pixels_per_mm**2)
        for m in zones.all("glaze")
        for count in (m.zone.extra.get("layers"),)
        if isinstance(count, int) and isinstance(m.colour, ZoneColour)
    ]
    ink = _ink(zones, around)
    beside = {m.zone.extra.get("layers"): m for m in zones.all("glaze")}
    over = [
        LayersOverInk(count, found)
        for m in zones.all("over_ink")
        for count in (m.zone.extra.get("layers"),)
        if isinstance(count, int)
        for found in (_over_and_beside(m, beside.get(count), ink, paper),)
        if not isinstance(found, Absent)
    ]
    return glaze(layers, over)


def _evenness(gradient: MeasuredZone, paper: Paper) -> Gradient | Absent:
    found = gradient_evenness(gradient.pixels, gradient.zone.axis or "+x", paper.colour.xyz)
    return found or Absent("the gradient is too short to judge its evenness")


def _ink(zones: SwatchZones, around: Surroundings) -> ZoneColour | Absent:
    """The swatch's own bare ink, else any on the card."""
    return colour_of(zones.first("ink") or next(iter(around.inks), None), "ink")


def _hiding(zones: SwatchZones, around: Surroundings, found: Sequence[FoundGlints] | Absent) -> Hiding | Absent:
    ink = _ink(zones, around)
    light = _over_and_beside(zones.first("over_ink", "light"), zones.first("beside_ink", "light"), ink, around.paper)
    glints = glint_light(found, "over_ink")
    plain = _over_and_beside(zones.plain("over_ink"), zones.plain("beside_ink"), ink, around.paper)
    if isinstance(plain, Absent):
        return plain
    return replace(
        plain,
        glinting_veil=None if glints is None else Figure(plain.veil + glints.value, float(np.hypot(plain.u, glints.u))),
        wash=None if isinstance(light, Absent) else light,
    )


def _over_and_beside(over: MeasuredZone | None, beside: MeasuredZone | None, ink: ZoneColour | Absent, paper: Paper) -> Hiding | Absent:
    three = _all_of(ink, colour_of(over, "over_ink"), colour_of(beside, "beside_ink"))
    return three if isinstance(three, Absent) else hiding(paper.colour, *three)


def _all_of(*colours: ZoneColour | Absent) -> list[ZoneColour] | Absent:
    """The colours, or why the first of them that is absent is so."""
    found = []
    for colour in colours:
        if isinstance(colour, Absent):
            return colour
        found.append(colour)
    return found


def _lifting(
    zones: SwatchZones,
    around: Surroundings,
    moments: OtherMoments,
    found: Sequence[FoundGlints] | Absent,
    parted: Separation | Absent,
) -> Lifting | Absent:
    if around.state == "before_lifting":
        return Absent("the card was captured before it was lifted")
    place = zones.first("lifted")
    lifted = colour_of(place, "lifted")
    beside = zones.first("unlifted")
    before = moments.before_lifting
    if beside is None and isinstance(before, Absent):
        return Absent(f"before lifting: {before.reason}")
    earlier = before.first("lifted") if beside is None and isinstance(before, SwatchZones) else None
    both = _all_of(colour_of(earlier or beside, "unlifted"), lifted)
    if isinstance(both, Absent) or place is None:
        return both if isinstance(both, Absent) else Absent("nothing was lifted")
    return lifting(
        around.paper.colour, *both,
        before=earlier is not None,
        components=() if isinstance(parted, Absent) else parted.components,
        glints=glints_of(found, ("lifted",)),
        damage=rise_of_roughness(around.lights, place.zone.rect, around.roughness),
    )  # fmt: skip


def _fading(zones: SwatchZones) -> Fading | Absent:
    both = _all_of(*(colour_of(zones.first(kind), kind) for kind in ("covered", "exposed")))
    if isinstance(both, Absent):
        return both
    strip = zones.all("exposed")[0].zone
    hours = strip.extra.get("hours", 0.0)
    if not isinstance(hours, int | float) or hours <= 0:
        return Absent("the strip has not been in the light yet")
    covered, exposed = both
    return fading(covered, exposed, float(hours))


def _where_there_is(zones: SwatchZones, kind: str, figure: Callable[[MeasuredZone], T | Absent]) -> T | Absent:
    place = zones.first(kind)
    return Absent(f"the card has no {kind} zone for this paint") if place is None else figure(place)


def _effects(zones: SwatchZones) -> tuple[Effect, ...] | Absent:
    made = zones.all("effect")
    if not made:
        return Absent("the card has no effect zone for this paint")
    plain = zones.first("wash")
    wash = plain.colour if plain is not None and isinstance(plain.colour, ZoneColour) else None
    found = [effect(str(z.zone.extra.get("effect", z.zone.id)), z.pixels, wash) for z in made]
    seen = tuple(e for e in found if isinstance(e, Effect))
    return seen or next(e for e in found if isinstance(e, Absent))
