"""What goes over the wire."""

from datetime import datetime
from typing import Any

from ninja import Schema


class PaintOut(Schema):
    id: int
    maker: str
    name: str
    pigments: list[str]
    form: str
    claims: dict[str, str]
    note: str
    paintable: bool
    measured: bool


class PaintIn(Schema):
    maker: str
    name: str
    pigments: list[str] = []
    form: str = "tube"
    claims: dict[str, str] = {}
    note: str = ""


class PigmentOut(Schema):
    code: str
    name: str
    family: str
    hue: str
    character: list[str]
    metal: str | None


class SheetRowOut(Schema):
    line: int
    values: dict[str, str]
    problems: list[str]


class SheetOut(Schema):
    """A spreadsheet as Gelvet understands it, before anything is brought in."""

    fields: list[str]
    columns: list[str]
    mapping: dict[str, str]
    rows: list[SheetRowOut]
    good: bool


class BroughtInOut(Schema):
    paints: int


class PaperOut(Schema):
    id: int
    name: str
    weight_gsm: int | None
    surface: str
    fibre: str


class QuestionOut(Schema):
    id: str
    text: str


class LibraryOut(Schema):
    paints: list[PaintOut]
    pigments: list[PigmentOut]
    papers: list[PaperOut]
    questions: list[QuestionOut]
    sheets: list[str]


class PlanIn(Schema):
    name: str
    question: str
    paper: int | None = None
    sheet: str = "A5"
    note: str = ""
    paints: list[int] = []


class ChangeIn(Schema):
    revision: int
    plan: PlanIn


class GateOut(Schema):
    id: str
    state: str
    advice: str
    value: float | None = None


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
    made: datetime
    measured: bool
    gates: list[GateOut]


class TakenInOut(Schema):
    capture: CaptureOut
    known: bool


class CardOut(Schema):
    card_id: str
    number: int
    session: int
    session_name: str
    has_reference: bool
    paintable: bool
    layout: dict[str, Any]
    paints: dict[str, PaintOut]
    cautions: list[str]
    captures: list[CaptureOut]


class SessionOut(Schema):
    id: int
    name: str
    question: str
    question_text: str
    paper: int | None
    sheet: str
    note: str
    revision: int
    paints: list[int]
    cards: list[CardOut]
    can_undo: str | None
    can_redo: str | None


class ReferenceIn(Schema):
    text: str


class FlatbedIn(Schema):
    kind: str = "white-led"
    dpi: int = 300
    tone: str = "srgb"
    rotation_deg: float = 0.4


class MeasurementOut(Schema):
    capture: CaptureOut
    document: dict[str, Any]
    versions: int
    algorithm: str
    pictures: str
    scale: dict[str, float]
    layout: dict[str, Any]
    paints: dict[str, PaintOut]


class ProbeOut(Schema):
    x_mm: float
    y_mm: float
    lab: list[float]
    lch: list[float]
    hex: str
    in_gamut: bool
    pixels: int


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
    first: float | None
    second: float | None
    difference: float | None
    u: float | None
    real: bool


class PairOut(Schema):
    first: int
    second: int
    distances: list[DistanceOut]
    differences: list[DifferenceOut]
    phrases: list[PhraseOut]


class ComparisonOut(Schema):
    swatches: list[SwatchOut]
    missing: list[PaintOut]
    pairs: list[PairOut]


class ProfileOut(Schema):
    paint: PaintOut
    swatch: SwatchOut | None
    sentences: list[PhraseOut]


class OverviewOut(Schema):
    sessions: list[SessionOut]
    counts: dict[str, int]
