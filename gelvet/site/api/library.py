"""Paints, papers and questions."""

from django.http import HttpRequest
from ninja import Router, Status

from gelvet.core.card.builder import SHEETS_MM
from gelvet.core.pigments.pigment_list import pigments
from gelvet.site.api import present
from gelvet.site.api.schemas import LibraryOut, PaintIn, PaintOut, PaperOut, PigmentOut, QuestionOut
from gelvet.site.bench.models import Question
from gelvet.site.library.models import Paint, Paper
from gelvet.site.library.services import add_paint
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
