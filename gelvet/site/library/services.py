"""Changes to the paint library."""

from typing import Any

from django.db import IntegrityError, transaction

from gelvet.core.pigments.pigment_list import tidy, well_formed
from gelvet.site.library.models import Maker, Paint, PaintForm
from gelvet.site.problems import Problem


def add_paint(*, maker: str, name: str, pigments: list[str], form: str, claims: dict[str, Any], note: str) -> Paint:
    """A new paint; its maker is made where new. Raises Problem."""
    maker, name = maker.strip(), name.strip()
    if not maker or not name:
        raise Problem("incomplete", "A paint needs a maker and a name.")
    if form not in PaintForm.values:
        raise Problem("unknown-form", f"There is no paint form {form!r}; choose one of {', '.join(PaintForm.values)}.")
    codes = list(dict.fromkeys(tidy(code) for code in pigments if code.strip()))
    for code in codes:
        if not well_formed(code):
            raise Problem("unknown-code", f"{code!r} is not a pigment code; they look like PB29 or PBr7.")
    try:
        with transaction.atomic():
            owner, _ = Maker.objects.get_or_create(name=maker)
            return Paint.objects.create(maker=owner, name=name, pigments=codes, form=form, claims=claims, note=note.strip())
    except IntegrityError as problem:
        raise Problem("duplicate", f"{maker} already has a paint named {name}.", 409) from problem
