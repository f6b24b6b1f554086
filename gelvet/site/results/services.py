"""From an original to a stored measurement, and what views ask of it."""

import hashlib
import json
import shutil
import tempfile
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

from django.conf import settings

from gelvet import __version__
from gelvet.core.capture.calibrated_capture import Progress
from gelvet.core.capture.judging.drift import EarlierErrors
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.errors import GelvetError
from gelvet.core.formats.card_layout import layout_from_document
from gelvet.core.formats.cgats import parse_reference
from gelvet.core.measure.classes import ClassLimits, classed
from gelvet.core.pipeline import measure_image
from gelvet.site.bench.models import Card
from gelvet.site.captures.models import Capture
from gelvet.site.library.models import Paint
from gelvet.site.problems import Problem, not_found
from gelvet.site.results.classes import bench_limits
from gelvet.site.results.colours import fullest, keep_colours
from gelvet.site.results.models import Measurement
from gelvet.site.results.pictures import write_pictures, write_views

ALGORITHM = f"gelvet-core {__version__}"


@dataclass(frozen=True, slots=True)
class Derived:
    document: dict[str, Any]
    inputs: dict[str, Any]
    pictures: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Inputs:
    """All that a measurement follows from. `image` is the flat shot, by content; `name` is what people call it."""

    image: Path
    name: str
    layout: dict[str, Any]
    reference: str
    paint_state: str
    other_shots: tuple[ShotFile, ...] = ()
    earlier: EarlierErrors | None = None  # not part of the fingerprint: the pictures do not depend on it

    def fingerprint(self) -> dict[str, Any]:
        return {
            "image": self.image.name,
            "layout": _hash(json.dumps(self.layout, sort_keys=True)),
            "reference": _hash(self.reference),
            "state": self.paint_state,
            **({"shots": [_told(shot) for shot in self.other_shots]} if self.other_shots else {}),
        }


def _told(shot: ShotFile) -> list[str | float | None]:
    """What a measurement depends on of a shot; of a low lamp's as it was told before there were others."""
    other = [] if shot.state == "dry" and shot.light == "rake" else [shot.light if shot.state == "dry" else shot.state]
    return [shot.path.name, shot.azimuth_deg, shot.elevation_deg, *other]


def derive(of: Inputs, progress: Progress) -> Derived:
    """Everything that follows from the inputs alone: the document and the pictures' folder. No database."""
    inputs = of.fingerprint()
    layout = layout_from_document(of.layout, f"The layout of card {of.layout.get('card_id', '')}")
    reference = parse_reference(of.reference, "The card's reference file") if of.reference else None
    try:
        measured = measure_image(
            of.image, layout, reference, state=of.paint_state, other_shots=of.other_shots, earlier=of.earlier,
            progress=lambda stage, share: progress(stage, 0.05 + 0.75 * share), with_views=True,
        )  # fmt: skip
    except GelvetError as problem:
        sentence = str(problem)
        for path, name in ((of.image, of.name), *((s.path, s.title) for s in of.other_shots)):
            sentence = sentence.replace(str(path), name)
        raise type(problem)(sentence) from problem
    progress("drawing the card", 0.82)
    key = _hash(json.dumps([inputs, ALGORITHM], sort_keys=True))[:32]
    folder = Path(settings.DERIVED_DIR) / key
    if not folder.exists():
        folder.parent.mkdir(parents=True, exist_ok=True)
        scratch = Path(tempfile.mkdtemp(dir=folder.parent, prefix=".making-"))
        try:
            write_pictures(measured.capture, scratch)
            write_views(measured.views, scratch)
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
    measurement = Measurement.objects.create(
        capture=capture, document=result.document, inputs=result.inputs, algorithm=ALGORITHM, pictures=result.pictures
    )
    keep_colours(measurement)
    return measurement


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


@dataclass(frozen=True)
class MeasuredSwatch:
    """A paint's swatch on a measured card."""

    paint: Paint
    card: Card
    capture: Capture
    measurement: Measurement
    swatch: str
    limits: ClassLimits

    @cached_property
    def figures(self) -> dict[str, Any]:
        """As measured, with the classes that this bench gives them."""
        return classed(self.measurement.document["swatches"][self.swatch], self.limits)


def measured_paints() -> set[int]:
    """Ids of paints of which a dry swatch was measured."""
    return set(fullest())


def latest_swatches(paint_ids: list[int]) -> dict[int, MeasuredSwatch]:
    """Of each of `paint_ids` the swatch that tells most of it, the newest of equals; those without one are left out."""
    chosen = fullest(paint_ids)
    wanted = Measurement.objects.select_related("capture__card__session", "capture__card__paper").in_bulk(
        {row.measurement_id for row in chosen.values()}
    )
    paints = Paint.objects.select_related("maker", "range").in_bulk(chosen)
    found, limits = {}, bench_limits()
    for paint, row in chosen.items():
        measurement = wanted[row.measurement_id]
        if paint in paints and row.swatch in measurement.document["swatches"]:
            found[paint] = MeasuredSwatch(paints[paint], measurement.capture.card, measurement.capture, measurement, row.swatch, limits)
    return found


def latest_swatch(paint_id: int) -> MeasuredSwatch | None:
    return latest_swatches([paint_id]).get(paint_id)


def all_swatches(paint_id: int) -> list[MeasuredSwatch]:
    """Every measured swatch of a paint, the newest first: of each capture its newest measurement."""
    paint = Paint.objects.select_related("maker", "range").filter(pk=paint_id).first()
    if paint is None:
        raise not_found("The paint")
    cards = {c.pk: c.paints for c in Card.objects.filter(binned=None).only("paints") if paint_id in c.paints.values()}
    found, seen, limits = [], set(), bench_limits()
    rows = Measurement.objects.filter(capture__card_id__in=cards).select_related("capture__card__session", "capture__card__paper")
    for measurement in rows.order_by("-id"):
        capture = measurement.capture
        if capture.pk in seen:
            continue
        seen.add(capture.pk)
        found += [
            MeasuredSwatch(paint, capture.card, capture, measurement, swatch, limits)
            for swatch, pk in cards[capture.card_id].items()
            if pk == paint_id and swatch in measurement.document["swatches"]
        ]
    return found
