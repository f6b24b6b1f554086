"""Accounts are made by an owner, never by whoever finds the address."""

from allauth.account.adapter import DefaultAccountAdapter
from django.http import HttpRequest


class ClosedAccounts(DefaultAccountAdapter):  # type: ignore[misc]
    def is_open_for_signup(self, request: HttpRequest) -> bool:
        return False
