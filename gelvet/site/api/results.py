"""Measurements, pictures, the probe, profiles and comparisons."""

import json
from itertools import combinations
from pathlib import Path

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Router

from gelvet.core.colour.spaces import hex_colour, lab_to_lch, xyz_to_lab
from gelvet.core.compare.distance import compare_swatches
from gelvet.core.compare.masstone_record import masstone_record, record_phrase
from gelvet.core.compare.profile_words import profile_phrases
from gelvet.core.measure.classes import ClassLimits
from gelvet.site.api import fetch, present
from gelvet.site.api.schemas.results import ClassLimitsSchema, ComparisonOut, MeasurementOut, PhraseOut, ProbeOut, ProfileOut
from gelvet.site.captures.services import find_capture
from gelvet.site.history.services import first_undone, last_done, root_of
from gelvet.site.library.models import Paint
from gelvet.site.library.papers import paper_notes
from gelvet.site.problems import Problem, not_found
from gelvet.site.results.classes import bench_limits, set_limits
from gelvet.site.results.pictures import crop_path, probe, view_path
from gelvet.site.results.services import all_swatches, latest, latest_swatch, latest_swatches, pictures_folder

router = Router()
MAXIMUM_COMPARED = 6


@router.get("/captures/{int:capture_id}/measurement", response=MeasurementOut, operation_id="getMeasurement")
def get_measurement(request: HttpRequest, capture_id: int) -> MeasurementOut:
    capture = find_capture(capture_id)
    measurement = latest(capture)
    folder = pictures_folder(measurement)
    card = present.card(fetch.cards().get(pk=capture.card_id))
    return MeasurementOut(
        capture=next(c for c in card.captures if c.id == capture_id),
        document=measurement.document,
        versions=capture.measurements.count(),
        algorithm=measurement.algorithm,
        pictures=measurement.pictures,
        scale=json.loads((folder / "scale.json").read_text()),
        layout=capture.card.layout,
        paints=card.paints,
        notes=[*measurement.document["calibration"].get("warnings", []), *paper_notes(capture.card, measurement)],
    )


