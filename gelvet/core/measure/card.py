"""A whole card: every zone's colour, every swatch's quantities."""

import os
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.capture.calibrated_capture import CalibratedCapture, PaintCorrection, Progress
from gelvet.core.capture.shots.contrast import PatchLight, patch_light
from gelvet.core.capture.shots.lit_shots import flat_of, lit_shots, shot_of
from gelvet.core.capture.shots.registered import RegisteredShot
from gelvet.core.capture.shots.same_device import MOST_APART_DE, patches_apart
from gelvet.core.card.layout import Layout, Zone
from gelvet.core.measure.dilution.paint_way import OTHER_GROUND, paint_correction, with_film_of
from gelvet.core.measure.dilution.strength import against
from gelvet.core.measure.grain.granulation import paper_texture
from gelvet.core.measure.grain.roughness import NO_LAMP, paper_relief, roughness
from gelvet.core.measure.grain.tooth import paper_shading
from gelvet.core.measure.low_lamps.sparkle import mix_sparkle
from gelvet.core.measure.quantities.colour import Strength
from gelvet.core.measure.quantities.paper import PaperRelief, PaperShading
from gelvet.core.measure.quantities.swatch import SwatchMeasures, nothing_measured
from gelvet.core.measure.quantities.texture import Sparkle
from gelvet.core.measure.ratios import COLOURLESS, UNKNOWN_ENCODING, only_ratios
from gelvet.core.measure.swatch import MeasuredSwatch, OtherMoments, Surroundings, measure_swatch
from gelvet.core.measure.swatch_zones import MeasuredZone, Paper, SwatchZones
from gelvet.core.measure.values import Absent, ZoneColour
from gelvet.core.measure.zone.averaging import averaged
from gelvet.core.measure.zone.colour import zone_colour, zone_pixels
from gelvet.core.measure.zone.foreign_matter import without_foreign_matter
from gelvet.core.measure.zone.light import MEAN_PIXELS_PER_MM, ZoneLight, zone_light

_OF_THE_PATH = ("masstone", "gradient", "wash", "step")
_OF_LIFTING = ("lifted",)
_OTHER_STATES = ("wet", "before_lifting")
S = TypeVar("S")
T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class MeasuredCard:
    """Colour of each zone, quantities of each swatch and the pictures of what they rest on, by id."""

    zones: dict[str, ZoneColour | Absent]
    swatches: dict[str, SwatchMeasures]
    paper: ZoneColour | Absent
    views: dict[str, dict[str, Image]] = field(default_factory=dict)
    mixes: dict[str, Sparkle | Absent] = field(default_factory=dict)  # by zone, where low lamps shone on the card
    relief: PaperRelief | Absent = NO_LAMP
    shading: PaperShading | None = None


