"""What captures have shown of each paper: its white, how far it varies, and its relief."""

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db.models.fields.json import KeyTransform

from gelvet.site.bench.models import Card
from gelvet.site.results.models import Measurement


@dataclass(frozen=True, slots=True)
class PaperRecord:
    """Median Lab of the bare paper zones over `captures` captures, None without one; `spread` is the largest ΔE*ab of one from it;
    `slope` the median of its relief over those with a low lamp."""

    lab: tuple[float, float, float] | None
    spread: float
    captures: int
    slope: float | None


# A capture whose bare paper lies farther than this from the paper's record, ΔE*ab, is asked about.
STRANGE_WHITE = 2.5
# And one whose relief is so many times steeper or flatter: both faces of one sheet differ by less, sorts of paper by more.
STRANGE_RELIEF = 1.35


def paper_records(but: Measurement | None = None) -> dict[int, PaperRecord]:
    """By paper, from dry captures of cards that name their paper, whites from those at tier `target`; `but` leaves one out."""
    rows = Measurement.objects.filter(capture__card__paper__isnull=False, capture__card__binned=None, capture__paint_state="dry")
    if but is not None:
        rows = rows.exclude(capture_id=but.capture_id)
    parts = {
        "tier": KeyTransform("tier", KeyTransform("calibration", "document")),
        "zones": KeyTransform("zones", "document"),
        "slope": KeyTransform("slope", KeyTransform("relief", KeyTransform("paper", "document"))),
    }
    whites: dict[int, list[np.ndarray]] = defaultdict(list)
    slopes: dict[int, list[float]] = defaultdict(list)
    for paper, tier, zones, slope in rows.annotate(**parts).values_list("capture__card__paper_id", *parts):
        white = _bare(zones)
        if tier == "target" and white is not None:
            whites[paper].append(white)
        if slope is not None:
            slopes[paper].append(float(slope))
    return {paper: _record(np.array(whites[paper]), slopes[paper]) for paper in {*whites, *slopes}}


def _record(labs: np.ndarray, slopes: list[float]) -> PaperRecord:
    slope = float(np.median(slopes)) if slopes else None
    if len(labs) == 0:
        return PaperRecord(None, 0.0, 0, slope)
    middle = np.median(labs, axis=0)
    lab = (float(middle[0]), float(middle[1]), float(middle[2]))
    return PaperRecord(lab, float(np.linalg.norm(labs - middle, axis=1).max()), len(labs), slope)


def _bare(zones: dict[str, Any]) -> np.ndarray | None:
    labs = [z["lab"] for name, z in zones.items() if name.endswith(".paper") and z.get("lab")]
    return np.median(np.array(labs), axis=0) if labs else None


def paper_notes(card: Card, measurement: Measurement) -> list[str]:
    """What the bare paper of a capture says against the paper that the card names."""
    known = paper_records(but=measurement).get(card.paper_id) if card.paper_id else None
    if known is None or card.paper is None:
        return []
    said = (_white_note(measurement, known, card.paper.name), _relief_note(measurement, known, card.paper.name))
    return [note for note in said if note]


def _white_note(measurement: Measurement, known: PaperRecord, name: str) -> str | None:
    white = _bare(measurement.document["zones"])
    if white is None or known.lab is None:
        return None
    away = float(np.linalg.norm(white - np.array(known.lab)))
    if away <= max(STRANGE_WHITE, 1.5 * known.spread):
        return None
    return (
        f"The bare paper lies {away:.1f} ΔE*ab from what {known.captures} other captures show of “{name}”: "
        "another paper, its other side, or an old sheet?"
    )


def _relief_note(measurement: Measurement, known: PaperRecord, name: str) -> str | None:
    slope = measurement.document.get("paper", {}).get("relief", {}).get("slope")
    if not slope or not known.slope or 1 / STRANGE_RELIEF < slope / known.slope < STRANGE_RELIEF:
        return None
    return (
        f"The bare paper is {slope / known.slope:.1f} times as steep as what other captures show of “{name}”: another paper, its other "
        "side, or a lamp that stood higher or lower than was said?"
    )
