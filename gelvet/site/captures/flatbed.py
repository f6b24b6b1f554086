"""The simulated flatbed as a device: it paints the card as its paints' optics say, and makes an image file. Nothing
of what it knows reaches the measuring but that file and, as an instrument would give it, the target's reference."""

import hashlib
import tempfile
from pathlib import Path
from typing import Any

from gelvet.core.formats.card_layout import layout_from_document
from gelvet.core.formats.cgats import write_reference
from gelvet.core.simulate.paint import SimulatedPaint, paint_of_codes
from gelvet.core.simulate.scanner import Scanner
from gelvet.core.simulate.spectra import PIGMENTS
from gelvet.site.bench.models import Card
from gelvet.site.captures.models import Original
from gelvet.site.captures.storage import store_original
from gelvet.site.library.models import Paint
from gelvet.site.problems import Problem

_TARGET_SEED = 7  # every printed card of this bench carries the same reference target


def refuse_unpaintable(card: Card) -> None:
    """The stand-in can only paint with pigments whose optics it has; raises Problem."""
    for paint in Paint.objects.filter(pk__in=card.paints.values()):
        codes = (paint.simulation or {}).get("codes") or paint.pigments
        unknown = [c for c in codes if c not in PIGMENTS]
        if unknown or not 1 <= len(codes) <= 2:
            raise Problem(
                "no-optics",
                f"The simulated flatbed cannot paint {paint.name}: it knows paints of one or two of {', '.join(PIGMENTS)}.",
                409,
            )


def scan_card(card: Card, settings: dict[str, Any], shot: int) -> Original:
    """Scans the card; the same card is painted the same each time, each shot has its own noise."""
    from gelvet.core.simulate.files import simulate_scan, write_scan

    layout = layout_from_document(card.layout, f"card {card.card_id}")
    stock = {p.pk: p for p in Paint.objects.filter(pk__in=card.paints.values())}
    paints = {swatch: _optics(stock[pk]) for swatch, pk in card.paints.items()}
    scanner = Scanner(
        kind=settings.get("kind", "white-led"),
        dpi=int(settings.get("dpi", 300)),
        tone=settings.get("tone", "srgb"),
        rotation_deg=float(settings.get("rotation_deg", 0.4)),
    )
    result = simulate_scan(
        layout, paints, scanner, _seed(card.card_id), scan_seed=_seed(f"{card.card_id}/{shot}"), target_seed=_TARGET_SEED
    )
    if not card.reference:
        Card.objects.filter(pk=card.pk).update(reference=write_reference(result.reference, "simulated instrument"))
        card.refresh_from_db(fields=["reference"])
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "scan.tif"
        write_scan(result.image, path, scanner.dpi)
        with path.open("rb") as file:
            original, _ = store_original(iter(lambda: file.read(1 << 20), b""), f"{card.card_id}-flatbed-{shot}.tif")
    return original


def _seed(text: str) -> int:
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[:4])


def _optics(paint: Paint) -> SimulatedPaint:
    spec = paint.simulation or {}
    codes = tuple(spec.get("codes") or paint.pigments)
    return paint_of_codes(
        paint.name,
        codes,
        tuple(spec.get("fractions") or [1 / len(codes)] * len(codes)),
        drift=spec.get("drift", 0.0),
        masstone_amount=spec.get("masstone_amount", 2.6),
    )
