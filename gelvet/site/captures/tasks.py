"""The job that measures a capture, run by worker processes."""

import logging
import threading
import uuid
from dataclasses import replace
from typing import Any

from django.conf import settings
from django.db import close_old_connections, transaction
from django.db.models import F
from django.utils import timezone
from django_tasks import task

from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.errors import GelvetError
from gelvet.site.bench.calendar import hours_in_light
from gelvet.site.bench.models import Exposure
from gelvet.site.captures.models import Capture, CaptureState, Shot
from gelvet.site.captures.storage import original_path
from gelvet.site.problems import Problem

log = logging.getLogger("gelvet.jobs")


class _Superseded(Exception):
    """The job was cancelled or taken up by another worker; what this one has is dropped."""


class _Reporter:
    """Keeps the capture's row informed: stages as they come, a heartbeat in between."""

    def __init__(self, capture_id: int, attempt: uuid.UUID) -> None:
        self._mine = Capture.objects.filter(pk=capture_id, attempt=attempt, state=CaptureState.RUNNING)
        self._lost = threading.Event()
        self._finished = threading.Event()
        self._thread = threading.Thread(target=self._beat, daemon=True)

    def __enter__(self) -> "_Reporter":
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._finished.set()
        self._thread.join(timeout=10)

    def __call__(self, stage: str, share: float) -> None:
        if self._lost.is_set():
            raise _Superseded
        # Swatches report from the measuring threads, which have no business with the database.
        self._stage = (stage, share)

    _stage = ("starting", 0.0)

    def _beat(self) -> None:
        try:
            while not self._finished.wait(0.5):
                stage, share = self._stage
                if not self._mine.update(stage=stage, share=share, heard=timezone.now()):
                    self._lost.set()
                    return
        finally:
            close_old_connections()


@task()
def measure_capture(capture_id: int, attempt: str) -> None:
    """Measures one capture; a job that was cancelled or handed on meanwhile does nothing."""
    mine = uuid.UUID(attempt)
    started = Capture.objects.filter(pk=capture_id, attempt=mine, state=CaptureState.QUEUED).update(
        state=CaptureState.RUNNING, attempts=F("attempts") + 1, heard=timezone.now(), stage="starting"
    )
    if not started:
        return
    try:
        with _Reporter(capture_id, mine) as report:
            _measure(capture_id, mine, report)
    except _Superseded:
        log.info("capture %s: stopped, superseded", capture_id)
    except (GelvetError, Problem) as problem:
        _give_up(capture_id, mine, str(problem))
    except MemoryError:
        _give_up(capture_id, mine, "The image needs more memory than this machine has; scan at a lower resolution.")
    except Exception:
        log.exception("capture %s", capture_id)
        _give_up(capture_id, mine, "Measuring met a fault in Gelvet itself; the file is kept. Please report it with the server's log.")
        raise


def _give_up(capture_id: int, attempt: uuid.UUID, sentence: str) -> None:
    shown = sentence.replace(str(settings.ORIGINALS_DIR), "").strip()
    Capture.objects.filter(pk=capture_id, attempt=attempt).update(state=CaptureState.FAILED, stage="", message=shown)


def _measure(capture_id: int, attempt: uuid.UUID, report: _Reporter) -> None:
    from gelvet.site.captures.services import companions, lay_beside_the_dry_one
    from gelvet.site.results.services import Inputs, derive, store_measurement
    from gelvet.site.results.target_history import earlier_errors

    capture = Capture.objects.select_related("card__exposure", "original").get(pk=capture_id)
    layout = layout_at(capture)
    shots = list(capture.shots.select_related("original"))
    _take_simulated(capture, shots, layout, report)
    if capture.original is None:
        raise Problem("no-flat-shot", "This capture has no flat shot yet; add one in even light.")
    alone = Inputs(
        image=original_path(capture.original.sha256),
        name=capture.original.name,
        layout=layout,
        reference=capture.card.reference,
        paint_state=capture.paint_state,
        other_shots=tuple(_shot_file(shot) for shot in shots),
        earlier=earlier_errors(capture, capture.card.reference),
    )
    beside = tuple(_at_another_moment(c) for c in companions(capture))
    try:
        result = derive(replace(alone, other_shots=(*alone.other_shots, *beside)), report)
    except GelvetError as problem:
        if not beside:
            raise
        # Another moment's shot must not cost the card its own figures; if these fail too, that reason is told.
        result = derive(alone, report)
        names = " and ".join(shot.title for shot in beside)
        result.document["calibration"].setdefault("warnings", []).append(f"Measured without {names}: {problem}")
    report("storing", 0.99)
    with transaction.atomic():
        if not Capture.objects.filter(pk=capture_id, attempt=attempt, state=CaptureState.RUNNING).update(
            state=CaptureState.DONE, share=1.0, stage="", message="", heard=timezone.now()
        ):
            raise _Superseded
        store_measurement(capture, result)
        lay_beside_the_dry_one(capture)


def layout_at(capture: Capture) -> dict[str, Any]:
    """The card's layout as it was at the capture: strips say how many hours of light they had had."""
    layout: dict[str, Any] = capture.card.layout
    exposure = Exposure.objects.filter(card=capture.card).first()
    if exposure is None:
        return layout
    hours = hours_in_light(exposure, timezone.localtime(capture.made).date())
    return {**layout, "zones": [{**z, "hours": hours} if z["kind"] == "exposed" else z for z in layout["zones"]]}


def _take_simulated(capture: Capture, shots: list[Shot], layout: dict[str, Any], report: _Reporter) -> None:
    """The simulated devices' shots are taken here, in the job: a person's scanner takes its time as well."""
    from gelvet.site.captures.devices import settings_of, take_shot

    if capture.original is None and capture.source != "file":
        report("taking the shot", 0.01)
        capture.original = take_shot(capture.card, layout, settings_of(capture.settings), str(capture.pk))
        Capture.objects.filter(pk=capture.pk).update(original=capture.original)
    for shot in shots:
        if shot.original is None:
            report("taking another shot", 0.02)
            shot.original = take_shot(capture.card, layout, settings_of(shot.settings), f"{capture.pk}-shot-{shot.pk}")
            Shot.objects.filter(pk=shot.pk).update(original=shot.original)


def _at_another_moment(capture: Capture) -> ShotFile:
    if capture.original is None:
        raise Problem("no-file", "A capture of this card has no file; take it out.")
    return ShotFile(path=original_path(capture.original.sha256), state=capture.paint_state, name=capture.original.name)


def _shot_file(shot: Shot) -> ShotFile:
    if shot.original is None:
        raise Problem("no-file", "A shot of this capture has no file; remove the shot.")
    return ShotFile(
        path=original_path(shot.original.sha256), light=shot.light, azimuth_deg=shot.azimuth_deg, elevation_deg=shot.elevation_deg,
        name=shot.original.name,
    )  # fmt: skip
