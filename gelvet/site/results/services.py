"""From an original to a stored measurement, and what views ask of it."""

import hashlib
import json
import shutil
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings

from gelvet import __version__
from gelvet.core.capture.calibrated_capture import Progress
from gelvet.core.errors import GelvetError
from gelvet.core.formats.card_layout import layout_from_document
from gelvet.core.formats.cgats import parse_reference
from gelvet.core.pipeline import measure_image
from gelvet.site.bench.models import Card
from gelvet.site.captures.models import Capture
from gelvet.site.library.models import Paint
from gelvet.site.problems import Problem, not_found
from gelvet.site.results.models import Measurement
from gelvet.site.results.pictures import write_pictures

ALGORITHM = f"gelvet-core {__version__}"


@dataclass(frozen=True, slots=True)
class Derived:
    document: dict[str, Any]
    inputs: dict[str, str]
    pictures: str


def derive(original: Path, name: str, layout_document: dict[str, Any], reference_text: str, state: str, progress: Progress) -> Derived:
    """Everything that follows from the inputs alone: the document and the pictures' folder. No database."""
    inputs = {
        "image": original.name,
        "layout": _hash(json.dumps(layout_document, sort_keys=True)),
        "reference": _hash(reference_text),
        "state": state,
    }
    layout = layout_from_document(layout_document, f"The layout of card {layout_document.get('card_id', '')}")
    reference = parse_reference(reference_text, "The card's reference file") if reference_text else None
    try:
        measured = measure_image(
            original, layout, reference, state=state, progress=lambda stage, share: progress(stage, 0.05 + 0.75 * share)
        )
    except GelvetError as problem:
        raise type(problem)(str(problem).replace(str(original), name)) from problem
    progress("drawing the card", 0.82)
    key = _hash(json.dumps([inputs, ALGORITHM], sort_keys=True))[:32]
    folder = Path(settings.DERIVED_DIR) / key
    if not folder.exists():
        folder.parent.mkdir(parents=True, exist_ok=True)
        scratch = Path(tempfile.mkdtemp(dir=folder.parent, prefix=".making-"))
        try:
            write_pictures(measured.capture, scratch)
            scratch.chmod(0o755)
            scratch.rename(folder)
        finally:
            if scratch.exists():
                shutil.rmtree(scratch)
    return Derived(measured.document, inputs, key)


def _hash(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()


def store_measurement(capture: Capture, result: Derived) -> Measurement:
    """A new version beside earlier ones."""
    return Measurement.objects.create(
        capture=capture, document=result.document, inputs=result.inputs, algorithm=ALGORITHM, pictures=result.pictures
    )


def latest(capture: Capture) -> Measurement:
    found = capture.measurements.first()
    if found is None:
        raise not_found("A measurement of this capture")
    return found


def pictures_folder(measurement: Measurement) -> Path:
    folder = Path(settings.DERIVED_DIR) / measurement.pictures
    if not folder.exists():
        raise Problem("no-pictures", "The pictures of this capture are gone; run it again to make them anew.", 404)
    return folder


@dataclass(frozen=True, slots=True)
class MeasuredSwatch:
    """A paint's swatch on a measured card."""

    paint: Paint
    card: Card
    capture: Capture
    measurement: Measurement
    swatch: str

    @property
    def figures(self) -> dict[str, Any]:
        figures: dict[str, Any] = self.measurement.document["swatches"][self.swatch]
        return figures


def measured_paints() -> set[int]:
    """Ids of paints that lie on a measured card."""
    cards = Card.objects.filter(captures__measurements__isnull=False).distinct().only("paints")
    return {paint for card in cards for paint in card.paints.values()}


def latest_swatches(paint_ids: list[int]) -> dict[int, MeasuredSwatch]:
    """The newest measured swatch of each of `paint_ids`; those without one are left out."""
    newest: dict[int, tuple[int, str]] = {}
    for row in Measurement.objects.order_by("-id").values("pk", "capture__card__paints"):
        for swatch, paint in row["capture__card__paints"].items():
            if paint in paint_ids:
                newest.setdefault(paint, (row["pk"], swatch))
    wanted = Measurement.objects.select_related("capture__card__session").in_bulk({pk for pk, _ in newest.values()})
    paints = Paint.objects.select_related("maker").in_bulk(newest)
    return {
        paint: MeasuredSwatch(paints[paint], wanted[pk].capture.card, wanted[pk].capture, wanted[pk], swatch)
        for paint, (pk, swatch) in newest.items()
        if paint in paints and swatch in wanted[pk].document["swatches"]
    }


def latest_swatch(paint_id: int) -> MeasuredSwatch | None:
    return latest_swatches([paint_id]).get(paint_id)
