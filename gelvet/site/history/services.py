"""Keeping each change with who, when, before and after; taking it back and making it again.

The history package keeps every version of every row; a `Change` says which versions belong together and to what.
"""

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import reversion
from django.db import models, transaction
from django.utils import timezone
from reversion.models import Revision, Version

from gelvet.site.history.models import Change
from gelvet.site.people.person import acting
from gelvet.site.problems import Problem

# Fields that only count or stamp.
_COUNTED = {"id", "created", "revision"}
# Told before fields are put back, so that an app can refuse what must not change any more.
Guard = Callable[[models.Model, dict[str, Any]], None]


def root_of(kind: str, key: int | str) -> str:
    return f"{kind}:{key}"


@contextmanager
def recording(root: str | Callable[[], str], action: str, *, of: Iterable[models.Model] = (), undoable: bool = True) -> Iterator[None]:
    """Everything saved inside is one change of `root` (a function where it is known only at the end). `of` are rows that
    will change: those from before there was a history enter it as they are, so that the change can be taken back."""
    with transaction.atomic():
        _keep_as_found(of)
        before = Revision.objects.order_by("-pk").values_list("pk", flat=True).first() or 0
        with reversion.create_revision():
            reversion.set_comment(action)
            person = acting()
            if person is not None:
                reversion.set_user(person)
            yield
        name = root if isinstance(root, str) else root()
        made = Revision.objects.filter(pk__gt=before, comment=action).order_by("-pk").first()
        if made is None or not made.version_set.exists():
            return
        if undoable:
            Change.objects.filter(root=name, undone=True, undoable=True).update(undoable=False)
        Change.objects.create(root=name, revision=made, action=action[:160], undoable=undoable)


def _keep_as_found(rows: Iterable[models.Model]) -> None:
    for row in rows:
        if not Version.objects.get_for_object(row).exists():
            with reversion.create_revision(atomic=False):
                reversion.set_comment("as found")
                reversion.add_to_revision(row)


def last_done(root: str) -> Change | None:
    return Change.objects.filter(root=root, undoable=True, undone=False).last()


def first_undone(root: str) -> Change | None:
    return Change.objects.filter(root=root, undoable=True, undone=True).first()


def undo(root: str, guard: Guard | None = None) -> str:
    """Takes back the last change of `root`; returns what it was. Raises Problem where there is none."""
    change = last_done(root)
    if change is None:
        raise Problem("nothing-to-undo", "There is nothing to take back here.", 409)
    with recording(root, f"taken back: {change.action}", undoable=False):
        for version in change.revision.version_set.order_by("-pk"):
            earlier = _earlier(version)
            if earlier is None:
                _bin(version)
            else:
                _set(version, _difference(version, earlier), guard)
    Change.objects.filter(pk=change.pk).update(undone=True)
    return change.action


def redo(root: str, guard: Guard | None = None) -> str:
    """Makes the change again that was taken back last."""
    change = first_undone(root)
    if change is None:
        raise Problem("nothing-to-redo", "There is nothing to make again here.", 409)
    with recording(root, f"made again: {change.action}", undoable=False):
        for version in change.revision.version_set.order_by("pk"):
            earlier = _earlier(version)
            _set(version, _difference(earlier, version) if earlier else {"binned": None}, guard)
    Change.objects.filter(pk=change.pk).update(undone=False)
    return change.action


def _earlier(version: Version) -> Version | None:
    same = Version.objects.filter(content_type=version.content_type, object_id=version.object_id, db=version.db)
    found: Version | None = same.filter(pk__lt=version.pk).order_by("-pk").first()
    return found


def _row(version: Version) -> models.Model | None:
    model = version.content_type.model_class()
    return None if model is None else model._base_manager.filter(pk=version.object_id).first()


def _bin(version: Version) -> None:
    row = _row(version)
    if row is not None:
        row.binned = timezone.now()  # type: ignore[attr-defined]
        row.save()


def _difference(one: Version, two: Version) -> dict[str, Any]:
    """The fields of `two` that are not as in `one`."""
    before = one.field_dict
    return {name: value for name, value in two.field_dict.items() if name not in _COUNTED and before.get(name) != value}


def _set(version: Version, fields: dict[str, Any], guard: Guard | None) -> None:
    """Only what the change itself changed, so that nothing else is lost. The revision counts on: a window that shows the
    state in between is told."""
    row = _row(version)
    if row is None:
        return
    if guard is not None:
        guard(row, fields)
    for name, value in fields.items():
        setattr(row, name, value)
    if hasattr(row, "revision"):
        row.revision += 1
    row.save()


@dataclass(frozen=True, slots=True)
class FieldChange:
    thing: str
    field: str
    before: Any
    after: Any


@dataclass(frozen=True, slots=True)
class HistoryLine:
    id: int
    at: datetime
    person: str
    action: str
    undone: bool
    changes: tuple[FieldChange, ...]


_UNTOLD = {"id", "revision", "created", "session", "session_id", "simulation"}


def lines(root: str, limit: int = 100) -> list[HistoryLine]:
    """The changes of `root`, the newest first, each with the fields that it changed."""
    rows = Change.objects.filter(root=root).select_related("revision__user").prefetch_related("revision__version_set").order_by("-id")
    return [
        HistoryLine(
            id=row.pk,
            at=row.revision.date_created,
            person=row.revision.user.get_username() if row.revision.user else "",
            action=row.action,
            undone=row.undone,
            changes=tuple(found for version in row.revision.version_set.all() for found in _changed(version)),
        )
        for row in rows[:limit]
    ]


def _changed(version: Version) -> Iterator[FieldChange]:
    earlier = _earlier(version)
    before = earlier.field_dict if earlier is not None else {}
    for name, value in version.field_dict.items():
        if name not in _UNTOLD and before.get(name) != value and (earlier is not None or value not in (None, "", [], {})):
            yield FieldChange(version.object_repr, name, before.get(name), value)
