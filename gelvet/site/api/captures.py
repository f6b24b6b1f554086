"""Captures: files in, whole or in parts, the simulated devices, progress, cancel, run again."""

from uuid import UUID

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import File, Form, Query, Router, Status
from ninja.files import UploadedFile

from gelvet.site.api import fetch, present
from gelvet.site.api.schemas.captures import CaptureOut, DeviceIn, FinishIn, LightIn, TakenInOut, UploadedOut, UploadIn, UploadOut
from gelvet.site.bench.services import find_card
from gelvet.site.captures import inbox, services, uploads
from gelvet.site.captures.devices import preview, refuse_unpaintable
from gelvet.site.captures.models import Capture
from gelvet.site.captures.storage import original_path
from gelvet.site.problems import not_found
from gelvet.site.results.pictures import as_jpeg

router = Router()


def _shown(row: Capture) -> CaptureOut:
    return present.capture(fetch.captures().select_related("card").get(pk=row.pk))


@router.post("/cards/{card_id}/captures", response={201: TakenInOut}, operation_id="addCapture")
def post_capture(request: HttpRequest, card_id: str, file: File[UploadedFile], light: Form[LightIn]) -> Status[TakenInOut]:
    taken = services.take_in_file(find_card(card_id), file.chunks(), file.name or "unnamed", light.checked())
    return Status(201, TakenInOut(capture=_shown(taken.capture), known=taken.known))


@router.post("/cards/{card_id}/device", response={201: CaptureOut}, operation_id="useDevice")
def post_device(request: HttpRequest, card_id: str, payload: DeviceIn) -> Status[CaptureOut]:
    return Status(201, _shown(services.take_with_device(find_card(card_id), payload.settings())))


@router.get("/cards/{card_id}/preview.jpg", include_in_schema=False)
def get_preview(request: HttpRequest, card_id: str, settings: Query[DeviceIn]) -> HttpResponse:
    card = find_card(card_id)
    refuse_unpaintable(card)
    return HttpResponse(as_jpeg(preview(card, settings.settings())), content_type="image/jpeg")


@router.delete("/shots/{int:shot_id}", response=CaptureOut, operation_id="removeShot")
def delete_shot(request: HttpRequest, shot_id: int) -> CaptureOut:
    return _shown(services.remove_shot(shot_id))


@router.post("/uploads", response={201: UploadOut}, operation_id="beginUpload")
def post_upload(request: HttpRequest, payload: UploadIn) -> Status[UploadOut]:
    upload = uploads.begin(payload.name, payload.size)
    return Status(201, UploadOut(key=upload.key, received=0))


@router.get("/uploads/{uuid:key}", response=UploadOut, operation_id="getUpload")
def get_upload(request: HttpRequest, key: UUID) -> UploadOut:
    return UploadOut(key=key, received=uploads.received(uploads.find(key)))


@router.post("/uploads/{uuid:key}/parts", response=UploadOut, operation_id="addUploadPart")
def post_part(request: HttpRequest, key: UUID, file: File[UploadedFile], offset: Form[int]) -> UploadOut:
    return UploadOut(key=key, received=uploads.append(uploads.find(key), offset, file.chunks()))


@router.post("/uploads/{uuid:key}/finish", response={201: UploadedOut}, operation_id="finishUpload")
def post_finish(request: HttpRequest, key: UUID, payload: FinishIn) -> Status[UploadedOut]:
    upload, light = uploads.find(key), payload.light.checked()
    with uploads.whole(upload) as chunks:
        if payload.card_id is None:
            arrivals = inbox.receive(chunks, upload.name, light)
            return Status(201, UploadedOut(taken=None, arrivals=[present.arrival(a) for a in arrivals]))
        taken = services.take_in_file(find_card(payload.card_id), chunks, upload.name, light)
        return Status(201, UploadedOut(taken=TakenInOut(capture=_shown(taken.capture), known=taken.known), arrivals=[]))


@router.get("/captures/{int:capture_id}", response=CaptureOut, operation_id="getCapture")
def get_capture(request: HttpRequest, capture_id: int) -> CaptureOut:
    return _shown(services.find_capture(capture_id))


@router.post("/captures/{int:capture_id}/cancel", response=CaptureOut, operation_id="cancelCapture")
def cancel_capture(request: HttpRequest, capture_id: int) -> CaptureOut:
    return _shown(services.cancel(capture_id))


@router.post("/captures/{int:capture_id}/run-again", response=CaptureOut, operation_id="runCaptureAgain")
def run_again(request: HttpRequest, capture_id: int) -> CaptureOut:
    return _shown(services.run_again(capture_id))


@router.get("/captures/{int:capture_id}/original", include_in_schema=False)
def get_original(request: HttpRequest, capture_id: int) -> FileResponse:
    original = services.find_capture(capture_id).original
    if original is None:
        raise not_found("The original")
    return FileResponse(original_path(original.sha256).open("rb"), as_attachment=True, filename=original.name)
