"""Who acts: set for the length of a request, asked by whatever keeps a record."""

from collections.abc import Callable
from contextvars import ContextVar

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest, HttpResponse

_acting: ContextVar[AbstractBaseUser | None] = ContextVar("acting", default=None)


def acting() -> AbstractBaseUser | None:
    """The signed-in person; None on a single-person bench and for work of the machine itself."""
    return _acting.get()


def acting_name() -> str:
    person = acting()
    return person.get_username() if person is not None else ""


class PersonMiddleware:
    """Remembers the signed-in person while a request is served."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        user = request.user
        token = _acting.set(user if user.is_authenticated else None)
        try:
            return self.get_response(request)
        finally:
            _acting.reset(token)
