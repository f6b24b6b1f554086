"""One simulated card before a camera in even light and under three low lamps, for all tests: a sparkling, settling paint and a
matte, clumping one."""

import atexit
import shutil
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.pipeline import Measured, measure_image
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import PhotoFormat, SimulatedCapture, card_for_camera, take_photograph, write_image
from gelvet.core.simulate.lamp import Lamp
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import PaintedCard
from gelvet.core.simulate.truth import card_truth

LAMPS = tuple(Lamp(azimuth_deg=azimuth, elevation_deg=20) for azimuth in (0.0, 120.0, 240.0))


@dataclass(frozen=True, slots=True)
class LitCard:
    flat: SimulatedCapture
    image: Path
    shots: tuple[ShotFile, ...]
    truth: dict[str, Any]


@lru_cache(maxsize=1)
def lit_card() -> LitCard:
    layout = build_card("LIT-1", "A6", [SwatchLabel("Sparkling blue"), SwatchLabel("Matte black")], Design(tests=()))
    paints = {
        "S1": paint_of_codes("Sparkling blue", ("PB29", "PBr7"), (0.6, 0.4), masstone_amount=2.4, flakes_per_cm2=900.0),
        "S2": paint_of_codes("Matte black", ("PBk11",), (1.0,), masstone_amount=1.8),
    }
    camera = Camera(pixels_per_mm=20.0, tilt_deg=4.0)
    card = card_for_camera(layout, paints, camera, 3)
    folder = Path(tempfile.mkdtemp(prefix="gelvet-lamps-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    flat = take_photograph(card, camera, 4, "jpeg-92")
    write_image(flat, folder / "flat.jpg")
    shots = []
    for number, lamp in enumerate(LAMPS):
        path = folder / f"lamp-{number}.jpg"
        write_image(take_photograph(card, camera, 5 + number, "jpeg-92", lamp), path)
        shots.append(ShotFile(path=path, light="rake", azimuth_deg=lamp.azimuth_deg, elevation_deg=lamp.elevation_deg))
    return LitCard(flat, folder / "flat.jpg", tuple(shots), {**card_truth(card), "glints": _glints(flat)})


@lru_cache
def measured_with(lamps: int) -> Measured:
    """The card measured with the first so many lamps."""
    card = lit_card()
    return measure_image(card.image, card.flat.card.layout, card.flat.reference, other_shots=card.shots[:lamps], with_views=True)


def photographed(card: PaintedCard, camera: Camera, lamps: Sequence[Lamp], stored: PhotoFormat = "jpeg-92", seed: int = 4) -> Measured:
    """What a shot of `card` in even light and one by each of `lamps` come to."""
    with tempfile.TemporaryDirectory() as folder:
        shots = [take_photograph(card, camera, seed + number, stored, lamp) for number, lamp in enumerate([None, *lamps])]
        paths = [Path(folder) / f"{number}.{shot.ending}" for number, shot in enumerate(shots)]
        for shot, path in zip(shots, paths, strict=True):
            write_image(shot, path)
        low = [
            ShotFile(path=path, light="rake", azimuth_deg=at.azimuth_deg, elevation_deg=at.elevation_deg)
            for path, at in zip(paths[1:], lamps, strict=True)
        ]
        return measure_image(paths[0], card.layout, shots[0].reference, other_shots=low, with_views=True)


def _glints(flat: SimulatedCapture) -> dict[str, float]:
    """Glints per cm² above 0.002 mm² of paper's light, the mean of the lamps, from the flakes themselves."""
    from gelvet.core.simulate.flakes import GLARE

    flakes, paper = flat.card.flakes, flat.card.paper_xyz[1] / 100
    found = {}
    for swatch in flat.card.paints:
        zones = [z.rect.inset(0.8) for z in flat.card.layout.zones if z.swatch == swatch and z.kind in {"masstone", "gradient", "wash"}]
        area = sum(r.width * r.height for r in zones) / 100
        x, y = flakes.places_mm.T
        inside = sum((x > r.x) & (x < r.right) & (y > r.y) & (y < r.bottom) for r in zones) > 0
        bright = GLARE * flakes.sizes_mm**2 / paper > 0.002
        found[swatch] = sum(int((inside & bright & flakes.facing(lamp.azimuth_deg, lamp.elevation_deg)).sum()) for lamp in LAMPS) / (
            area * len(LAMPS)
        )
    return found
