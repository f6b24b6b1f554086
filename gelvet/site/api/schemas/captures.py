"""Captures, their shots and gates, uploads, and what a simulated device is set to."""

from datetime import datetime
from uuid import UUID

from ninja import Schema

from gelvet.site.captures.devices import DeviceSettings
from gelvet.site.captures.services import ShotLight


class GateOut(Schema):
    id: str
    state: str
    advice: str
    value: float | None = None
    where_mm: list[tuple[float, float, float, float]] = []


class ShotOut(Schema):
    id: int
    file: str | None
    light: str
    azimuth_deg: float | None
    elevation_deg: float | None


class CaptureOut(Schema):
    id: int
    card_id: str
    source: str
    file: str | None
    sha256: str | None
    state: str
    stage: str
    share: float
    message: str
    paint_state: str
    made: datetime
    measured: bool
    gates: list[GateOut]
    notes: list[str]
    shots: list[ShotOut]


class TakenInOut(Schema):
    capture: CaptureOut
    known: bool


class LightIn(Schema):
    """How a shot was lit: evenly, or by a low lamp from somewhere; `beside` one in even light that is laid over the flat one."""

    state: str = "dry"
    low_lamp: bool = False
    beside: bool = False
    azimuth_deg: float | None = None
    elevation_deg: float | None = None

    def checked(self) -> ShotLight:
        return ShotLight(
            paint_state=self.state, low_lamp=self.low_lamp, beside=self.beside, azimuth_deg=self.azimuth_deg,
            elevation_deg=self.elevation_deg,
        ).checked()  # fmt: skip


class UploadIn(Schema):
    name: str
    size: int


class UploadOut(Schema):
    key: UUID
    received: int


class FinishIn(Schema):
    """Without a card the file goes to the inbox, which sorts it."""

    card_id: str | None = None
    light: LightIn = LightIn()


class ArrivalOut(Schema):
    at: datetime
    name: str
    outcome: str
    card_id: str | None
    capture: int | None


class UploadedOut(Schema):
    taken: TakenInOut | None
    arrivals: list[ArrivalOut]


class DeviceIn(Schema):
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

    def settings(self) -> DeviceSettings:
        return DeviceSettings(**self.dict()).checked()
