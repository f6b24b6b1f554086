"""Measurements, profiles, comparisons."""

from datetime import datetime
from typing import Any

from ninja import Schema

from gelvet.site.api.schemas.captures import CaptureOut
from gelvet.site.api.schemas.library import PaintOut


class MeasurementOut(Schema):
    capture: CaptureOut
    document: dict[str, Any]
    versions: int
    algorithm: str
    pictures: str
    scale: dict[str, float]
    layout: dict[str, Any]
    paints: dict[str, PaintOut]
    notes: list[str]


class ProbeOut(Schema):
    x_mm: float
    y_mm: float
    lab: list[float]
    lch: list[float]
    hex: str
    in_gamut: bool
    pixels: int


class ClassLimitsSchema(Schema):
    """Three rising limits each, 0 to 1: of the veil, and of the share lifted."""

    veil: list[float]
    removed: list[float]


class PhraseOut(Schema):
    key: str
    text: str


class CropOut(Schema):
    """A zone as captured, calibrated; its size tells the scale."""

    zone: str
    url: str
    width_mm: float
    height_mm: float


class SwatchOut(Schema):
    """A paint's newest swatch."""

    paint: PaintOut
    card_id: str
    swatch: str
    capture: int
    tier: str
    figures: dict[str, Any]
    crops: dict[str, CropOut]
    views: dict[str, str]
    made: datetime


class DistanceOut(Schema):
    place: str
    de00: float | None
    u: float | None
    real: bool


class DifferenceOut(Schema):
    key: str
    title: str
    unit: str
    chief: bool
    first: float | None
    second: float | None
    difference: float | None
    u: float | None
    times_u: float | None
    real: bool


class ObstacleOut(Schema):
    field: str
    weight: str
    sentence: str


class PairOut(Schema):
    first: int
    second: int
    obstacles: list[ObstacleOut]
    distances: list[DistanceOut]
    differences: list[DifferenceOut]
    phrases: list[PhraseOut]


class ComparisonOut(Schema):
    swatches: list[SwatchOut]
    missing: list[PaintOut]
    pairs: list[PairOut]


class ReplicateOut(Schema):
    """Another swatch of the same paint against the newest; `replicate` where nothing but chance stands between them."""

    card_id: str
    swatch: str
    capture: int
    made: datetime
    masstone_de00: float | None
    wash_de00: float | None
    real: bool
    replicate: bool
    obstacles: list[ObstacleOut]


class ProfileOut(Schema):
    paint: PaintOut
    swatch: SwatchOut | None
    sentences: list[PhraseOut]
    others: list[ReplicateOut]
    can_undo: str | None
    can_redo: str | None
