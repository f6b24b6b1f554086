"""Paints, papers and questions."""

import json

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile

from gelvet.core.card.builder import SHEETS_MM
from gelvet.core.pigments.pigment_list import pigments
from gelvet.site.api import present
from gelvet.site.api.schemas import BroughtInOut, LibraryOut, PaintIn, PaintOut, PaperOut, PigmentOut, QuestionOut, SheetOut, SheetRowOut
from gelvet.site.bench.models import Question
from gelvet.site.library import spreadsheet
from gelvet.site.library.models import Paint, Paper
from gelvet.site.library.services import add_paint
from gelvet.site.problems import Problem
from gelvet.site.results.services import measured_paints

router = Router()


@router.get("/library", response=LibraryOut, operation_id="getLibrary")
def get_library(request: HttpRequest) -> LibraryOut:
    measured = measured_paints()
    return LibraryOut(
        paints=[present.paint(p, p.pk in measured) for p in Paint.objects.select_related("maker")],
        pigments=[PigmentOut.from_orm(p) for p in pigments().values()],
        papers=[PaperOut(id=p.pk, name=p.name, weight_gsm=p.weight_gsm, surface=p.surface, fibre=p.fibre) for p in Paper.objects.all()],
        questions=[QuestionOut(id=str(q.value), text=str(q.label)) for q in Question],
        sheets=list(SHEETS_MM),
    )


@router.post("/paints", response={201: PaintOut}, operation_id="addPaint")
def post_paint(request: HttpRequest, payload: PaintIn) -> Status[PaintOut]:
    row = add_paint(
        maker=payload.maker, name=payload.name, pigments=payload.pigments, form=payload.form, claims=payload.claims, note=payload.note
    )
    return Status(201, present.paint(row))


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
    text = spreadsheet.as_csv(Paint.objects.select_related("maker"))
    return _download(text.encode("utf-8-sig"), "text/csv; charset=utf-8", "paints.csv")


@router.get("/paints.json", include_in_schema=False)
def download_json(request: HttpRequest) -> HttpResponse:
    rows = [
        {"maker": p.maker.name, "name": p.name, "pigments": p.pigments, "form": p.form, "claims": p.claims, "note": p.note}
        for p in Paint.objects.select_related("maker")
    ]
    document = {"format": "gelvet.paints", "version": 1, "paints": rows}
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
