"""Writes a simulated scan as the files that a person would have: image, layout, reference, capture, and its truth."""

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.card.layout import Layout
from gelvet.core.colour.spectra import reflectance_to_xyz
from gelvet.core.formats.card_layout import layout_to_document
from gelvet.core.formats.cgats import ReferenceTarget, write_reference
from gelvet.core.simulate.camera import Camera, camera_weights, develop, photograph
from gelvet.core.simulate.faults import Fault
from gelvet.core.simulate.lamp import Lamp
from gelvet.core.simulate.paint import SimulatedPaint
from gelvet.core.simulate.painted_card import PaintedCard, State, paint_card
from gelvet.core.simulate.scanner import Scanner, device_weights, scan
from gelvet.core.simulate.sensor import eight_bit, sixteen_bit
from gelvet.core.simulate.spectra import WAVELENGTHS_NM, TargetKind
from gelvet.core.simulate.spoiling import spoil_card
from gelvet.core.simulate.truth import card_truth

PhotoFormat = Literal["tiff-16", "png-16", "jpeg-92"]
_ENDINGS: dict[str, str] = {"tiff-16": "tif", "png-16": "png", "jpeg-92": "jpg"}


@dataclass(frozen=True, slots=True, kw_only=True)
class SimulatedCapture:
    """One shot: `image` is what `write_image` puts into a file of `file_format`."""

    card: PaintedCard
    image: Image
    reference: ReferenceTarget
    device: Scanner | Camera
    file_format: PhotoFormat = "tiff-16"
    light: Lamp | None = None

    @property
    def ending(self) -> str:
        return _ENDINGS[self.file_format]


def simulate_scan(
    layout: Layout,
    paints: dict[str, SimulatedPaint],
    scanner: Scanner,
    seed: int,
    *,
    scan_seed: int | None = None,
    target: TargetKind = "many-inks",
    target_seed: int | None = None,
    fault: Fault | None = None,
    state: State = "dry",
) -> SimulatedCapture:
    """Paints the card and scans it; the same seeds give the same card and the same pixels."""
    fine = scanner.dpi / 25.4 * (1.6 if scanner.dpi <= 400 else 1.0)
    card = paint_card(
        layout, paints, device_weights(scanner.kind), seed=seed, pixels_per_mm=fine, target=target, target_seed=target_seed, state=state
    )
    pixels = scan(spoil_card(card, fault, seed), scanner, seed + 1 if scan_seed is None else scan_seed)
    return SimulatedCapture(card=card, image=pixels, reference=reference_of(card, fault), device=scanner)


def card_for_camera(
    layout: Layout,
    paints: dict[str, SimulatedPaint],
    camera: Camera,
    seed: int,
    *,
    target: TargetKind = "many-inks",
    target_seed: int | None = None,
    fault: Fault | None = None,
    state: State = "dry",
) -> PaintedCard:
    """The painted card as `camera` sees it, fine enough for its pictures."""
    fine = camera.pixels_per_mm * 1.35
    card = paint_card(
        layout, paints, camera_weights(camera.kind), seed=seed, pixels_per_mm=fine, target=target, target_seed=target_seed, state=state
    )
    return spoil_card(card, fault, seed)


def take_photograph(
    card: PaintedCard,
    camera: Camera,
    shot_seed: int,
    file_format: PhotoFormat = "jpeg-92",
    lamp: Lamp | None = None,
    fault: Fault | None = None,
) -> SimulatedCapture:
    """One photograph of a card made by `card_for_camera`; each `shot_seed` has its own noise and dust. A `fault` of the reference's file
    lies in neither card nor camera."""
    code = develop(photograph(card, camera, shot_seed, lamp), camera)
    image = eight_bit(code) if file_format == "jpeg-92" else sixteen_bit(code)
    return SimulatedCapture(card=card, image=image, reference=reference_of(card, fault), device=camera, file_format=file_format, light=lamp)


def reference_of(card: PaintedCard, fault: Fault | None = None) -> ReferenceTarget:
    """The target as an instrument would have measured it: to five decimals, with spectra; or the file of another target."""
    spectra = card.patch_reflectance
    return instrument_reading(card.layout, spectra[::-1] if fault == "wrong-target" else spectra)


def instrument_reading(layout: Layout, reflectance: Floats) -> ReferenceTarget:
    """The values of the layout's patches of `reflectance` (n, wavelengths)."""
    spectra = np.round(reflectance, 5)
    return ReferenceTarget(
        ids=tuple(p.id for p in layout.patches),
        xyz=reflectance_to_xyz(spectra, WAVELENGTHS_NM),
        wavelengths_nm=WAVELENGTHS_NM,
        spectra=spectra,
    )


def write_image(capture: SimulatedCapture, path: Path) -> None:
    """A scan or 16-bit photograph as an untagged TIFF or PNG; a camera's JPEG at quality 92."""
    import cv2

    if capture.file_format == "tiff-16":
        write_scan(capture.image, path, capture.device.dpi if isinstance(capture.device, Scanner) else 72)
    else:
        options = [cv2.IMWRITE_JPEG_QUALITY, 92] if capture.file_format == "jpeg-92" else []
        cv2.imwrite(str(path), capture.image[..., ::-1], options)


def write_scan(image: Image, path: Path, dpi: int) -> None:
    """An untagged TIFF, deflate-compressed as lightly as can be: a sensor's noise is not made smaller by more effort."""
    import tifffile

    tifffile.imwrite(
        path, image, photometric="rgb", compression="zlib", compressionargs={"level": 1}, predictor=True, resolution=(dpi, dpi),
        resolutionunit=2,
    )  # fmt: skip


def write_capture(shots: list[SimulatedCapture], folder: Path, stem: str, *, with_spectra: bool = True) -> Path:
    """Writes the shots of one card into `folder`; returns the capture file's path. The truth is for people and trials only."""
    folder.mkdir(parents=True, exist_ok=True)
    first = shots[0]
    reference = first.reference if with_spectra else ReferenceTarget(ids=first.reference.ids, xyz=first.reference.xyz)
    listed = []
    for shot in shots:
        moment = "" if shot.card.state == "dry" else f"-{shot.card.state.replace('_', '-')}"
        side = "" if shot.light is None else f"-rake-{shot.light.azimuth_deg:03.0f}"
        name = f"{stem}{side}{moment}.{shot.ending}"
        write_image(shot, folder / name)
        low = {} if shot.light is None else {"azimuth_deg": shot.light.azimuth_deg, "elevation_deg": shot.light.elevation_deg}
        listed.append({"file": name, "light": "rake" if shot.light else "diffuse", **low, **({"state": shot.card.state} if moment else {})})
    _write_json(folder / f"{stem}.card.json", layout_to_document(first.card.layout))
    (folder / f"{stem}.reference.txt").write_text(write_reference(reference, "simulated instrument"), "utf-8")
    _write_json(folder / f"{stem}.truth.json", card_truth(first.card))
    path = folder / f"{stem}.capture.json"
    _write_json(path, {
        "format": "gelvet.capture", "version": 1, "layout": f"{stem}.card.json", "reference": f"{stem}.reference.txt",
        "state": "dry", "shots": listed,
    })  # fmt: skip
    return path


def _write_json(path: Path, document: dict[str, object]) -> None:
    path.write_text(json.dumps(document, indent=1, ensure_ascii=False), "utf-8")
