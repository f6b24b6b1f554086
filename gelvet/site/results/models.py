"""Measurements: never overwritten, each with what it was made from."""

from django.db import models

from gelvet.site.captures.models import Capture


class Measurement(models.Model):
    """A version of a capture's measurement. `inputs` are hashes of image, layout and reference; `tiles` names the folder
    of derived pictures, which can be made again from the original."""

    capture = models.ForeignKey(Capture, on_delete=models.CASCADE, related_name="measurements")
    document = models.JSONField()
    inputs = models.JSONField()
    algorithm = models.CharField(max_length=40)
    pictures = models.CharField(max_length=80)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)


class SwatchColour(models.Model):
    """Lab of one swatch's ends, copied from its measurement for planning and search; null where absent. `quantities` is
    how much was measured of it: a strip for the light tells less of a paint than a card with every test."""

    measurement = models.ForeignKey(Measurement, on_delete=models.CASCADE, related_name="colours")
    swatch = models.CharField(max_length=40)
    masstone = models.JSONField(null=True)
    wash = models.JSONField(null=True)
    quantities = models.PositiveIntegerField(default=0)


class BenchLimits(models.Model):
    """Where this bench draws the lines between classes; one row, or none for the usual limits."""

    veil = models.JSONField()
    removed = models.JSONField()
    changed = models.DateTimeField(auto_now=True)
