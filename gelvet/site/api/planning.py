"""Plans before they are kept: proposals, and what a plan would come to."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router

from gelvet.core.errors import GelvetError
from gelvet.core.formats.card_layout import layout_to_document
from gelvet.core.pigments.pigment_list import cautions
from gelvet.core.planning.effort import effort
from gelvet.core.planning.painting_order import painting_order
from gelvet.core.planning.propose import Proposed, propose
from gelvet.core.planning.questions import QUESTIONS
from gelvet.site.api.schemas.plans import EffortOut, PlanIn, PreviewCardOut, PreviewOut, ProposalOut, ProposedOut, ProposeIn
from gelvet.site.bench.facts import library_facts, paint_facts
from gelvet.site.bench.plans import arranged, build, card_plans, check, plan_from
from gelvet.site.library.models import Paint
from gelvet.site.problems import Problem

router = Router()


@router.post("/plans/propose", response=ProposalOut, operation_id="proposePaints")
def post_proposal(request: HttpRequest, payload: ProposeIn) -> ProposalOut:
    if payload.question not in QUESTIONS:
        raise Problem("unknown-question", "Choose one of the listed questions.")
    found = propose(payload.question, payload.subject, list(library_facts().values()))
    return ProposalOut(paints=[_proposed(p) for p in found.paints], partners=[_proposed(p) for p in found.partners])


def _proposed(row: Proposed) -> ProposedOut:
    return ProposedOut(paint=row.paint, reason=row.reason)


@router.post("/plans/preview", response=PreviewOut, operation_id="previewPlan")
def post_preview(request: HttpRequest, payload: PlanIn) -> HttpResponse:
    """A plan that cannot be laid out is no error here: the sentence stands where the cards would."""
    plan = plan_from(payload.dict() | {"name": payload.name or "plan"})
    paints = Paint.objects.select_related("maker", "range").in_bulk([*plan.paints, *plan.partners])
    facts = paint_facts(paints.values())
    try:
        check(plan)
        plan = arranged(plan, facts)
        planned = card_plans(plan)
        layouts = [build(plan, card, f"CARD-{card.number:02d}", paints) for card in planned]
    except (Problem, GelvetError) as problem:
        nothing = EffortOut(cards=0, swatches=0, minutes=0, waiting=0, paint_ml=0, paper_m2=0)
        return _as_json(
            cards=[], effort=nothing, paints=plan.paints, partners=plan.partners, painting_order=[], cautions=[], problem=str(problem)
        )
    takes = effort(layouts)
    used = [facts[p] for p in (*plan.paints, *plan.partners) if p in facts]
    return _as_json(
        cards=[
            PreviewCardOut.model_construct(number=card.number, paper=card.paper, layout=layout_to_document(layout), paints=card.paints)
            for card, layout in zip(planned, layouts, strict=True)
        ],
        effort=EffortOut.from_orm(takes),
        paints=plan.paints,
        partners=plan.partners,
        painting_order=painting_order(used),
        cautions=cautions(code for p in used for code in p.pigments),
        problem=None,
    )


def _as_json(**values: Any) -> HttpResponse:
    """The planner answers with every key: twelve cards are not validated a second time."""
    return HttpResponse(PreviewOut.model_construct(**values).model_dump_json(), content_type="application/json")
