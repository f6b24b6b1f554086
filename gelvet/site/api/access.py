"""Who may call: anybody on this machine, with the page's own CSRF token for changes."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest
from ninja.security import APIKeyCookie

_LOOPBACK = {"127.0.0.1", "::1"}


class LoopbackAccess(APIKeyCookie):
    """Local single-person use: no sign-in, loopback addresses only; being a cookie scheme, CSRF is enforced."""

    param_name = settings.CSRF_COOKIE_NAME

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        return request.META.get("REMOTE_ADDR") in _LOOPBACK or None
