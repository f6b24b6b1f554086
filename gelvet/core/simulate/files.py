"""Writes a simulated scan as the files that a person would have: image, layout, reference, capture, and its truth."""

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.card.layout import Layout
from gelvet.core.colour.spectra import reflectance_to_xyz
from gelvet.core.formats.card_layout import layout_to_document
from gelvet.core.formats.cgats import ReferenceTarget, write_reference
from gelvet.core.simulate.paint import SimulatedPaint
from gelvet.core.simulate.painted_card import PaintedCard, paint_card
from gelvet.core.simulate.scanner import Scanner, device_weights, scan
from gelvet.core.simulate.spectra import WAVELENGTHS_NM
from gelvet.core.simulate.truth import card_truth


@dataclass(frozen=True, slots=True, kw_only=True)
class SimulatedCapture:
    card: PaintedCard
    image: Image
    reference: ReferenceTarget
    scanner: Scanner


def simulate_scan(
    layout: Layout,
    paints: dict[str, SimulatedPaint],
    scanner: Scanner,
    seed: int,
    *,
    scan_seed: int | None = None,
    target_seed: int | None = None,
) -> SimulatedCapture:
    """Paints the card and scans it; the same seeds give the same card and the same pixels."""
    fine = scanner.dpi / 25.4 * (1.6 if scanner.dpi <= 400 else 1.0)
    card = paint_card(layout, paints, device_weights(scanner.kind), seed=seed, pixels_per_mm=fine, target_seed=target_seed)
    pixels = scan(card, scanner, seed + 1 if scan_seed is None else scan_seed)
    return SimulatedCapture(card=card, image=pixels, reference=reference_of(card), scanner=scanner)


def reference_of(card: PaintedCard) -> ReferenceTarget:
    """The target as an instrument would have measured it: to four decimals, with spectra."""
    spectra = np.round(card.patch_reflectance, 5)
    return ReferenceTarget(
        ids=tuple(p.id for p in card.layout.patches),
        xyz=reflectance_to_xyz(spectra, WAVELENGTHS_NM),
        wavelengths_nm=WAVELENGTHS_NM,
        spectra=spectra,
    )


def write_scan(image: Image, path: Path, dpi: int) -> None:
    """An untagged, deflate-compressed TIFF."""
    import tifffile

    tifffile.imwrite(path, image, photometric="rgb", compression="zlib", predictor=True, resolution=(dpi, dpi), resolutionunit=2)


def write_capture(capture: SimulatedCapture, folder: Path, stem: str, *, with_spectra: bool = True) -> Path:
    """Writes everything into `folder`; returns the capture file's path. The truth is for people and trials only."""
    folder.mkdir(parents=True, exist_ok=True)
    reference = capture.reference if with_spectra else ReferenceTarget(ids=capture.reference.ids, xyz=capture.reference.xyz)
    write_scan(capture.image, folder / f"{stem}.tif", capture.scanner.dpi)
    _write_json(folder / f"{stem}.card.json", layout_to_document(capture.card.layout))
    (folder / f"{stem}.reference.txt").write_text(write_reference(reference, "simulated instrument"), "utf-8")
    _write_json(folder / f"{stem}.truth.json", card_truth(capture.card))
    path = folder / f"{stem}.capture.json"
    _write_json(path, {
        "format": "gelvet.capture", "version": 1, "layout": f"{stem}.card.json", "reference": f"{stem}.reference.txt",
        "state": "dry", "shots": [{"file": f"{stem}.tif", "light": "diffuse"}],
    })  # fmt: skip
    return path


def _write_json(path: Path, document: dict[str, object]) -> None:
    path.write_text(json.dumps(document, indent=1, ensure_ascii=False), "utf-8")
