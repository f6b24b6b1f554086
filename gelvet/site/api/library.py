"""Paints, papers, brushes, targets, and what a plan can choose from."""

import json
from dataclasses import asdict

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile

from gelvet.core.card.blocks import APPLICATIONS, TESTS
from gelvet.core.card.sheets import SHEETS_MM
from gelvet.core.formats.cgats import parse_reference
from gelvet.core.pigments.pigment_list import pigments
from gelvet.core.planning.arrange import ARRANGEMENTS
from gelvet.core.planning.propose import by_colour
from gelvet.core.planning.questions import QUESTIONS
from gelvet.site.api import present
from gelvet.site.api.schemas.bench import HistoryLineOut
from gelvet.site.api.schemas.library import (
    BroughtInOut,
    BrushIn,
    BrushOut,
    ChoiceOut,
    LibraryOut,
    NearPaintOut,
    PaintChangeIn,
    PaintIn,
    PaintOut,
    PaperIn,
    PaperOut,
    PigmentOut,
    QuestionOut,
    SheetOut,
    SheetRowOut,
    TargetIn,
    TargetOut,
    TargetPointOut,
)
from gelvet.site.bench.facts import library_facts
from gelvet.site.bench.models import Session
from gelvet.site.bench.plans import PRACTICES
from gelvet.site.history.services import lines, root_of
from gelvet.site.library import services, spreadsheet
from gelvet.site.library.models import Brush, Paint, Paper, ReferenceTarget
from gelvet.site.library.papers import PaperRecord, paper_records
from gelvet.site.problems import Problem
from gelvet.site.results.services import measured_paints
from gelvet.site.results.target_history import history_of

router = Router()


@router.get("/library", response=LibraryOut, operation_id="getLibrary")
def get_library(request: HttpRequest) -> HttpResponse:
    # Made into JSON here: a second validation of a thousand paints would take longer than all the rest.
    measured, records = measured_paints(), paper_records()
    planned = Session.objects.filter(binned=None, paper__binned=None).exclude(paper=None).order_by("-pk").first()
    found = LibraryOut.model_construct(
        usual_paper=None if planned is None else planned.paper_id,
        paints=[present.paint(p, p.pk in measured) for p in Paint.objects.filter(binned=None).select_related("maker", "range")],
        pigments=[PigmentOut.from_orm(p) for p in pigments().values()],
        papers=[_paper(p, records.get(p.pk)) for p in Paper.objects.filter(binned=None)],
        brushes=[BrushOut.from_orm(b) for b in Brush.objects.filter(binned=None)],
        targets=[_target(t) for t in ReferenceTarget.objects.filter(binned=None)],
        questions=[QuestionOut(**asdict(q)) for q in QUESTIONS.values()],
        sheets=list(SHEETS_MM),
        tests=[ChoiceOut(id=t.id, text=t.title) for t in TESTS.values()],
        applications=[ChoiceOut(id=a.id, text=a.title) for a in APPLICATIONS.values()],
        arrangements=[ChoiceOut(id=name, text=text) for name, text in ARRANGEMENTS.items()],
        practices={name: list(values) for name, values in PRACTICES.items()},
    )
    return HttpResponse(found.model_dump_json(), content_type="application/json")


def _paper(row: Paper, record: PaperRecord | None) -> PaperOut:
    return PaperOut(
        id=row.pk, name=row.name, weight_gsm=row.weight_gsm, surface=row.surface, fibre=row.fibre, note=row.note,
        white=list(record.lab) if record and record.lab else None, spread=record.spread if record and record.lab else None,
        captures=record.captures if record else 0, slope=record.slope if record else None,
    )  # fmt: skip


def _target(row: ReferenceTarget) -> TargetOut:
    patches = len(parse_reference(row.text, row.name).ids)
    return TargetOut(id=row.pk, name=row.name, measured_on=row.measured_on, note=row.note, patches=patches)


@router.post("/paints", response={201: PaintOut}, operation_id="addPaint")
def post_paint(request: HttpRequest, payload: PaintIn) -> Status[PaintOut]:
    return Status(201, present.paint(services.add_paint(**payload.dict())))


@router.get("/paints/near", response=list[NearPaintOut], operation_id="nearPaints")
def get_near(request: HttpRequest, lightness: float, a: float, b: float) -> list[NearPaintOut]:
    """Every paint of known or likely masstone, the nearest to that colour first."""
    return [NearPaintOut(paint=paint, de00=de) for paint, de in by_colour((lightness, a, b), list(library_facts().values()))]


@router.put("/paints/{int:paint_id}", response=PaintOut, operation_id="changePaint")
def put_paint(request: HttpRequest, paint_id: int, payload: PaintChangeIn) -> PaintOut:
    return present.paint(services.change_paint(paint_id, payload.revision, **payload.label.dict()))


@router.post("/paints/{int:paint_id}/bin", response=PaintOut, operation_id="binPaint")
def bin_paint(request: HttpRequest, paint_id: int) -> PaintOut:
    return present.paint(services.bin_paint(paint_id))


