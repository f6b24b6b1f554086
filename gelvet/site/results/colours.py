"""The newest measured colours of every paint, kept small so that planning and search need not open measurements."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from django.db.models import F

from gelvet.site.bench.models import Card
from gelvet.site.results.models import Measurement, SwatchColour

_QUANTITIES = ("hue_shift", "value_range", "granulation", "hiding", "lifting")
Lab = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class PaintColours:
    masstone: Lab | None
    wash: Lab | None


def keep_colours(measurement: Measurement) -> None:
    """Keeps the masstone and wash of each swatch of `measurement` beside it."""
    SwatchColour.objects.bulk_create(
        SwatchColour(
            measurement=measurement,
            swatch=swatch,
            masstone=lab_of(figures, "masstone"),
            wash=lab_of(figures, "wash"),
            quantities=sum(not (figures.get(q) or {}).get("absent", "none") for q in _QUANTITIES),
        )
        for swatch, figures in measurement.document["swatches"].items()
    )


def lab_of(figures: dict[str, Any], place: str) -> list[float] | None:
    return (figures.get(place) or {}).get("lab")


def newest_colours(paints: Collection[int] | None = None) -> dict[int, PaintColours]:
    """By paint, of all or of `paints`; of the swatches that tell most of it the newest."""
    return {paint: PaintColours(_tuple(c.masstone), _tuple(c.wash)) for paint, c in fullest(paints).items() if c.masstone or c.wash}


def fullest(paints: Collection[int] | None = None) -> dict[int, SwatchColour]:
    """By paint, the swatch of which most was measured, the newest of equals; only dry captures, nothing from the bin."""
    cards = dict(Card.objects.filter(binned=None).values_list("pk", "paints"))
    if paints is not None:
        cards = {pk: held for pk, held in cards.items() if not set(held.values()).isdisjoint(paints)}
    rows = SwatchColour.objects.filter(measurement__capture__card__in=cards, measurement__capture__paint_state="dry")
    ordered = rows.order_by("-quantities", "-measurement_id").annotate(card=F("measurement__capture__card_id"))
    found: dict[int, SwatchColour] = {}
    for row in ordered:
        paint = cards[row.card].get(row.swatch)
        if paint is not None and (paints is None or paint in paints):
            found.setdefault(paint, row)
    return found


def _tuple(lab: list[float] | None) -> Lab | None:
    return None if lab is None else (lab[0], lab[1], lab[2])
