"""Changes: what a revision of the history belongs to, and whether it stands or was taken back."""

from django.db import models
from reversion.models import Revision


class Change(models.Model):
    """`root` names what the change belongs to, as `session:5`; undo and redo run along the changes of one root."""

    root = models.CharField(max_length=40, db_index=True)
    revision = models.OneToOneField(Revision, on_delete=models.CASCADE, related_name="change")
    action = models.CharField(max_length=160)
    undoable = models.BooleanField(default=True)
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)
