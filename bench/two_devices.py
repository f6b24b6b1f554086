"""One painted card on a flatbed and before a camera: how far the two measurements lie apart."""

import tempfile
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from bench.accuracy import CAMERAS, SCANNERS, SWATCHES
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.colour.difference import ciede2000
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import camera_weights, random_camera
from gelvet.core.simulate.files import SimulatedCapture, reference_of, take_photograph, write_image
from gelvet.core.simulate.paint import invented_paint
from gelvet.core.simulate.painted_card import paint_card
from gelvet.core.simulate.scanner import device_weights, random_scanner, scan

WANTED_MEDIAN = 1.0
# Fine enough for the camera and for the flatbed, so that both see the same grains.
_PIXELS_PER_MM = 26.0


def apart(seed: int, index: int) -> list[float]:
    """ΔE00 between both devices' colours of each zone of card `index`."""
    rng = np.random.default_rng([seed, 7, index])
    layout = build_card(f"PAIR-{seed}-{index:02d}", "A5", [SwatchLabel(f"Trial paint {i + 1}") for i in range(SWATCHES)])
    paints = {s.id: invented_paint(rng, s.label) for s in layout.swatches}
    card_seed = int(rng.integers(1 << 31))
    scanner, camera = random_scanner(rng, SCANNERS[index % 2]), random_camera(rng, CAMERAS[index // 2 % 2])
    flat, stood = (
        paint_card(layout, paints, weights, seed=card_seed, pixels_per_mm=_PIXELS_PER_MM)
        for weights in (device_weights(scanner.kind), camera_weights(camera.kind))
    )
    scanned = SimulatedCapture(card=flat, image=scan(flat, scanner, card_seed + 1), reference=reference_of(flat), device=scanner)
    taken = take_photograph(stood, camera, card_seed + 2, "tiff-16" if camera.tone == "linear" else "jpeg-92")
    one, other = (_zones(shot) for shot in (scanned, taken))
    both = [name for name, zone in one.items() if zone["lab"] and other[name]["lab"] and not name.endswith(".gradient")]
    return [float(ciede2000(np.array(one[name]["lab"]), np.array(other[name]["lab"]))) for name in both]


def _zones(shot: SimulatedCapture) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"shot.{shot.ending}"
        write_image(shot, path)
        zones: dict[str, Any] = measure_image(path, shot.card.layout, shot.reference).document["zones"]
    return zones


def two_devices_table(cards: int, seed: int) -> str:
    """The table as text."""
    with ProcessPoolExecutor() as pool:
        found = [v for card in pool.map(apart, [seed] * cards, range(cards)) for v in card]
    median, high = float(np.median(found)), float(np.percentile(found, 95))
    mark = "" if median <= WANTED_MEDIAN else "  missed"
    return (
        f"The same card on a flatbed and before a camera (seed {seed}, {cards} cards)\n"
        f"  zone colour ΔE00 apart, {len(found)} zones: median {median:.3f} (wanted {WANTED_MEDIAN}), 95 % {high:.3f}{mark}\n"
    )
