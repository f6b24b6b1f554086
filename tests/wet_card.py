"""One simulated card with every test that water has, scanned wet, before lifting and finished, for all tests of a process."""

import atexit
import shutil
import tempfile
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.pipeline import Measured, measure_image
from gelvet.core.simulate.files import SimulatedCapture, reference_of, write_image
from gelvet.core.simulate.paint import SimulatedPaint, paint_of_codes
from gelvet.core.simulate.painted_card import State, paint_card
from gelvet.core.simulate.scanner import Scanner, device_weights, scan
from gelvet.core.simulate.truth import card_truth

DESIGN = Design(tests=("hiding", "wash-hiding", "lifting", "dilution", "drops", "tilt", "effects", "black-paper"))
_STATES: tuple[State, ...] = ("dry", "wet", "before_lifting")


@dataclass(frozen=True, slots=True)
class WetCard:
    """Images and truths by the state of the paint."""

    layout: Layout
    reference: ReferenceTarget
    images: dict[str, Path]
    truths: dict[str, dict[str, Any]]


@lru_cache(maxsize=1)
def wet_card() -> WetCard:
    """A granulating blue and red that water parts, and a flat streaked green, on a wide card at 300 dpi."""
    layout = build_card("WET-1", "310x100", [SwatchLabel("Parting violet"), SwatchLabel("Streaked green")], DESIGN)
    violet = paint_of_codes("Parting violet", ("PB29", "PR101"), (0.6, 0.4), masstone_amount=2.4, parting=0.3)
    green = SimulatedPaint(
        name="Streaked green", pigments=paint_of_codes("", ("PG7",), (1.0,)).pigments, fractions=(1.0,), masstone_amount=2.0, streaks=0.16,
        backruns=2,
    )  # fmt: skip
    scanner = Scanner(rotation_deg=0.4)
    folder = Path(tempfile.mkdtemp(prefix="gelvet-wet-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    images: dict[str, Path] = {}
    truths: dict[str, dict[str, Any]] = {}
    for number, state in enumerate(_STATES):
        card = paint_card(layout, {"S1": violet, "S2": green}, device_weights(scanner.kind), seed=21, pixels_per_mm=15.0, state=state)
        reference = reference_of(card)
        shot = SimulatedCapture(card=card, image=scan(card, scanner, 22 + number), reference=reference, device=scanner)
        images[state] = folder / f"{state}.tif"
        write_image(shot, images[state])
        truths[state] = card_truth(card)
    return WetCard(layout, reference, images, truths)


@lru_cache(maxsize=1)
def measured() -> Measured:
    """The finished card, with the shots of the other states beside it."""
    card = wet_card()
    others = [ShotFile(path=card.images[state], state=state) for state in _STATES[1:]]
    return measure_image(card.images["dry"], card.layout, card.reference, other_shots=others, with_views=True)
