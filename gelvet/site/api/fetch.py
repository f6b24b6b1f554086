"""Rows with everything that showing them needs, in a fixed number of queries; large documents stay in the database."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Max, Min, OuterRef, Prefetch, Q, QuerySet, Subquery
from django.db.models.fields.json import KeyTransform

from gelvet.site.bench.models import Card, Session
from gelvet.site.captures.models import Capture, Shot
from gelvet.site.history.models import Change
from gelvet.site.library.models import ReferenceTarget
from gelvet.site.results.models import Measurement


def captures() -> QuerySet[Capture]:
    """Each with its original, its other shots and, of its measurements, no more than the gates, the notes and how the shots lay."""
    calibration = KeyTransform("calibration", "document")
    measurements = Measurement.objects.defer("document", "inputs").annotate(
        gates=KeyTransform("gates", calibration), warnings=KeyTransform("warnings", calibration),
        rotation_deg=KeyTransform("rotation_deg", calibration), laid=KeyTransform("shots", "document"),
    )  # fmt: skip
    shots = Shot.objects.select_related("original")
    return Capture.objects.select_related("original").prefetch_related(Prefetch("measurements", measurements), Prefetch("shots", shots))


def cards() -> QuerySet[Card]:
    """Those that are not in the bin, each with the name of the library's target whose values it carries."""
    target = ReferenceTarget.objects.filter(text=OuterRef("reference"), binned=None).exclude(text="").values("name")[:1]
    found = Card.objects.filter(binned=None).select_related("session", "exposure").annotate(target_name=Subquery(target))
    return found.prefetch_related(Prefetch("captures", captures()))


def sessions() -> QuerySet[Session]:
    return Session.objects.prefetch_related(Prefetch("cards", cards()))


@dataclass(frozen=True, slots=True)
class Ends:
    """What can be taken back next, and what made again; None for nothing."""

    done: str | None = None
    undone: str | None = None


def change_ends(roots: Sequence[str] | None = None) -> dict[str, Ends]:
    """By what the changes belong to, in two queries however long the history is."""
    rows = Change.objects.filter(undoable=True)
    chosen = (rows if roots is None else rows.filter(root__in=roots)).order_by().values("root")
    ends = chosen.annotate(done=Max("id", filter=Q(undone=False)), undone=Min("id", filter=Q(undone=True)))
    found = {row["root"]: (row["done"], row["undone"]) for row in ends}
    actions = dict(Change.objects.filter(pk__in={pk for pair in found.values() for pk in pair if pk}).values_list("pk", "action"))
    return {root: Ends(actions.get(done), actions.get(undone)) for root, (done, undone) in found.items()}
