"""The simulated flatbed, camera and lamp as devices: they paint the card as its paints' optics say, and make an image
file. Nothing of what they know reaches the measuring but that file and, as an instrument would give it, the target's
reference."""

import hashlib
import tempfile
from dataclasses import asdict, dataclass, fields, replace
from functools import lru_cache
from pathlib import Path
from typing import Any, cast, get_args

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.card.layout import Layout
from gelvet.core.formats.card_layout import layout_from_document
from gelvet.core.formats.cgats import write_reference
from gelvet.core.simulate.camera import Camera, CameraKind, CameraTone, camera_weights
from gelvet.core.simulate.faults import FAULTS, Fault
from gelvet.core.simulate.files import instrument_reading
from gelvet.core.simulate.lamp import Lamp
from gelvet.core.simulate.paint import SimulatedPaint, paint_of_codes
from gelvet.core.simulate.painted_card import PaintedCard, State, paint_card, target_on
from gelvet.core.simulate.scanner import Scanner, ScannerKind, ToneCurve, device_weights
from gelvet.core.simulate.spectra import PIGMENTS
from gelvet.core.simulate.spoiling import spoil_camera, spoil_card, spoil_scanner
from gelvet.site.bench.models import Card
from gelvet.site.captures.models import Original
from gelvet.site.captures.storage import store_original
from gelvet.site.library.models import Paint
from gelvet.site.problems import Problem

