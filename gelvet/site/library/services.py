"""Changes to the library; each is kept with what was there before."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Any, TypeVar

from django.db import IntegrityError, transaction
from django.utils import timezone

from gelvet.core.formats.cgats import parse_reference
from gelvet.core.pigments.pigment_list import tidy, well_formed
from gelvet.site.history import services as history
from gelvet.site.history.services import recording, root_of
from gelvet.site.library.models import Brush, Maker, Paint, PaintForm, PaintRange, Paper, ReferenceTarget
from gelvet.site.problems import Problem, not_found

CLAIMS = ("transparency", "staining", "granulation", "lightfastness")


@dataclass(frozen=True, slots=True, kw_only=True)
class PaintLabel:
    """All that is known of a paint before it is painted. Prices and sizes as people write them, comma or point."""

    maker: str
    name: str
    pigments: list[str] = field(default_factory=list)
    form: str = "tube"
    range: str = ""
    place: int | None = None
    series: str = ""
    size_ml: str = ""
    price: str = ""
    currency: str = ""
    batch: str = ""
    hazards: str = ""
    claims: dict[str, str] = field(default_factory=dict)
    sparkles: bool = False
    owned: bool = True
    note: str = ""


def add_paint(**values: Any) -> Paint:
    """A new paint; its maker and range are made where new. Raises Problem."""
    label = PaintLabel(**values)
    paint = Paint()
    with recording(lambda: root_of("paint", paint.pk), "added"):
        _write(paint, label)
    return paint


def change_paint(paint_id: int, revision: int, **values: Any) -> Paint:
    """Raises Problem 409 where somebody else changed the paint since `revision`."""
    label = PaintLabel(**values)
    with transaction.atomic():
        paint = find_paint(paint_id)
        if paint.revision != revision:
            sentence = f"{paint.name} was changed in another window meanwhile; look at that version. Yours is still in this window."
            raise Problem("changed-elsewhere", sentence, 409)
        with recording(root_of("paint", paint.pk), "label changed", of=[paint]):
            paint.revision += 1
            _write(paint, label)
    return paint


def bin_paint(paint_id: int) -> Paint:
    """Puts a paint away; sessions that used it keep it."""
    return _put_away(paint_id, "put into the bin", True)


def restore_paint(paint_id: int) -> Paint:
    return _put_away(paint_id, "taken out of the bin", False)


def undo_paint(paint_id: int) -> Paint:
    find_paint(paint_id)
    history.undo(root_of("paint", paint_id))
    return find_paint(paint_id)


def redo_paint(paint_id: int) -> Paint:
    find_paint(paint_id)
    history.redo(root_of("paint", paint_id))
    return find_paint(paint_id)


def find_paint(paint_id: int) -> Paint:
    paint = Paint.objects.select_related("maker", "range").filter(pk=paint_id).first()
    if paint is None:
        raise not_found("The paint")
    return paint


def add_paper(name: str, weight_gsm: int | None, surface: str, fibre: str, note: str = "") -> Paper:
    if not name.strip():
        raise Problem("incomplete", "Give the paper a name of your own, such as “station block”.")
    return _add(Paper(name=name.strip(), weight_gsm=weight_gsm, surface=surface.strip(), fibre=fibre.strip(), note=note.strip()), "paper")


def add_brush(name: str, kind: str, size: str) -> Brush:
    if not name.strip():
        raise Problem("incomplete", "Give the brush a name, such as “big wash brush”.")
    return _add(Brush(name=name.strip(), kind=kind.strip(), size=size.strip()), "brush")


def add_target(name: str, text: str, measured_on: date | None, note: str = "") -> ReferenceTarget:
    """Raises Problem, or ReferenceTargetError for a text that is no usable CGATS file."""
    if not name.strip():
        raise Problem("incomplete", "Give the target a name that is written on it, too.")
    parse_reference(text, "The target's file")
    return _add(ReferenceTarget(name=name.strip(), text=text, measured_on=measured_on, note=note.strip()), "target")


def find_target(target_id: int) -> ReferenceTarget:
    target = ReferenceTarget.objects.filter(pk=target_id, binned=None).first()
    if target is None:
        raise not_found("The reference target")
    return target


R = TypeVar("R", Paper, Brush, ReferenceTarget)


def _add(row: R, kind: str) -> R:
    try:
        with recording(lambda: root_of(kind, row.pk), "added"):
            row.save()
    except IntegrityError as problem:
        raise Problem("duplicate", f"There is a {kind} named {row.name} already; give this one another name.", 409) from problem
    return row


# What the library holds beside paints, by the word that addresses use.
KINDS: dict[str, type[Paper] | type[Brush] | type[ReferenceTarget]] = {"papers": Paper, "brushes": Brush, "targets": ReferenceTarget}


def put_away(kind: str, row_id: int, *, away: bool) -> None:
    """Puts a paper, brush or target into the bin, or takes it out; sessions that used it keep it."""
    model = KINDS.get(kind)
    row = model._default_manager.filter(pk=row_id).first() if model is not None else None
    if row is None:
        raise not_found("That part of the library")
    with recording(root_of(kind, row_id), "put into the bin" if away else "taken out of the bin", of=[row]):
        row.binned = timezone.now() if away else None
        row.save()


def _put_away(paint_id: int, action: str, away: bool) -> Paint:
    with transaction.atomic():
        paint = find_paint(paint_id)
        with recording(root_of("paint", paint.pk), action, of=[paint]):
            paint.binned = timezone.now() if away else None
            paint.revision += 1
            paint.save()
    return paint


def _write(paint: Paint, label: PaintLabel) -> None:
    maker, name = label.maker.strip(), label.name.strip()
    if not maker or not name:
        raise Problem("incomplete", "A paint needs a maker and a name.")
    if label.form not in PaintForm.values:
        raise Problem("unknown-form", f"There is no paint form {label.form!r}; choose one of {', '.join(PaintForm.values)}.")
    twin = Paint.objects.filter(maker__name__iexact=maker, name__iexact=name).exclude(pk=paint.pk).first()
    if twin is not None:
        where = "; it lies in the bin, take it out of there" if twin.binned else ""
        raise Problem("duplicate", f"{twin.maker} already has a paint named {twin.name}{where}.", 409)
    paint.pigments = _codes(label.pigments)
    paint.size_ml, paint.price = read_amount(label.size_ml, "size"), read_amount(label.price, "price")
    owner = Maker.objects.filter(name__iexact=maker).first() or Maker.objects.create(name=maker)
    paint.maker = owner
    paint.range = PaintRange.objects.get_or_create(maker=owner, name=label.range.strip())[0] if label.range.strip() else None
    paint.name, paint.form, paint.place, paint.series = name, label.form, label.place, label.series.strip()
    paint.currency, paint.batch, paint.hazards = label.currency.strip().upper(), label.batch.strip(), label.hazards.strip()
    paint.claims = {k: v.strip() for k, v in label.claims.items() if v.strip()}
    paint.sparkles, paint.owned, paint.note = label.sparkles, label.owned, label.note.strip()
    paint.save()


def _codes(pigments: Iterable[str]) -> list[str]:
    codes = list(dict.fromkeys(tidy(code) for code in pigments if code.strip()))
    for code in codes:
        if not well_formed(code):
            raise Problem("unknown-code", f"{code!r} is not a pigment code; they look like PB29 or PBr7.")
    return codes


def read_amount(text: str, what: str) -> Decimal | None:
    """A size or price as people write it, with a comma or a point; None for nothing. Raises Problem."""
    plain = text.strip().replace(",", ".")
    if not plain:
        return None
    try:
        value = Decimal(plain)
    except InvalidOperation as problem:
        raise Problem("unknown-amount", f"The {what} {text!r} is not a number; write it as 7.5 or 7,5.") from problem
    if not value.is_finite() or not 0 <= value < 100_000:
        raise Problem("unknown-amount", f"The {what} {text!r} cannot be right; write it as 7.5 or 7,5.")
    return round(value, 2)
