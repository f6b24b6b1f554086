"""Search over everything that was written, and the bin."""

from django.http import HttpRequest
from ninja import Router

from gelvet.site.api.schemas.library import ChoiceOut
from gelvet.site.api.schemas.search import BinOut, HitOut
from gelvet.site.bench.models import Session
from gelvet.site.library.models import Paint
from gelvet.site.library.services import KINDS
from gelvet.site.search.services import search

router = Router()


@router.get("/search", response=list[HitOut], operation_id="search")
def get_search(request: HttpRequest, words: str) -> list[HitOut]:
    return [HitOut(kind=h.kind, title=h.title, excerpt=h.excerpt, url=h.url) for h in search(words)]


@router.get("/bin", response=BinOut, operation_id="getBin")
def get_bin(request: HttpRequest) -> BinOut:
    return BinOut(
        sessions=[ChoiceOut(id=str(s.pk), text=s.name) for s in Session.objects.exclude(binned=None)],
        paints=[ChoiceOut(id=str(p.pk), text=str(p)) for p in Paint.objects.exclude(binned=None).select_related("maker")],
        parts={
            kind: [ChoiceOut(id=str(row.pk), text=str(row)) for row in model._default_manager.exclude(binned=None)]
            for kind, model in KINDS.items()
        },
    )
