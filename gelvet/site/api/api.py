"""The HTTP interface: one router a noun, one builder for errors (RFC 9457 problem+json)."""

import json
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError

from gelvet.core.errors import GelvetError
from gelvet.site.api import bench, captures, inbox, library, painting, people, planning, results, search, sheets
from gelvet.site.api.access import Access
from gelvet.site.problems import Problem

api = NinjaAPI(title="Gelvet", version="1", auth=Access(), docs_url=None)
api.add_router("", library.router)
api.add_router("", planning.router)
api.add_router("", bench.router)
api.add_router("", painting.router)
api.add_router("", inbox.router)
api.add_router("", search.router)
api.add_router("", people.router)
api.add_router("", captures.router)
api.add_router("", sheets.router)
api.add_router("", results.router)


def problem_response(status: int, code: str, sentence: str) -> HttpResponse:
    body: dict[str, Any] = {"type": "about:blank", "status": status, "code": code, "title": sentence}
    return HttpResponse(json.dumps(body), status=status, content_type="application/problem+json")


@api.exception_handler(Problem)
def on_problem(request: HttpRequest, problem: Problem) -> HttpResponse:
    return problem_response(problem.status, problem.code, problem.sentence)


@api.exception_handler(GelvetError)
def on_refusal(request: HttpRequest, problem: GelvetError) -> HttpResponse:
    return problem_response(422, problem.code, str(problem))


@api.exception_handler(ValidationError)
def on_invalid(request: HttpRequest, problem: ValidationError) -> HttpResponse:
    first = problem.errors[0]
    place = " → ".join(str(p) for p in first.get("loc", ()) if p not in {"body", "payload"})
    return problem_response(422, "invalid", f"{place or 'The request'}: {first.get('msg', 'not usable')}.")


@api.exception_handler(AuthenticationError)
def on_stranger(request: HttpRequest, problem: AuthenticationError) -> HttpResponse:
    if settings.SIGN_IN:
        return problem_response(401, "sign-in", "Sign in first; this bench is shared.")
    return problem_response(401, "not-local", "This Gelvet answers on its own machine only; open the application's page first.")


@api.exception_handler(HttpError)
def on_http(request: HttpRequest, problem: HttpError) -> HttpResponse:
    return problem_response(problem.status_code, "refused", str(problem))


def nothing_there(request: HttpRequest) -> HttpResponse:
    """What an address under the interface that leads nowhere answers, such as a word where a number belongs."""
    return problem_response(404, "not-found", "Nothing lies at this address; it may be mistyped, or what it named was removed.")
