"""One capture's way through the core: picture, layout and reference in, a measurement out."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from gelvet.core.capture.calibrated_capture import CalibratedCapture, Progress
from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.placing.same_card import refuse_strangers
from gelvet.core.capture.reading import read_picture
from gelvet.core.card.layout import Layout
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.formats.measurement_file import measurement_document
from gelvet.core.measure.card import measure_card


@dataclass(frozen=True, slots=True)
class Measured:
    """The calibrated pixels and the document made from them."""

    capture: CalibratedCapture
    document: dict[str, Any]

    @property
    def failed_gates(self) -> list[str]:
        return [g.advice for g in self.capture.calibration.gates if g.state == "fail"]


def measure_image(
    image: Path,
    layout: Layout,
    reference: ReferenceTarget | None,
    *,
    state: str = "dry",
    other_shots: Sequence[Path] = (),
    progress: Progress = lambda stage, share: None,
) -> Measured:
    """Reads, calibrates and measures one diffuse shot; raises UnreadableInput or NothingMeasurable.

    `other_shots` of the same capture are read and must show the same card.
    """
    progress("reading the image", 0.02)
    picture = read_picture(image)
    if other_shots:
        refuse_strangers([picture, *(read_picture(path) for path in other_shots)], layout)
    capture = calibrate(picture, layout, reference, state=state, progress=progress)
    card = measure_card(capture, state, progress)
    document = measurement_document(capture, card, state)
    if picture.warnings:
        document["calibration"]["warnings"] = list(picture.warnings)
    progress("done", 1.0)
    return Measured(capture, document)
