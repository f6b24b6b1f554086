"""Captures: originals that are never altered, and the jobs that measure them."""

import uuid

from django.db import models

from gelvet.site.bench.models import Card


class Original(models.Model):
    """A file exactly as it came, named by its content."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    name = models.CharField(max_length=255)
    size = models.PositiveBigIntegerField()
    stored = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.name} ({self.sha256[:12]})"


class CaptureState(models.TextChoices):
    INCOMPLETE = "incomplete", "waiting for its flat shot"
    QUEUED = "queued", "waiting"
    RUNNING = "running", "being measured"
    DONE = "done", "measured"
    FAILED = "failed", "not measured"
    CANCELLED = "cancelled", "cancelled"


BEING_MEASURED = frozenset({CaptureState.QUEUED, CaptureState.RUNNING})


class Capture(models.Model):
    """The shots of a card at one time and where their measuring stands: `original` is the flat one, `shots` the others.
    `attempt` names the run that may report for it. `settings` are those of a simulated device."""

    card = models.ForeignKey(Card, on_delete=models.CASCADE, related_name="captures")
    original = models.ForeignKey(Original, on_delete=models.PROTECT, related_name="captures", null=True)
    source = models.CharField(max_length=12, default="file")  # file, or a simulated device
    settings = models.JSONField(default=dict)
    paint_state = models.CharField(max_length=16, default="dry")  # dry, wet, or before_lifting
    state = models.CharField(max_length=12, choices=CaptureState.choices, default=CaptureState.QUEUED)
    stage = models.CharField(max_length=80, blank=True, default="")
    share = models.FloatField(default=0.0)
    message = models.TextField(blank=True, default="")
    attempt = models.UUIDField(default=uuid.uuid4)
    attempts = models.PositiveIntegerField(default=0)
    heard = models.DateTimeField(null=True, blank=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)


class Shot(models.Model):
    """Another shot of a capture, by a low lamp, or in even light (`diffuse`) with the card turned round or exposed otherwise.
    Azimuth 0 is a lamp at the card's right, 90 at its foot. A simulated lamp's shot has `settings` and gets its original when it
    is taken."""

    capture = models.ForeignKey(Capture, on_delete=models.CASCADE, related_name="shots")
    original = models.ForeignKey(Original, on_delete=models.PROTECT, related_name="shots", null=True)
    light = models.CharField(max_length=8, default="rake")
    azimuth_deg = models.FloatField(null=True, blank=True)
    elevation_deg = models.FloatField(null=True, blank=True)
    settings = models.JSONField(default=dict)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)


class Upload(models.Model):
    """A file that comes in parts, so that a broken connection costs no more than the last of them."""

    key = models.UUIDField(primary_key=True, default=uuid.uuid4)
    name = models.CharField(max_length=255)
    size = models.PositiveBigIntegerField()
    started = models.DateTimeField(auto_now_add=True)


class Arrival(models.Model):
    """A file that came to the inbox, and where it went."""

    at = models.DateTimeField(auto_now_add=True)
    name = models.CharField(max_length=255)
    capture = models.ForeignKey(Capture, on_delete=models.SET_NULL, null=True, related_name="arrivals")
    outcome = models.TextField()

    class Meta:
        ordering = ("-id",)