def measure_card(
    capture: CalibratedCapture,
    state: str = "dry",
    progress: Progress = lambda stage, share: None,
    shots: Sequence[RegisteredShot] = (),
    *,
    with_views: bool = False,
) -> MeasuredCard:
    """Everything that the card holds, with pictures of it where they are wanted. Swatches are measured in parallel; the arrays
    release the interpreter."""
    layout = capture.layout
    if not capture.calibration.ratios_hold:
        return _without_colours(layout, {s.id: nothing_measured(UNKNOWN_ENCODING) for s in layout.swatches}, UNKNOWN_ENCODING)
    progress("measuring the bare paper", 0.4)
    bare = layout.zones_of("paper")
    papers = dict(zip([z.id for z in bare], _in_parallel(lambda z: _measure_paper(capture, z), bare), strict=True))
    paper = pool_paper(capture, list(papers.values()))
    shared = [z for z in layout.zones if z.swatch is None and z.kind != "paper"]
    common = {z.id: _measure_zone(capture, z, _zone_light(capture, z), paper) for z in shared}
    around, others = None, _OtherCards(None, None)
    mixes: dict[str, Sparkle | Absent] = {}
    relief: PaperRelief | Absent = paper if isinstance(paper, Absent) else NO_LAMP
    if isinstance(paper, Paper):
        white = paper.colour.xyz
        inks = [m for m in common.values() if m.zone.kind == "ink"]
        lights = lit_shots(capture, white, shots)
        rough = roughness(lights, paper.places) if layout.zones_of("lifted") else None
        shading = paper_shading(lights, paper.places, paper.texture)
        around = Surroundings(
            paper=paper, inks=inks, lights=lights, roughness=rough, shading=shading, state=state, with_views=with_views
        )  # fmt: skip
        if len(lights) > 1:
            relief = paper_relief(lights, paper.places)
            mixes = {z.id: mix_sparkle(lights, z) for z in layout.zones_of("mix")}
        others = _other_cards(capture, shots)
    done = 0

    def one(swatch: str) -> tuple[dict[str, ZoneColour | Absent], MeasuredSwatch]:
        nonlocal done
        own = [z for z in layout.zones if z.swatch == swatch and z.kind != "paper"]
        lit = [(z, _zone_light(capture, z)) for z in own]
        paint = None if isinstance(paper, Absent) else paint_correction(capture, lit, paper.colour.xyz)
        corrected = replace(capture, paint=paint)
        measured = {z.id: _measure_zone(capture if z.kind in OTHER_GROUND else corrected, z, light, paper) for z, light in lit}
        lit.clear()  # as large as all that is measured of the swatch
        if around is None:
            result = MeasuredSwatch(nothing_measured(paper if isinstance(paper, Absent) else COLOURLESS), {})
        else:
            wet = with_film_of(others.wet, capture, own) if isinstance(others.wet, CalibratedCapture) else others.wet
            moments = OtherMoments(
                wet=_zones_in(wet, own, _OF_THE_PATH, around.paper, paint),
                before_lifting=_zones_in(others.before_lifting, own, _OF_LIFTING, around.paper, paint),
                wet_apart=others.wet_apart or 0.0,
            )
            result = measure_swatch(corrected, _by_kind(measured.values()), around, moments)
        done += 1
        progress("measuring the swatches", 0.4 + 0.55 * done / max(len(layout.swatches), 1))
        # The pixels themselves are let go with the swatch.
        return {name: m.colour for name, m in measured.items()}, result

    names = [s.id for s in layout.swatches]
    results = _in_parallel(one, names)
    if capture.calibration.tier == "none":
        ratios = {name: only_ratios(result.figures) for name, (_, result) in zip(names, results, strict=True)}
        return _without_colours(layout, ratios, COLOURLESS)
    zones: dict[str, ZoneColour | Absent] = {name: m.colour for name, m in papers.items()}
    zones |= {name: m.colour for name, m in common.items()}
    for colours, _ in results:
        zones |= colours
    return MeasuredCard(
        {z.id: zones[z.id] for z in layout.zones},
        _relative_strengths(layout, {name: result.figures for name, (_, result) in zip(names, results, strict=True)}),
        paper if isinstance(paper, Absent) else paper.colour,
        {name: result.views for name, (_, result) in zip(names, results, strict=True)},
        mixes,
        relief,
        None if around is None else around.shading,
    )


def _relative_strengths(layout: Layout, swatches: dict[str, SwatchMeasures]) -> dict[str, SwatchMeasures]:
    """Tinting strengths against that of the swatch which the layout names as `strength_reference`."""
    named = swatches.get(str(layout.extra.get("strength_reference", "")))
    if named is None or isinstance(named.strength, Absent):
        return swatches
    whole = named.strength
    return {
        name: replace(m, strength=against(m.strength, whole)) if isinstance(m.strength, Strength) else m for name, m in swatches.items()
    }


def _without_colours(layout: Layout, swatches: dict[str, SwatchMeasures], reason: Absent) -> MeasuredCard:
    return MeasuredCard({z.id: reason for z in layout.zones}, swatches, reason, relief=reason)


def _in_parallel(function: Callable[[S], T], items: Sequence[S]) -> list[T]:
    with ThreadPoolExecutor(max_workers=os.cpu_count() or 1) as pool:
        return list(pool.map(function, items))


@dataclass(frozen=True, slots=True)
class _OtherCards:
    """The same card at other moments; None without such a shot."""

    wet: CalibratedCapture | Absent | None
    before_lifting: CalibratedCapture | Absent | None
    wet_apart: float | None = None  # median ΔE00 of its patches from the dry shot's