_TARGET_SEED = 7
_INSTRUMENT = "simulated instrument"
_PREVIEW_PIXELS_PER_MM = 3.0
# What ordinary devices do to fine detail: rows read a little later, a lens for several colours, a little sharpening.
_ROW_LAG_PX, _FRINGES, _SHARPENING = (0.15, -0.1), (2e-4, -3e-4), (0.4, 1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceSettings:
    """What the device panel sets. `lamp_azimuth_deg` None is even light; `fault` is something that goes wrong on purpose; `beside` lays the
    shot over the newest flat one."""

    device: str = "flatbed"
    kind: str = "white-led"
    dpi: int = 300
    tone: str = "srgb"
    rotation_deg: float = 0.4
    tilt_deg: float = 3.0
    fall_off: float = 0.12
    file_format: str = "jpeg-92"
    lamp_azimuth_deg: float | None = None
    lamp_elevation_deg: float | None = None
    paint_state: str = "dry"
    fault: str | None = None
    beside: bool = False

    def as_json(self) -> dict[str, Any]:
        return asdict(self)

    def checked(self) -> "DeviceSettings":
        """Itself; raises Problem for settings that the devices do not have."""
        flatbed = self.device == "flatbed"
        kinds = get_args(ScannerKind if flatbed else CameraKind)
        tones = get_args(ToneCurve if flatbed else CameraTone)
        for value, known, what in (
            (self.device, ("flatbed", "camera"), "devices"),
            (self.kind, kinds, "lights"),
            (self.tone, tones, "tone curves"),
            (self.fault, (None, *FAULTS), "faults"),
            (self.paint_state, get_args(State), "states of the paint"),
            (self.file_format, ("jpeg-92", "tiff-16", "png-16"), "file formats"),
        ):
            if value not in known:
                raise Problem("unknown-setting", f"The simulated {what} are {', '.join(str(k) for k in known if k)}.")
        if not -360 <= self.rotation_deg <= 360:
            raise Problem("unknown-setting", "A card lies turned by an angle from -360 to 360°.")
        if not 75 <= self.dpi <= 600 or not 0 <= self.tilt_deg <= 40 or not 0 <= self.fall_off <= 0.9:
            raise Problem("unknown-setting", "The simulated devices scan at 75 to 600 dpi, tilt to 40° and lose up to 90 % of the light.")
        if flatbed and self.lamp_azimuth_deg is not None:
            raise Problem("unknown-setting", "A flatbed has no low lamp; take that shot with the camera.")
        return self


def settings_of(stored: dict[str, Any]) -> DeviceSettings:
    """Settings as they were stored with a capture, also by an earlier version."""
    known = {f.name for f in fields(DeviceSettings)}
    return DeviceSettings(**{k: v for k, v in stored.items() if k in known})


def refuse_unpaintable(card: Card) -> None:
    """The stand-in can only paint with pigments whose optics it has; raises Problem."""
    for paint in Paint.objects.filter(pk__in=card.paints.values()):
        codes = (paint.simulation or {}).get("codes") or paint.pigments
        unknown = [c for c in codes if c not in PIGMENTS]
        if unknown or not 1 <= len(codes) <= 2:
            raise Problem(
                "no-optics",
                f"The simulated devices cannot paint {paint.name}: they know paints of one or two of {', '.join(PIGMENTS)}.",
                409,
            )


def take_shot(card: Card, document: dict[str, Any], device: DeviceSettings, shot: str) -> Original:
    """A shot of the card as `document` lays it out; the same card is painted the same each time, each `shot` has its own
    noise and dust."""
    from gelvet.core.simulate.files import PhotoFormat, SimulatedCapture, reference_of, take_photograph, write_image
    from gelvet.core.simulate.scanner import scan

    layout = layout_from_document(document, f"card {card.card_id}")
    shot_seed = _seed(f"{card.card_id}/{shot}")
    if device.device == "flatbed":
        scanner = _scanner(device)
        fine = scanner.dpi / 25.4 * (1.6 if scanner.dpi <= 400 else 1.0)
        painted = spoil_card(
            _painted(card, layout, scanner.kind, fine, _target(device), device.paint_state), cast(Fault | None, device.fault), shot_seed
        )
        result = SimulatedCapture(card=painted, image=scan(painted, scanner, shot_seed), reference=reference_of(painted), device=scanner)
    else:
        camera = _camera(device)
        painted = _painted(card, layout, camera.kind, camera.pixels_per_mm * 1.35, _target(device), device.paint_state)
        painted = spoil_card(painted, cast(Fault | None, device.fault), shot_seed)
        result = take_photograph(painted, camera, shot_seed, cast(PhotoFormat, device.file_format), _lamp(device))
    if not card.reference:
        Card.objects.filter(pk=card.pk).update(reference=write_reference(result.reference, _INSTRUMENT))
        card.refresh_from_db(fields=["reference"])
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"shot.{result.ending}"
        write_image(result, path)
        with path.open("rb") as file:
            name = f"{card.card_id}-{device.device}-{shot}.{result.ending}"
            original, _ = store_original(iter(lambda: file.read(1 << 20), b""), name)
    return original


def bench_target(document: dict[str, Any]) -> str:
    """The file of the target that lies on every card of this bench, for a card as `document` lays it out."""
    layout = layout_from_document(document, "the card")
    return write_reference(instrument_reading(layout, target_on(layout, "many-inks", _TARGET_SEED)), _INSTRUMENT)


def preview(card: Card, device: DeviceSettings) -> Image:
    """What the device sees, small (h, w, 3) uint8: as a person looks through it before the shot."""
    from gelvet.core.simulate.camera import develop, photograph
    from gelvet.core.simulate.scanner import scan
    from gelvet.core.simulate.sensor import eight_bit

    painted = spoil_card(
        _small_card(card.pk, card.revision, device.kind, _target(device), device.paint_state), cast(Fault | None, device.fault), 1
    )
    if device.device == "flatbed":
        scanner = replace(_scanner(device), dpi=round(_PREVIEW_PIXELS_PER_MM * 25.4))
        return np.asarray(scan(painted, scanner, 1) >> 8, dtype=np.uint8)
    sharp = _camera(device)
    share = _PREVIEW_PIXELS_PER_MM / 20.0
    camera = replace(sharp, pixels_per_mm=sharp.pixels_per_mm * share, blur_px=max(sharp.blur_px * share, 0.4), sharpening=(0.0, 1.0))
    return eight_bit(develop(photograph(painted, camera, 1, _lamp(device)), camera))


@lru_cache(maxsize=6)
def _small_card(pk: int, revision: int, kind: str, target: int, state: str) -> PaintedCard:
    """The card painted coarsely; `revision` is what makes a changed card a new one."""
    card = Card.objects.get(pk=pk)
    layout = layout_from_document(card.layout, f"card {card.card_id}")
    return _painted(card, layout, kind, _PREVIEW_PIXELS_PER_MM, target, state)


def _painted(card: Card, layout: Layout, kind: str, pixels_per_mm: float, target: int, state: str) -> PaintedCard:
    stock = {p.pk: p for p in Paint.objects.filter(pk__in=card.paints.values())}
    paints = {swatch: optics_of(stock[pk]) for swatch, pk in card.paints.items() if pk in stock}
    weights = camera_weights(cast(CameraKind, kind)) if kind in get_args(CameraKind) else device_weights(cast(ScannerKind, kind))
    return paint_card(
        layout, paints, weights, seed=_seed(card.card_id), pixels_per_mm=pixels_per_mm, target_seed=target,
        state=cast(State, state),
    )  # fmt: skip


def _target(device: DeviceSettings) -> int:
    """Every card of this bench carries the same reference target, but for the one fault that is just this."""
    return _TARGET_SEED + (device.fault == "wrong-target")


def _scanner(device: DeviceSettings) -> Scanner:
    plain = Scanner(
        kind=cast(ScannerKind, device.kind), dpi=device.dpi, tone=cast(ToneCurve, device.tone), rotation_deg=device.rotation_deg,
        row_lag_px=_ROW_LAG_PX,
    )  # fmt: skip
    return spoil_scanner(plain, cast(Fault | None, device.fault))


def _camera(device: DeviceSettings) -> Camera:
    plain = Camera(
        kind=cast(CameraKind, device.kind), tone=cast(CameraTone, device.tone), tilt_deg=device.tilt_deg, fall_off=device.fall_off,
        rotation_deg=device.rotation_deg, fringes=_FRINGES, sharpening=_SHARPENING if device.tone == "camera" else (0.0, 1.0),
    )  # fmt: skip
    return spoil_camera(plain, cast(Fault | None, device.fault))


def _lamp(device: DeviceSettings) -> Lamp | None:
    if device.lamp_azimuth_deg is None:
        return None
    return Lamp(azimuth_deg=device.lamp_azimuth_deg, elevation_deg=device.lamp_elevation_deg or 20.0)


def _seed(text: str) -> int:
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[:4])


def optics_of(paint: Paint) -> SimulatedPaint:
    spec = paint.simulation or {}
    codes = tuple(spec.get("codes") or paint.pigments)
    return paint_of_codes(
        paint.name,
        codes,
        tuple(spec.get("fractions") or [1 / len(codes)] * len(codes)),
        drift=spec.get("drift", 0.0),
        masstone_amount=spec.get("masstone_amount", 2.6),
        fading=spec.get("fading", 0.0),
        flakes_per_cm2=spec.get("flakes_per_cm2", 0.0),
        parting=spec.get("parting", 0.0),
    )
