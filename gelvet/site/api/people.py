"""Who is signed in, and the accounts of a shared bench."""

from django.conf import settings
from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja import Router, Status

from gelvet.site.api.schemas.people import MeOut, PersonChangeIn, PersonIn, PersonOut
from gelvet.site.people import roles

router = Router()


@router.get("/me", response=MeOut, operation_id="getMe", auth=None)
def get_me(request: HttpRequest) -> MeOut:
    if not settings.SIGN_IN:
        return MeOut(sign_in=False, name="", role="owner")
    if not request.user.is_authenticated:
        return MeOut(sign_in=True, name="", role="")
    return MeOut(sign_in=True, name=request.user.get_username(), role=roles.role_of(request.user) or "")


def _person(user: User) -> PersonOut:
    return PersonOut(id=user.pk, name=user.username, role=roles.role_of(user), active=user.is_active)


@router.get("/people", response=list[PersonOut], operation_id="getPeople")
def get_people(request: HttpRequest) -> list[PersonOut]:
    return [_person(u) for u in User.objects.order_by("username")]


@router.post("/people", response={201: PersonOut}, operation_id="addPerson")
def post_person(request: HttpRequest, payload: PersonIn) -> Status[PersonOut]:
    return Status(201, _person(roles.add_person(payload.name, payload.password, payload.role)))


@router.put("/people/{int:user_id}", response=PersonOut, operation_id="changePerson")
def put_person(request: HttpRequest, user_id: int, payload: PersonChangeIn) -> PersonOut:
    return _person(roles.change_person(user_id, role=payload.role, password=payload.password, active=payload.active))
