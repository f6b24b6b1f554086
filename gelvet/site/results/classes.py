"""This bench's own limits between classes of hiding and staining."""

from gelvet.core.measure.classes import USUAL, ClassLimits
from gelvet.site.results.models import BenchLimits


def bench_limits() -> ClassLimits:
    """As somebody set them, else the usual ones."""
    row = BenchLimits.objects.order_by("-pk").first()
    return USUAL if row is None else ClassLimits(veil=tuple(row.veil), removed=tuple(row.removed))


def set_limits(limits: ClassLimits) -> ClassLimits:
    """Keeps other limits; nothing is measured again, for classes follow from the figures. Raises ClassLimitsError."""
    limits.checked()
    row = BenchLimits.objects.order_by("-pk").first() or BenchLimits()
    row.veil, row.removed = list(limits.veil), list(limits.removed)
    row.save()
    return limits
