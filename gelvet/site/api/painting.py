"""The bench page: steps, notes, mishaps, timers."""

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router

from gelvet.site.api import fetch, present
from gelvet.site.api.schemas.library import ChoiceOut
from gelvet.site.api.schemas.painting import BenchOut, EntryOut, MishapIn, NoteIn, StepOut, TimerIn, TimerOut
from gelvet.site.bench import book
from gelvet.site.bench.models import Timer

router = Router()


def _shown(bench: book.Bench) -> BenchOut:
    now = timezone.now()
    following = bench.next
    return BenchOut(
        card=present.card(fetch.cards().get(pk=bench.card.pk)),
        steps=[
            StepOut(
                id=s.id, kind=s.kind, text=s.text, zones=list(s.zones), swatch=s.swatch, seconds=s.seconds, reminder=s.reminder,
                done=s.id in bench.done,
            )
            for s in bench.steps
        ],
        next=following.id if following else None,
        entries=[EntryOut(at=e.at, kind=e.kind, step=e.step, swatch=e.swatch, text=e.text, person=e.person) for e in bench.entries],
        timers=[present.timer(t, now) for t in bench.timers],
        mishaps=[ChoiceOut(id=kind, text=text) for kind, text in book.MISHAPS.items()],
    )  # fmt: skip


@router.get("/cards/{card_id}/bench", response=BenchOut, operation_id="getBench")
def get_bench(request: HttpRequest, card_id: str) -> BenchOut:
    return _shown(book.bench_of(card_id))


@router.post("/cards/{card_id}/bench/{step_id}/done", response=BenchOut, operation_id="doStep")
def post_done(request: HttpRequest, card_id: str, step_id: str) -> BenchOut:
    return _shown(book.do_step(card_id, step_id))


@router.post("/cards/{card_id}/bench/{step_id}/back", response=BenchOut, operation_id="takeBackStep")
def post_back(request: HttpRequest, card_id: str, step_id: str) -> BenchOut:
    return _shown(book.take_back_step(card_id, step_id))


@router.post("/cards/{card_id}/notes", response=BenchOut, operation_id="addNote")
def post_note(request: HttpRequest, card_id: str, payload: NoteIn) -> BenchOut:
    return _shown(book.note(card_id, payload.text, payload.swatch))


@router.post("/cards/{card_id}/mishaps", response=BenchOut, operation_id="addMishap")
def post_mishap(request: HttpRequest, card_id: str, payload: MishapIn) -> BenchOut:
    return _shown(book.mishap(card_id, payload.kind, payload.swatch))


@router.post("/cards/{card_id}/timers", response=BenchOut, operation_id="startTimer")
def post_timer(request: HttpRequest, card_id: str, payload: TimerIn) -> BenchOut:
    book.start_timer(card_id, payload.step, payload.title, payload.seconds)
    return _shown(book.bench_of(card_id))


@router.get("/timers", response=list[TimerOut], operation_id="getTimers")
def get_timers(request: HttpRequest) -> list[TimerOut]:
    """All that run or ring, on any card."""
    now = timezone.now()
    return [present.timer(t, now) for t in Timer.objects.filter(ended=None, card__binned=None).select_related("card")]


@router.post("/timers/{int:timer_id}/end", response=TimerOut, operation_id="endTimer")
def post_end(request: HttpRequest, timer_id: int) -> TimerOut:
    return present.timer(book.end_timer(timer_id), timezone.now())
