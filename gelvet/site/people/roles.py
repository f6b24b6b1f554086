"""Who may do what on a shared bench: four roles, each including those before it, kept as the framework's groups."""

from django.contrib.auth.models import AbstractBaseUser, Group, User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction

from gelvet.site.problems import Problem, not_found

# viewer looks; painter plans, paints and captures; analyst also maps, moves zones and measures again; owner also
# empties bins and keeps the accounts.
ROLES = ("viewer", "painter", "analyst", "owner")


def role_of(user: AbstractBaseUser) -> str | None:
    """The highest role of an active account; None for one without any."""
    if not isinstance(user, User) or not user.is_active:
        return None
    names = set(user.groups.values_list("name", flat=True))
    return next((role for role in reversed(ROLES) if role in names), None)


def may(user: AbstractBaseUser, needed: str) -> bool:
    role = role_of(user)
    return role is not None and ROLES.index(role) >= ROLES.index(needed)


def add_person(name: str, password: str, role: str) -> User:
    """A new account; raises Problem for a taken name or a password that is too easy."""
    _known(role)
    if not name.strip():
        raise Problem("incomplete", "Give the account a name.")
    user = User(username=name.strip())
    _check_password(password, user)
    user.set_password(password)
    try:
        with transaction.atomic():
            user.save()
            user.groups.set([Group.objects.get_or_create(name=role)[0]])
    except IntegrityError as problem:
        raise Problem("duplicate", f"There is an account named {name} already.", 409) from problem
    return user


def change_person(user_id: int, *, role: str | None = None, password: str | None = None, active: bool | None = None) -> User:
    """Changes role, password or whether the account may sign in; the last owner stays one."""
    user = User.objects.filter(pk=user_id).first()
    if user is None:
        raise not_found("The account")
    loses = (role is not None and role != "owner") or active is False
    if loses and role_of(user) == "owner" and User.objects.filter(groups__name="owner", is_active=True).count() == 1:
        raise Problem("last-owner", f"{user.username} is the only owner; make somebody else an owner first.", 409)
    with transaction.atomic():
        if role is not None:
            _known(role)
            user.groups.set([Group.objects.get_or_create(name=role)[0]])
        if password is not None:
            _check_password(password, user)
            user.set_password(password)
        if active is not None:
            user.is_active = active
        user.save()
    return user


def _known(role: str) -> None:
    if role not in ROLES:
        raise Problem("unknown-role", f"Choose a role: {', '.join(ROLES)}.")


def _check_password(password: str, user: User) -> None:
    try:
        validate_password(password, user)
    except ValidationError as problem:
        raise Problem("easy-password", " ".join(problem.messages)) from problem
