"""Who may call: anybody on this machine while nobody signs in; on a shared bench, people by their role."""

import re
from typing import Any

from django.conf import settings
from django.http import HttpRequest
from ninja.security import APIKeyCookie

from gelvet.site.people.roles import may
from gelvet.site.problems import Problem

_LOOPBACK = {"127.0.0.1", "::1"}
# Changes that need more than a painter, by address.
_NEEDED = (
    (re.compile(r"^/api/people"), "owner"),
    (re.compile(r"/(bin|restore)$"), "owner"),
    (re.compile(r"^/api/(papers|brushes|targets|class-limits)$|/(zones|swatch|reference|run-again|sheet)$"), "analyst"),
)
# Sending these changes nothing that is kept.
_HARMLESS = re.compile(r"^/api/(plans/|paints/spreadsheet/preview$)")


def needed_role(method: str, path: str) -> str:
    if path.startswith("/api/people"):
        return "owner"
    if method in {"GET", "HEAD"} or _HARMLESS.match(path):
        return "viewer"
    return next((role for pattern, role in _NEEDED if pattern.search(path)), "painter")


class Access(APIKeyCookie):
    """Being a cookie scheme, it has CSRF enforced for every change."""

    param_name = settings.CSRF_COOKIE_NAME

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        if not settings.SIGN_IN:
            return request.META.get("REMOTE_ADDR") in _LOOPBACK or None
        if not request.user.is_authenticated:
            return None
        needed = needed_role(request.method or "GET", request.path)
        if not may(request.user, needed):
            raise Problem("not-allowed", f"This needs the role “{needed}”; ask an owner of this bench for it.", 403)
        return request.user
