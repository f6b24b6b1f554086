"""Accounts of a shared bench."""

from ninja import Schema


class MeOut(Schema):
    """`name` is empty on a single-person bench, where nobody signs in."""

    sign_in: bool
    name: str
    role: str


class PersonOut(Schema):
    id: int
    name: str
    role: str | None
    active: bool


class PersonIn(Schema):
    name: str
    password: str
    role: str


class PersonChangeIn(Schema):
    role: str | None = None
    password: str | None = None
    active: bool | None = None
