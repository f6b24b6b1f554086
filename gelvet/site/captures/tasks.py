"""The job that measures a capture, run by worker processes."""

import logging
import threading
import uuid

from django.conf import settings
from django.db import close_old_connections, transaction
from django.db.models import F
from django.utils import timezone
from django_tasks import task

from gelvet.core.errors import GelvetError
from gelvet.site.captures.models import Capture, CaptureState
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
    from gelvet.site.results.services import derive, store_measurement

    capture = Capture.objects.select_related("card", "original").get(pk=capture_id)
    if capture.original is None:
        from gelvet.site.captures.flatbed import scan_card

        report("scanning", 0.01)
        capture.original = scan_card(capture.card, capture.settings, capture.pk)
        Capture.objects.filter(pk=capture.pk).update(original=capture.original)
    result = derive(
        original_path(capture.original.sha256),
        capture.original.name,
        capture.card.layout,
        capture.card.reference,
        capture.paint_state,
        report,
    )
    report("storing", 0.99)
    with transaction.atomic():
        if not Capture.objects.filter(pk=capture_id, attempt=attempt, state=CaptureState.RUNNING).update(
            state=CaptureState.DONE, share=1.0, stage="", message="", heard=timezone.now()
        ):
            raise _Superseded
        store_measurement(capture, result)
