"""Rows with everything that showing them needs, in a fixed number of queries; large documents stay in the database."""

from django.db.models import Prefetch, QuerySet
from django.db.models.fields.json import KeyTransform

from gelvet.site.bench.models import Card, Session, SessionChange, SessionPaint
from gelvet.site.captures.models import Capture
from gelvet.site.results.models import Measurement


def captures() -> QuerySet[Capture]:
    """Each with its original and, of its measurements, no more than the gates."""
    gates = KeyTransform("gates", KeyTransform("calibration", "document"))
    measurements = Measurement.objects.defer("document", "inputs").annotate(gates=gates)
    return Capture.objects.select_related("original").prefetch_related(Prefetch("measurements", measurements))


def cards() -> QuerySet[Card]:
    return Card.objects.select_related("session").prefetch_related(Prefetch("captures", captures()))


def sessions() -> QuerySet[Session]:
    return Session.objects.prefetch_related(
        Prefetch("cards", cards()),
        Prefetch("places", SessionPaint.objects.only("session_id", "paint_id")),
        Prefetch("changes", SessionChange.objects.defer("before", "after")),
    )
