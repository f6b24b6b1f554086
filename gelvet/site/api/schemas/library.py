"""Paints, pigments, papers, brushes, targets, and what a plan can choose from."""

from datetime import date, datetime

from ninja import Schema

from gelvet.site.api.schemas import ALL_THERE


class ChoiceOut(Schema):
    id: str
    text: str


class PaintLabel(Schema):
    maker: str
    name: str
    pigments: list[str] = []
    form: str = "tube"
    range: str = ""
    place: int | None = None
    series: str = ""
    size_ml: str = ""
    price: str = ""
    currency: str = ""
    batch: str = ""
    hazards: str = ""
    claims: dict[str, str] = {}
    sparkles: bool = False
    owned: bool = True
    note: str = ""


class PaintOut(PaintLabel):
    model_config = ALL_THERE
    id: int
    revision: int
    paintable: bool
    measured: bool
    binned: bool


class PaintIn(PaintLabel):
    pass


class PaintChangeIn(Schema):
    revision: int
    label: PaintLabel


class NearPaintOut(Schema):
    paint: int
    de00: float


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


class PaperIn(Schema):
    name: str
    weight_gsm: int | None = None
    surface: str = ""
    fibre: str = ""
    note: str = ""


class PaperOut(PaperIn):
    """`white` is the median Lab of its bare zones over `captures` captures, `spread` how far one lies from it, ΔE*ab; `slope` that of
    its relief, rise over run."""

    model_config = ALL_THERE

    id: int
    white: list[float] | None
    spread: float | None
    captures: int
    slope: float | None


class BrushIn(Schema):
    name: str
    kind: str = ""
    size: str = ""


class BrushOut(BrushIn):
    model_config = ALL_THERE
    id: int


class TargetIn(Schema):
    name: str
    text: str
    measured_on: date | None = None
    note: str = ""


class TargetPointOut(Schema):
    """One capture on a target's control chart."""

    capture: int
    card_id: str
    made: datetime
    device: str
    mean_de00: float
    drift: str  # pass, warn or fail; empty where there was too little to compare with
    advice: str


class TargetOut(Schema):
    id: int
    name: str
    measured_on: date | None
    note: str
    patches: int


class QuestionOut(Schema):
    id: str
    text: str
    beside: str
    answer: str
    start: str
    layout: str
    tests: list[str]
    replicates: int
    arrangement: str
    application: str
    several_papers: bool
    sheet: str


class LibraryOut(Schema):
    """`usual_paper` is the one that was planned with last."""

    usual_paper: int | None
    paints: list[PaintOut]
    pigments: list[PigmentOut]
    papers: list[PaperOut]
    brushes: list[BrushOut]
    targets: list[TargetOut]
    questions: list[QuestionOut]
    sheets: list[str]
    tests: list[ChoiceOut]
    applications: list[ChoiceOut]
    arrangements: list[ChoiceOut]
    practices: dict[str, list[str]]
