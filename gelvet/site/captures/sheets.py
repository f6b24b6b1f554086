"""Any old scan or photograph of swatches, without a printed card: taken in, its swatches proposed, and corrected."""

import hashlib
import os
import re
import tempfile
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal

from django.conf import settings

from gelvet.core.capture.reading import read_picture
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout
from gelvet.core.errors import GelvetError, NothingMeasurable
from gelvet.core.formats.card_layout import layout_from_document, layout_to_document
from gelvet.core.loose_sheet.propose import Given, blank_layout, propose_layout
from gelvet.core.loose_sheet.views import straight_view, whole_view
from gelvet.site.bench.models import Card
from gelvet.site.bench.services import change_sheet, declare_card
from gelvet.site.captures.models import Original
from gelvet.site.captures.services import refuse_other_than_picture, run_card_again, take_in_original
from gelvet.site.captures.storage import original_path, store_original
from gelvet.site.problems import Problem
from gelvet.site.results.pictures import as_jpeg

LONGEST_PX = 1600
View = Literal["whole", "straight"]


@dataclass(frozen=True, slots=True)
class Found:
    """A layout to start from, and what to know of it."""

    layout: dict[str, Any]
    said: str


def take_in_sheet(chunks: Iterable[bytes], name: str) -> tuple[Card, str]:
    """Keeps the file, proposes its swatches as a card's zones and queues their measuring; the card, and what was found."""
    original, _ = store_original(chunks, name)
    refuse_other_than_picture(original)
    known = Card.objects.filter(captures__original=original, layout__placement__isnull=False).first()
    if known is not None:
        return known, f"This file is here already, as sheet {known.card_id}."
    found = _find(_read(original), _free_id(original.name), Given())
    card = declare_card(Path(original.name).stem, "one-paint", found.layout).cards.get()
    take_in_original(card, original)
    return card, found.said


def find_again(card: Card, given: Given) -> Found:
    """What is found with the corners and the size as they are given now; nothing is kept."""
    return _find(_read(_original(card)), card.card_id, given)


def correct(card: Card, revision: int, document: dict[str, Any], paints: dict[str, int]) -> Card:
    """Keeps a corrected layout of the sheet, and measures by it. Raises Problem or LayoutError."""
    _original(card)
    if layout_from_document(document, f"Sheet {card.card_id}").placement is None:
        raise Problem("no-corners", f"Sheet {card.card_id} needs its four corners.")
    changed = change_sheet(card.card_id, revision, document, paints)
    run_card_again(changed)
    return changed


def sheet_picture(card: Card, view: View) -> bytes:
    """JPEG of the sheet's image, whole or pulled straight, made once."""
    original = _original(card)
    layout = layout_from_document(card.layout, card.card_id)
    shown = "" if view == "whole" else repr((layout.placement, layout.size_mm))
    path = Path(settings.WORK_DIR) / "sheets" / f"{hashlib.sha256((original.sha256 + shown).encode()).hexdigest()[:32]}.jpg"
    if not path.exists():
        picture = _read(original)
        _write(path, as_jpeg(whole_view(picture, LONGEST_PX) if view == "whole" else straight_view(picture, layout, LONGEST_PX)))
    return path.read_bytes()


def _write(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, temporary = tempfile.mkstemp(dir=path.parent)
    with os.fdopen(handle, "wb") as file:
        file.write(data)
    os.replace(temporary, path)


def _find(picture: Picture, card_id: str, given: Given) -> Found:
    try:
        layout = propose_layout(picture, card_id, given)
    except NothingMeasurable as problem:
        return Found(layout_to_document(blank_layout(picture, card_id, given)), str(problem))
    return Found(layout_to_document(layout), f"{_count(layout)} found; look whether they are what was painted.")


def _count(layout: Layout) -> str:
    return f"{len(layout.swatches)} swatch{'es were' if len(layout.swatches) != 1 else ' was'}"


def _original(card: Card) -> Original:
    if not card.layout.get("placement"):
        raise Problem("printed-card", f"Card {card.card_id} is placed by its own tags; only its zones can be moved.", 409)
    original = Original.objects.filter(captures__card=card).order_by("captures__id").first()
    if original is None:
        raise Problem("no-file", f"Sheet {card.card_id} has no image any more.", 409)
    return original


def _read(original: Original) -> Picture:
    try:
        return _decoded(original.sha256, original.name)
    except GelvetError as problem:
        raise type(problem)(str(problem).replace(str(original_path(original.sha256)), original.name)) from problem


@lru_cache(maxsize=1)
def _decoded(sha256: str, name: str) -> Picture:
    """The sheet that is being corrected is asked for again and again."""
    return replace(read_picture(original_path(sha256)), source=name)


def _free_id(name: str) -> str:
    """A card id after the file's name that no card has yet."""
    stem = re.sub(r"[^\w.-]+", "-", Path(name).stem, flags=re.ASCII).strip("-.")[:32].upper() or "SHEET"
    taken = set(Card.objects.filter(card_id__startswith=stem).values_list("card_id", flat=True))
    return next(i for i in (stem, *(f"{stem}-{n}" for n in range(2, len(taken) + 3))) if i not in taken)
