"""What captures have shown of each paper: its white, and how far it varies."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db.models.fields.json import KeyTransform

from gelvet.site.bench.models import Card
from gelvet.site.results.models import Measurement


@dataclass(frozen=True, slots=True)
class PaperWhite:
    """Median Lab of the bare paper zones over `captures` captures; `spread` is the largest ΔE*ab of one from it."""

    lab: tuple[float, float, float]
    spread: float
    captures: int


# A capture whose bare paper lies farther than this from the paper's record, ΔE*ab, is asked about.
STRANGE_WHITE = 2.5


def measured_whites(but: Measurement | None = None) -> dict[int, PaperWhite]:
    """By paper, from dry captures at tier `target` of cards that name their paper; `but` leaves one capture out."""
    rows = Measurement.objects.filter(capture__card__paper__isnull=False, capture__card__binned=None, capture__paint_state="dry")
    if but is not None:
        rows = rows.exclude(capture_id=but.capture_id)
    tier = KeyTransform("tier", KeyTransform("calibration", "document"))
    found: dict[int, list[np.ndarray]] = {}
    for paper, zones, trust in rows.annotate(tier=tier, zones=KeyTransform("zones", "document")).values_list(
        "capture__card__paper_id", "zones", "tier"
    ):
        white = _bare(zones)
        if trust == "target" and white is not None:
            found.setdefault(paper, []).append(white)
    return {paper: _white(np.array(labs)) for paper, labs in found.items()}


def _white(labs: np.ndarray) -> PaperWhite:
    middle = np.median(labs, axis=0)
    return PaperWhite((float(middle[0]), float(middle[1]), float(middle[2])), float(np.linalg.norm(labs - middle, axis=1).max()), len(labs))


def _bare(zones: dict[str, Any]) -> np.ndarray | None:
    labs = [z["lab"] for name, z in zones.items() if name.endswith(".paper") and z.get("lab")]
    return np.median(np.array(labs), axis=0) if labs else None


def paper_notes(card: Card, measurement: Measurement) -> list[str]:
    """What the bare paper of a capture says against the paper that the card names."""
    white = _bare(measurement.document["zones"])
    known = measured_whites(but=measurement).get(card.paper_id) if card.paper_id else None
    if white is None or known is None or card.paper is None:
        return []
    away = float(np.linalg.norm(white - np.array(known.lab)))
    if away <= max(STRANGE_WHITE, 1.5 * known.spread):
        return []
    return [
        f"The bare paper lies {away:.1f} ΔE*ab from what {known.captures} other captures show of “{card.paper.name}”: "
        "another paper, its other side, or an old sheet?"
    ]
