"""The paint library."""

from django.db import models


class Maker(models.Model):
    name = models.CharField(max_length=120, unique=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


class PaintForm(models.TextChoices):
    TUBE = "tube", "tube"
    PAN = "pan", "pan"
    DOT = "dot", "sample dot"
    DRY = "dry", "dry cake"


class Paint(models.Model):
    """One paint as it is sold: what the label says, not what was measured."""

    maker = models.ForeignKey(Maker, on_delete=models.PROTECT, related_name="paints")
    name = models.CharField(max_length=160)
    pigments = models.JSONField(default=list)
    form = models.CharField(max_length=8, choices=PaintForm.choices, default=PaintForm.TUBE)
    claims = models.JSONField(default=dict)
    note = models.TextField(blank=True, default="")
    # Optics for the simulated bench only; measuring never sees them.
    simulation = models.JSONField(null=True, blank=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ("maker__name", "name")
        constraints = (models.UniqueConstraint(fields=("maker", "name"), name="one_paint_a_name_and_maker"),)

    def __str__(self) -> str:
        return f"{self.name} ({self.maker})"


class Paper(models.Model):
    name = models.CharField(max_length=160, unique=True)
    weight_gsm = models.PositiveIntegerField(null=True, blank=True)
    surface = models.CharField(max_length=40, blank=True, default="")
    fibre = models.CharField(max_length=40, blank=True, default="")

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name
