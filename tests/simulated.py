"""One simulated card for all tests of a process: painted, scanned and written once, as a person's files."""

import atexit
import shutil
import tempfile
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.reading import Picture
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.pipeline import Measured, measure_image
from gelvet.core.simulate.files import SimulatedCapture, simulate_scan, write_capture
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.scanner import Scanner
from gelvet.core.simulate.truth import card_truth

CARD_ID = "TEST-CARD-01"


@dataclass(frozen=True, slots=True)
class Bench:
    """The files of one capture in `folder`, what they were made from, and the truth."""

    folder: Path
    capture_path: Path
    capture: SimulatedCapture
    truth: dict[str, Any]

    @property
    def layout(self) -> Layout:
        return self.capture.card.layout

    @property
    def reference(self) -> ReferenceTarget:
        return self.capture.reference

    @property
    def image(self) -> Path:
        return self.folder / "card.tif"

    @property
    def layout_path(self) -> Path:
        return self.folder / "card.card.json"

    @property
    def reference_path(self) -> Path:
        return self.folder / "card.reference.txt"


@lru_cache(maxsize=1)
def bench() -> Bench:
    """A granulating blue, a clean staining green with a dilution drift, and a grey, on an A5 card at 300 dpi."""
    labels = [SwatchLabel(name) for name in ("Granulating blue", "Staining green", "Soot grey")]
    layout = build_card(CARD_ID, "A5", labels)
    paints = {
        "S1": paint_of_codes("Granulating blue", ("PB29",), (1.0,), masstone_amount=2.6),
        "S2": paint_of_codes("Staining green", ("PG7", "PY150"), (0.4, 0.6), drift=0.15, masstone_amount=2.2),
        "S3": paint_of_codes("Soot grey", ("PBk9",), (1.0,), masstone_amount=1.6),
    }
    capture = simulate_scan(layout, paints, Scanner(rotation_deg=0.7, tone="gamma-2.2"), 11)
    folder = Path(tempfile.mkdtemp(prefix="gelvet-test-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    path = write_capture([capture], folder, "card")
    return Bench(folder, path, capture, card_truth(capture.card))


@lru_cache(maxsize=1)
def measured() -> Measured:
    """That card, measured."""
    made = bench()
    return measure_image(made.image, made.layout, made.reference)


def picture() -> Picture:
    """Its scan."""
    return Picture(pixels=bench().capture.image)


def gates(capture: CalibratedCapture) -> dict[str, str]:
    """State of each gate."""
    return {g.id: g.state for g in capture.calibration.gates}


def write_tiff(path: Path, pixels: "np.ndarray[Any, Any]", **options: Any) -> Path:
    """`pixels` as a TIFF file; returns its path."""
    import tifffile

    tifffile.imwrite(path, pixels, photometric=options.pop("photometric", "rgb"), **options)
    return path
