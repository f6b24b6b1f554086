"""One painted card on a flatbed at 300 and 600 dpi and before a camera: how far the measurements lie apart."""

import tempfile
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
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

WANTED_MEDIAN, WANTED_GRAIN = 1.0, 4.0
# Fine enough for the camera and for the flatbed, so that both see the same grains.
_PIXELS_PER_MM = 26.0


@dataclass(frozen=True, slots=True)
class Apart:
    """`colours`: ΔE00 between the flatbed's and the camera's colour of each zone. `grain`: of each paint that granulates by 1 L* or
    more, how far its index on the three devices spans, in per cent of their middle."""

    colours: list[float]
    grain: list[float]


def apart(seed: int, index: int) -> Apart:
    """Card `index` of the run `seed` on three devices."""
    rng = np.random.default_rng([seed, 7, index])
    layout = build_card(f"PAIR-{seed}-{index:02d}", "A5", [SwatchLabel(f"Trial paint {i + 1}") for i in range(SWATCHES)])
    paints = {s.id: invented_paint(rng, s.label) for s in layout.swatches}
    card_seed = int(rng.integers(1 << 31))
    scanner = random_scanner(rng, SCANNERS[index % 2])
    camera = replace(random_camera(rng, CAMERAS[index // 2 % 2]), pixels_per_mm=20.0)
    flat, stood = (
        paint_card(layout, paints, weights, seed=card_seed, pixels_per_mm=_PIXELS_PER_MM)
        for weights in (device_weights(scanner.kind), camera_weights(camera.kind))
    )
    fine = replace(scanner, dpi=600)
    scans = [
        SimulatedCapture(card=flat, image=scan(flat, device, card_seed + 1), reference=reference_of(flat), device=device)
        for device in (replace(scanner, dpi=300), fine)
    ]
    taken = take_photograph(stood, camera, card_seed + 2, "tiff-16" if camera.tone == "linear" else "jpeg-92")
    documents = [_document(shot) for shot in (*scans, taken)]
    one, other = documents[0]["zones"], documents[-1]["zones"]
    both = [name for name, zone in one.items() if zone["lab"] and other[name]["lab"] and not name.endswith(".gradient")]
    colours = [float(ciede2000(np.array(one[name]["lab"]), np.array(other[name]["lab"]))) for name in both]
    indices = [[document["swatches"][name]["granulation"]["index"] for document in documents] for name in paints]
    grain = [100 * (max(found) - min(found)) / float(np.median(found)) for found in indices if None not in found and min(found) >= 1]
    return Apart(colours, grain)


def _document(shot: SimulatedCapture) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"shot.{shot.ending}"
        write_image(shot, path)
        return measure_image(path, shot.card.layout, shot.reference).document


def same_card_table(cards: int, seed: int) -> str:
    """The table as text."""
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(apart, [seed] * cards, range(cards)))
    rows = (
        ("zone colour, flatbed and camera, ΔE00", [v for card in found for v in card.colours], WANTED_MEDIAN),
        ("granulation index (1 and more), all three, %", [v for card in found for v in card.grain], WANTED_GRAIN),
    )
    lines = [f"The same card at 300 and 600 dpi and before a camera (seed {seed}, {cards} cards): how far apart"]
    for title, values, wanted in rows:
        if not values:
            continue
        median, high = float(np.median(values)), float(np.percentile(values, 95))
        mark = "" if median <= wanted else "  missed"
        lines.append(f"  {title}: {len(values)} values, median {median:.3f} (wanted {wanted}), 95 % {high:.3f}{mark}")
    return "\n".join([*lines, ""])
