"""Sheets without a printed card: taken in, found anew, corrected, shown."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Status

from gelvet.site.api.bench import shown_card
from gelvet.site.api.schemas.bench import CardOut
from gelvet.site.api.schemas.sheets import FoundOut, GivenIn, SheetIn, SheetTakenInOut, ViewIn
from gelvet.site.bench.services import find_card
from gelvet.site.captures import sheets, uploads

router = Router()


@router.post("/uploads/{uuid:key}/sheet", response={201: SheetTakenInOut}, operation_id="finishSheet")
def post_sheet(request: HttpRequest, key: UUID) -> Status[SheetTakenInOut]:
    upload = uploads.find(key)
    with uploads.whole(upload) as chunks:
        card, said = sheets.take_in_sheet(chunks, upload.name)
    return Status(201, SheetTakenInOut(card_id=card.card_id, said=said))


@router.post("/cards/{card_id}/sheet/find", response=FoundOut, operation_id="findSwatches")
def post_find(request: HttpRequest, card_id: str, payload: GivenIn) -> FoundOut:
    found = sheets.find_again(find_card(card_id), payload.given())
    return FoundOut(layout=found.layout, said=found.said)


@router.put("/cards/{card_id}/sheet", response=CardOut, operation_id="correctSheet")
def put_sheet(request: HttpRequest, card_id: str, payload: SheetIn) -> CardOut:
    return shown_card(sheets.correct(find_card(card_id), payload.revision, payload.layout, payload.paints))


@router.get("/cards/{card_id}/sheet.jpg", include_in_schema=False)
def get_sheet(request: HttpRequest, card_id: str, of: Query[ViewIn]) -> HttpResponse:
    return HttpResponse(sheets.sheet_picture(find_card(card_id), of.view), content_type="image/jpeg")
