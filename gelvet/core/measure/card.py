"""A whole card: every zone's colour, every swatch's quantities."""

import os
from collections import defaultdict
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from gelvet.core.capture.calibrated_capture import CalibratedCapture, Progress
from gelvet.core.capture.lit_shots import lit_shots, wet_shot
from gelvet.core.capture.shots import RegisteredShot
from gelvet.core.card.layout import Layout, Zone
from gelvet.core.measure.granulation import paper_texture
from gelvet.core.measure.paint_way import OTHER_GROUND, paint_correction
from gelvet.core.measure.ratios import COLOURLESS, UNKNOWN_ENCODING, only_ratios
from gelvet.core.measure.swatch import MeasuredZone, Paper, measure_swatch
from gelvet.core.measure.values import Absent, SwatchMeasures, ZoneColour, nothing_measured
from gelvet.core.measure.zone_colour import without_foreign_matter, zone_colour, zone_pixels

_OF_THE_PATH = {"masstone", "gradient", "wash", "step"}
S = TypeVar("S")
T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class MeasuredCard:
    """Colour of each zone and quantities of each swatch, by id."""

    zones: dict[str, ZoneColour | Absent]
    swatches: dict[str, SwatchMeasures]
    paper: ZoneColour | Absent


def measure_card(
    capture: CalibratedCapture,
    state: str = "dry",
    progress: Progress = lambda stage, share: None,
    shots: Sequence[RegisteredShot] = (),
) -> MeasuredCard:
    """Everything that the card holds. Swatches are measured in parallel; the arrays release the interpreter."""
    layout = capture.layout
    if not capture.calibration.ratios_hold:
        return _without_colours(layout, {s.id: nothing_measured(UNKNOWN_ENCODING) for s in layout.swatches}, UNKNOWN_ENCODING)
    progress("measuring the bare paper", 0.4)
    bare = layout.zones_of("paper")
    papers = dict(zip([z.id for z in bare], _in_parallel(lambda z: _measure_paper(capture, z), bare), strict=True))
    paper = pool_paper(capture, list(papers.values()))
    lights = [] if isinstance(paper, Absent) else lit_shots(capture, paper.colour.xyz, shots)
    wet_card = None if isinstance(paper, Absent) else wet_shot(capture, paper.colour.xyz, shots)
    shared = [z for z in layout.zones if z.swatch is None and z.kind != "paper"]
    common = {z.id: _measure_zone(capture, z, paper) for z in shared}
    inks = [m for m in common.values() if m.zone.kind == "ink"]
    done = 0

    def one(swatch: str) -> tuple[dict[str, MeasuredZone], SwatchMeasures]:
        nonlocal done
        own = [z for z in layout.zones if z.swatch == swatch and z.kind != "paper"]
        paint = None if isinstance(paper, Absent) else paint_correction(capture, own, paper.colour.xyz)
        corrected = replace(capture, paint=paint)
        measured = {z.id: _measure_zone(capture if z.kind in OTHER_GROUND else corrected, z, paper) for z in own}
        by_kind: dict[str, list[MeasuredZone]] = defaultdict(list)
        for item in measured.values():
            by_kind[item.zone.kind].append(item)
        result = measure_swatch(
            corrected, by_kind, inks, paper, state, lights, _wet_zones(wet_card and replace(wet_card, paint=paint), own, paper)
        )
        done += 1
        progress("measuring the swatches", 0.4 + 0.55 * done / max(len(layout.swatches), 1))
        return measured, result

    names = [s.id for s in layout.swatches]
    results = _in_parallel(one, names)
    if capture.calibration.tier == "none":
        ratios = {name: only_ratios(result) for name, (_, result) in zip(names, results, strict=True)}
        return _without_colours(layout, ratios, COLOURLESS)
    zones: dict[str, ZoneColour | Absent] = {name: m.colour for name, m in papers.items()}
    zones |= {name: m.colour for name, m in common.items()}
    for measured, _ in results:
        zones |= {name: m.colour for name, m in measured.items()}
    return MeasuredCard(
        {z.id: zones[z.id] for z in layout.zones},
        {name: result for name, (_, result) in zip(names, results, strict=True)},
        paper if isinstance(paper, Absent) else paper.colour,
    )


def _without_colours(layout: Layout, swatches: dict[str, SwatchMeasures], reason: Absent) -> MeasuredCard:
    return MeasuredCard({z.id: reason for z in layout.zones}, swatches, reason)


def _in_parallel(function: Callable[[S], T], items: Sequence[S]) -> list[T]:
    with ThreadPoolExecutor(max_workers=os.cpu_count() or 1) as pool:
        return list(pool.map(function, items))


def _wet_zones(wet_card: CalibratedCapture | None, zones: Sequence[Zone], paper: Paper | Absent) -> dict[str, list[MeasuredZone]] | None:
    """The zones of the dilution path in the shot of the wet card, by kind; None where there is no such shot."""
    if wet_card is None:
        return None
    by_kind: dict[str, list[MeasuredZone]] = defaultdict(list)
    for zone in zones:
        if zone.kind in _OF_THE_PATH:
            by_kind[zone.kind].append(_measure_zone(wet_card, zone, paper))
    return by_kind


def _measure_zone(capture: CalibratedCapture, zone: Zone, paper: Paper | Absent) -> MeasuredZone:
    white = None if isinstance(paper, Absent) else paper.colour.xyz
    pixels = without_foreign_matter(zone_pixels(capture, zone), zone.kind, white)
    return MeasuredZone(zone, pixels, zone_colour(capture, pixels))


def _measure_paper(capture: CalibratedCapture, zone: Zone) -> MeasuredZone:
    pixels = without_foreign_matter(zone_pixels(capture, zone, full_resolution=True), "paper", None)
    return MeasuredZone(zone, pixels, zone_colour(capture, pixels))


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
    return Paper(pooled, paper_texture([p for _, p in good], cal.blur_mm, cal.noise_l))