@router.get("/captures/{int:capture_id}/measure.json", include_in_schema=False)
def download_measurement(request: HttpRequest, capture_id: int) -> HttpResponse:
    capture = find_capture(capture_id)
    response = HttpResponse(json.dumps(latest(capture).document, indent=1, ensure_ascii=False), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{capture.card.card_id}.measure.json"'
    return response


@router.get("/captures/{int:capture_id}/tiles/{int:level}/{int:column}/{int:row}", include_in_schema=False)
def get_tile(request: HttpRequest, capture_id: int, level: int, column: int, row: int) -> FileResponse:
    return _picture(pictures_folder(latest(find_capture(capture_id))) / "tiles" / str(level) / f"{column}_{row}.jpg")


@router.get("/captures/{int:capture_id}/crops/{zone_id}", include_in_schema=False)
def get_crop(request: HttpRequest, capture_id: int, zone_id: str) -> FileResponse:
    return _picture(crop_path(pictures_folder(latest(find_capture(capture_id))), zone_id))


@router.get("/captures/{int:capture_id}/views/{swatch}/{name}", include_in_schema=False)
def get_view(request: HttpRequest, capture_id: int, swatch: str, name: str) -> FileResponse:
    return _picture(view_path(pictures_folder(latest(find_capture(capture_id))), swatch, name), "image/png")


@router.get("/captures/{int:capture_id}/card.jpg", include_in_schema=False)
def get_card_picture(request: HttpRequest, capture_id: int) -> FileResponse:
    return _picture(pictures_folder(latest(find_capture(capture_id))) / "card.jpg")


def _picture(path: Path, kind: str = "image/jpeg") -> FileResponse:
    if not path.is_file():
        raise not_found("That picture")
    response = FileResponse(path.open("rb"), content_type=kind)
    response["Cache-Control"] = "private, max-age=60"
    return response


@router.get("/captures/{int:capture_id}/probe", response=ProbeOut, operation_id="probe")
def get_probe(request: HttpRequest, capture_id: int, x_mm: float, y_mm: float) -> ProbeOut:
    found = probe(pictures_folder(latest(find_capture(capture_id))), x_mm, y_mm)
    if found is None:
        raise Problem("nothing-there", "Nothing was measured there: it lies off the card, or is clipped.", 404)
    xyz, pixels = found
    lab = xyz_to_lab(xyz)
    code, inside = hex_colour(xyz)
    return ProbeOut(x_mm=x_mm, y_mm=y_mm, lab=lab.tolist(), lch=lab_to_lch(lab).tolist(), hex=code, in_gamut=inside, pixels=pixels)


@router.get("/paints/{int:paint_id}/profile", response=ProfileOut, operation_id="getProfile")
def get_profile(request: HttpRequest, paint_id: int) -> ProfileOut:
    paint = Paint.objects.select_related("maker", "range").filter(pk=paint_id).first()
    if paint is None:
        raise not_found("The paint")
    found = latest_swatch(paint_id)
    root = root_of("paint", paint_id)
    done, undone = last_done(root), first_undone(root)
    can = {"can_undo": done.action if done else None, "can_redo": undone.action if undone else None}
    if found is None:
        return ProfileOut(paint=present.paint(paint), swatch=None, sentences=[], others=[], **can)
    others = [m for m in all_swatches(paint_id) if (m.capture.pk, m.swatch) != (found.capture.pk, found.swatch)]
    record = masstone_record(
        found.figures["masstone"]["depth"],
        [(m.figures["masstone"]["depth"], f"card {m.card.card_id}") for m in others if m.capture.paint_state == "dry"],
    )
    said = [*profile_phrases(found.figures), *([record_phrase(record)] if record else [])]
    sentences = [PhraseOut(key=p.key, text=p.text) for p in said]
    return ProfileOut(
        paint=present.paint(paint, measured=True),
        swatch=present.swatch(found),
        sentences=sentences,
        others=[present.replicate(found, m, compare_swatches(found.figures, m.figures)) for m in others],
        **can,
    )


@router.get("/paints/{int:paint_id}/strip", include_in_schema=False)
def get_paint_strip(request: HttpRequest, paint_id: int) -> FileResponse:
    """The drawn-out gradient of the paint's newest swatch."""
    found = latest_swatch(paint_id)
    crops = {} if found is None else present.swatch(found).crops
    chosen = crops.get("gradient") or crops.get("wash") or crops.get("masstone")
    if found is None or chosen is None:
        raise not_found("A picture of this paint")
    return _picture(crop_path(pictures_folder(found.measurement), chosen.zone))


@router.get("/class-limits", response=ClassLimitsSchema, operation_id="getClassLimits")
def get_class_limits(request: HttpRequest) -> ClassLimitsSchema:
    limits = bench_limits()
    return ClassLimitsSchema(veil=list(limits.veil), removed=list(limits.removed))


@router.put("/class-limits", response=ClassLimitsSchema, operation_id="setClassLimits")
def put_class_limits(request: HttpRequest, payload: ClassLimitsSchema) -> ClassLimitsSchema:
    limits = set_limits(ClassLimits(veil=tuple(payload.veil), removed=tuple(payload.removed)))
    return ClassLimitsSchema(veil=list(limits.veil), removed=list(limits.removed))


@router.get("/compare", response=ComparisonOut, operation_id="compare")
def get_comparison(request: HttpRequest, paints: str = "") -> ComparisonOut:
    try:
        wanted = list(dict.fromkeys(int(p) for p in paints.split(",") if p))
    except ValueError as problem:
        raise Problem("unknown-paint", "The address names a paint that is not a number; choose the paints again.") from problem
    if len(wanted) > MAXIMUM_COMPARED:
        raise Problem("too-many", f"At most {MAXIMUM_COMPARED} paints lie side by side; take one away first.")
    found = latest_swatches(wanted)
    chosen = [found[p] for p in wanted if p in found]
    return ComparisonOut(
        swatches=[present.swatch(m) for m in chosen],
        missing=[
            present.paint(p) for p in Paint.objects.select_related("maker", "range").filter(pk__in=[w for w in wanted if w not in found])
        ],
        pairs=[present.pair(a, b, compare_swatches(a.figures, b.figures)) for a, b in combinations(chosen, 2)],
    )
