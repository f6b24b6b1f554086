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
    QUEUED = "queued", "waiting"
    RUNNING = "running", "being measured"
    DONE = "done", "measured"
    FAILED = "failed", "not measured"
    CANCELLED = "cancelled", "cancelled"


class Capture(models.Model):
    """One shot of a card and where its measuring stands. `attempt` names the run that may report for it."""

    card = models.ForeignKey(Card, on_delete=models.CASCADE, related_name="captures")
    original = models.ForeignKey(Original, on_delete=models.PROTECT, related_name="captures", null=True)
    source = models.CharField(max_length=12, default="file")  # file, or the simulated flatbed
    settings = models.JSONField(default=dict)
    paint_state = models.CharField(max_length=4, default="dry")
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
