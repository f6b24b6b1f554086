"""Captures: files in, the simulated flatbed, progress, cancel, run again."""

from django.http import FileResponse, HttpRequest
from ninja import File, Router, Status
from ninja.files import UploadedFile

from gelvet.site.api import fetch, present
from gelvet.site.api.schemas import CaptureOut, FlatbedIn, TakenInOut
from gelvet.site.bench.services import find_card
from gelvet.site.captures import services
from gelvet.site.captures.models import Capture
from gelvet.site.captures.storage import original_path
from gelvet.site.problems import Problem, not_found

router = Router()


def _shown(row: Capture) -> CaptureOut:
    return present.capture(fetch.captures().select_related("card").get(pk=row.pk))


_KINDS = ("white-led", "three-led")
_TONES = ("linear", "srgb", "gamma-1.8", "gamma-2.2")
_DPI = (150, 200, 300, 400, 600)


@router.post("/cards/{card_id}/captures", response={201: TakenInOut}, operation_id="addCapture")
def post_capture(request: HttpRequest, card_id: str, file: File[UploadedFile]) -> Status[TakenInOut]:
    taken = services.take_in_file(find_card(card_id), file.chunks(), file.name or "unnamed")
    return Status(201, TakenInOut(capture=_shown(taken.capture), known=taken.known))


@router.post("/cards/{card_id}/flatbed", response={201: CaptureOut}, operation_id="useFlatbed")
def post_flatbed(request: HttpRequest, card_id: str, payload: FlatbedIn) -> Status[CaptureOut]:
    if payload.kind not in _KINDS or payload.tone not in _TONES or payload.dpi not in _DPI:
        raise Problem("unknown-setting", f"The flatbed has lamps {', '.join(_KINDS)} and scans at {', '.join(map(str, _DPI))} dpi.")
    return Status(201, _shown(services.take_with_flatbed(find_card(card_id), payload.dict())))


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
