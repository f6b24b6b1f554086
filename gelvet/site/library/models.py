"""The library: paints as they are sold, papers, brushes, reference targets."""

import reversion
from django.db import models


class Maker(models.Model):
    name = models.CharField(max_length=120, unique=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


class PaintRange(models.Model):
    """A maker's line of paints, or a set as it is sold."""

    maker = models.ForeignKey(Maker, on_delete=models.PROTECT, related_name="ranges")
    name = models.CharField(max_length=120)

    class Meta:
        ordering = ("maker__name", "name")
        constraints = (models.UniqueConstraint(fields=("maker", "name"), name="one_range_a_name_and_maker"),)

    def __str__(self) -> str:
        return f"{self.maker} · {self.name}"


class PaintForm(models.TextChoices):
    TUBE = "tube", "tube"
    PAN = "pan", "pan"
    DOT = "dot", "sample dot"
    DRY = "dry", "dry cake"


@reversion.register()
class Paint(models.Model):
    """One paint as it is sold: what the label says, not what was measured."""

    maker = models.ForeignKey(Maker, on_delete=models.PROTECT, related_name="paints")
    name = models.CharField(max_length=160)
    pigments = models.JSONField(default=list)
    form = models.CharField(max_length=8, choices=PaintForm.choices, default=PaintForm.TUBE)
    range = models.ForeignKey(PaintRange, on_delete=models.PROTECT, null=True, blank=True, related_name="paints")
    place = models.PositiveIntegerField(null=True, blank=True)  # in the range's own order
    series = models.CharField(max_length=20, blank=True, default="")
    size_ml = models.DecimalField(max_digits=7, decimal_places=2, null=True, blank=True)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    currency = models.CharField(max_length=3, blank=True, default="")
    batch = models.CharField(max_length=60, blank=True, default="")
    hazards = models.TextField(blank=True, default="")
    claims = models.JSONField(default=dict)
    sparkles = models.BooleanField(default=False)
    owned = models.BooleanField(default=True)
    note = models.TextField(blank=True, default="")
    # Optics for the simulated bench only; measuring never sees them.
    simulation = models.JSONField(null=True, blank=True)
    revision = models.PositiveIntegerField(default=1)
    binned = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("maker__name", "name")
        constraints = (models.UniqueConstraint(fields=("maker", "name"), name="one_paint_a_name_and_maker"),)

    def __str__(self) -> str:
        return f"{self.name} ({self.maker})"


@reversion.register()
class Paper(models.Model):
    name = models.CharField(max_length=160, unique=True)
    weight_gsm = models.PositiveIntegerField(null=True, blank=True)
    surface = models.CharField(max_length=40, blank=True, default="")
    fibre = models.CharField(max_length=40, blank=True, default="")
    note = models.TextField(blank=True, default="")
    binned = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


@reversion.register()
class Brush(models.Model):
    name = models.CharField(max_length=120, unique=True)
    kind = models.CharField(max_length=40, blank=True, default="")
    size = models.CharField(max_length=20, blank=True, default="")
    binned = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


@reversion.register()
class ReferenceTarget(models.Model):
    """A printed target and its measured values, as the CGATS file gives them."""

    name = models.CharField(max_length=120, unique=True)
    text = models.TextField()
    measured_on = models.DateField(null=True, blank=True)
    note = models.TextField(blank=True, default="")
    binned = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name