def _other_cards(capture: CalibratedCapture, shots: Sequence[RegisteredShot]) -> _OtherCards:
    if all(flat_of(shots, state) is None for state in _OTHER_STATES):
        return _OtherCards(None, None)
    patches = patch_light(capture)
    (wet, wet_apart), (before_lifting, _) = (_at_another_moment(capture, patches, shots, state) for state in _OTHER_STATES)
    return _OtherCards(wet, before_lifting, wet_apart)


def _at_another_moment(
    capture: CalibratedCapture, patches: PatchLight, shots: Sequence[RegisteredShot], state: str
) -> tuple[CalibratedCapture | Absent | None, float | None]:
    """The card in that state, and how far its patches lie from those of the dry one (`patches_apart`)."""
    if flat_of(shots, state) is None:
        return None, None
    other = shot_of(capture, shots, state)
    if other is None:
        return Absent("the capture has no usable bare paper zone"), None
    apart = patches_apart(capture.calibration.model, patches, patch_light(other))
    if apart is not None and apart > MOST_APART_DE:
        reason = f"its reference patches differ by {apart:.1f} ΔE00 from those of the dry shot; take both with one device in one light"
        return Absent(reason), apart
    return other, apart


def _by_kind(measured: Iterable[MeasuredZone]) -> SwatchZones:
    found: dict[str, list[MeasuredZone]] = defaultdict(list)
    for item in measured:
        found[item.zone.kind].append(item)
    return SwatchZones(found)


def _zones_in(
    card: CalibratedCapture | Absent | None, zones: Sequence[Zone], kinds: Sequence[str], paper: Paper, paint: PaintCorrection | None
) -> SwatchZones | Absent | None:
    """The zones of some kinds in another shot; None where there is no such shot."""
    if not isinstance(card, CalibratedCapture):
        return card
    own = replace(card, paint=paint)
    return _by_kind(_measure_zone(own, zone, _zone_light(own, zone), paper) for zone in zones if zone.kind in kinds)


def _zone_light(capture: CalibratedCapture, zone: Zone) -> ZoneLight:
    return zone_light(capture, zone, full_resolution=zone.kind in _OF_THE_PATH)


def _measure_zone(capture: CalibratedCapture, zone: Zone, light: ZoneLight, paper: Paper | Absent) -> MeasuredZone:
    white = None if isinstance(paper, Absent) else paper.colour.xyz
    seen = zone_pixels(capture, light)
    fine = seen if zone.kind in _OF_THE_PATH else None
    pixels = without_foreign_matter(seen if fine is None else averaged(fine, MEAN_PIXELS_PER_MM), zone.kind, white)
    return MeasuredZone(zone, pixels, zone_colour(capture, zone, pixels), fine)


def _measure_paper(capture: CalibratedCapture, zone: Zone) -> MeasuredZone:
    pixels = without_foreign_matter(zone_pixels(capture, zone_light(capture, zone, full_resolution=True)), "paper", None)
    return MeasuredZone(zone, pixels, zone_colour(capture, zone, pixels))


def pool_paper(capture: CalibratedCapture, zones: list[MeasuredZone]) -> Paper | Absent:
    """One paper for the capture: the middle of its zones, in which a stained one does not count."""
    good = [(z.colour, z.pixels) for z in zones if isinstance(z.colour, ZoneColour)]
    if not good:
        return Absent("the card has no usable bare paper zone")
    xyz = np.median([c.xyz for c, _ in good], axis=0)
    first = good[0][0]
    pooled = ZoneColour(
        xyz=xyz,
        sd=np.median([c.sd for c, _ in good], axis=0),
        u=float(np.median([c.u for c, _ in good])),
        u_lab=np.median([c.u_lab for c, _ in good], axis=0),
        u_spatial=float(np.median([c.u_spatial for c, _ in good]) / np.sqrt(len(good))),
        used_fraction=first.used_fraction,
    )
    cal = capture.calibration
    texture = paper_texture([p for _, p in good], cal.blur_mm, cal.noise_l)
    return Paper(pooled, texture, tuple(z.zone.rect for z in zones if isinstance(z.colour, ZoneColour)))
