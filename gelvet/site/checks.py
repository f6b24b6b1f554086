"""System checks: without sign-in, Gelvet must answer on this machine only."""

from collections.abc import Sequence
from typing import Any

from django.apps import AppConfig
from django.conf import settings
from django.core.checks import CheckMessage, Error, register

LOOPBACK_NAMES = {"127.0.0.1", "localhost", "[::1]", "testserver"}


@register()
def loopback_only(app_configs: Sequence[AppConfig] | None, **kwargs: Any) -> list[CheckMessage]:
    """E001: a host name that other machines could use, while nobody signs in."""
    strangers = sorted(set(settings.ALLOWED_HOSTS) - LOOPBACK_NAMES)
    if not strangers or settings.SIGN_IN:
        return []
    message = f"Nobody signs in here, so Gelvet must not answer as {', '.join(strangers)}."
    return [Error(message, hint="Name shared addresses in GELVET_HOSTS, which turns sign-in on.", id="gelvet.E001")]