@router.post("/paints/{int:paint_id}/restore", response=PaintOut, operation_id="restorePaint")
def restore_paint(request: HttpRequest, paint_id: int) -> PaintOut:
    return present.paint(services.restore_paint(paint_id))


@router.post("/paints/{int:paint_id}/undo", response=PaintOut, operation_id="undoPaint")
def undo_paint(request: HttpRequest, paint_id: int) -> PaintOut:
    return present.paint(services.undo_paint(paint_id))


@router.post("/paints/{int:paint_id}/redo", response=PaintOut, operation_id="redoPaint")
def redo_paint(request: HttpRequest, paint_id: int) -> PaintOut:
    return present.paint(services.redo_paint(paint_id))


@router.get("/paints/{int:paint_id}/history", response=list[HistoryLineOut], operation_id="paintHistory")
def get_paint_history(request: HttpRequest, paint_id: int) -> list[HistoryLineOut]:
    services.find_paint(paint_id)
    return [present.history_line(line) for line in lines(root_of("paint", paint_id))]


@router.post("/papers", response={201: PaperOut}, operation_id="addPaper")
def post_paper(request: HttpRequest, payload: PaperIn) -> Status[PaperOut]:
    return Status(201, _paper(services.add_paper(**payload.dict()), None))


@router.post("/brushes", response={201: BrushOut}, operation_id="addBrush")
def post_brush(request: HttpRequest, payload: BrushIn) -> Status[BrushOut]:
    return Status(201, BrushOut.from_orm(services.add_brush(**payload.dict())))


@router.get("/targets/{int:target_id}/history", response=list[TargetPointOut], operation_id="getTargetHistory")
def get_target_history(request: HttpRequest, target_id: int) -> list[TargetPointOut]:
    return [
        TargetPointOut(
            capture=p.capture.pk, card_id=p.capture.card.card_id, made=p.made, device=p.device, mean_de00=p.mean_de00,
            drift=p.drift["state"] if p.drift else "", advice=p.drift["advice"] if p.drift else "",
        )
        for p in history_of(services.find_target(target_id).text)
    ]  # fmt: skip


@router.post("/targets", response={201: TargetOut}, operation_id="addTarget")
def post_target(request: HttpRequest, payload: TargetIn) -> Status[TargetOut]:
    return Status(201, _target(services.add_target(**payload.dict())))


@router.post("/library/{kind}/{int:row_id}/bin", response=LibraryOut, operation_id="binPart")
def bin_part(request: HttpRequest, kind: str, row_id: int) -> HttpResponse:
    services.put_away(kind, row_id, away=True)
    return get_library(request)


@router.post("/library/{kind}/{int:row_id}/restore", response=LibraryOut, operation_id="restorePart")
def restore_part(request: HttpRequest, kind: str, row_id: int) -> HttpResponse:
    services.put_away(kind, row_id, away=False)
    return get_library(request)


@router.post("/paints/spreadsheet/preview", response=SheetOut, operation_id="previewSpreadsheet")
def preview_spreadsheet(request: HttpRequest, file: File[UploadedFile], mapping: Form[str] = "") -> SheetOut:
    found = spreadsheet.preview(_content(file), _mapping(mapping) if mapping else None)
    rows = [SheetRowOut(line=r.line, values=r.values, problems=list(r.problems)) for r in found.rows]
    return SheetOut(fields=list(spreadsheet.FIELDS), columns=list(found.columns), mapping=found.mapping, rows=rows, good=found.good)


@router.post("/paints/spreadsheet", response={201: BroughtInOut}, operation_id="bringInSpreadsheet")
def bring_in_spreadsheet(request: HttpRequest, file: File[UploadedFile], mapping: Form[str]) -> Status[BroughtInOut]:
    return Status(201, BroughtInOut(paints=spreadsheet.bring_in(_content(file), _mapping(mapping))))


@router.get("/paints.csv", include_in_schema=False)
def download_csv(request: HttpRequest) -> HttpResponse:
    text = spreadsheet.as_csv(Paint.objects.filter(binned=None).select_related("maker", "range"))
    return _download(text.encode("utf-8-sig"), "text/csv; charset=utf-8", "paints.csv")


@router.get("/paints.json", include_in_schema=False)
def download_json(request: HttpRequest) -> HttpResponse:
    kept = set(PaintIn.model_fields)
    paints = [present.paint(p).dict(include=kept) for p in Paint.objects.filter(binned=None).select_related("maker", "range")]
    document = {"format": "gelvet.paints", "version": 1, "paints": paints}
    return _download(json.dumps(document, indent=1, ensure_ascii=False).encode(), "application/json", "paints.json")


def _download(data: bytes, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _content(file: UploadedFile) -> bytes:
    """One byte more than is allowed is enough to see that it is too much."""
    return bytes(file.read(spreadsheet.MAXIMUM_BYTES + 1))


def _mapping(text: str) -> dict[str, str]:
    try:
        found = json.loads(text)
    except ValueError as problem:
        raise Problem("unknown-column", "The choice of columns did not arrive whole; choose them again.", 422) from problem
    if not isinstance(found, dict) or not all(isinstance(v, str) for v in found.values()):
        raise Problem("unknown-column", "The choice of columns did not arrive whole; choose them again.", 422)
    return found
