"""Sessions at the bench: a question, its paints, its cards, and what was done to them."""

import reversion
from django.db import models

from gelvet.site.library.models import Paper


class Question(models.TextChoices):
    ONE_PAINT = "one-paint", "What is this paint really like?"
    WHICH_MAKER = "which-maker", "Which maker's version of this colour?"
    ONE_PIGMENT = "one-pigment", "What does one pigment give?"
    SET_WORTH = "set-worth", "Is this set worth having?"
    REPLACEMENT = "replacement", "What can replace it?"
    IN_MIXES = "in-mixes", "What does it do in mixes?"
    MAKE_MYSELF = "make-myself", "Can I make it myself?"
    BUY_AGAIN = "buy-again", "Would I buy it again?"
    SPARKLE = "sparkle", "Which of these sparkle, and when?"
    LASTING = "lasting", "Does it last?"
    PAPER = "paper", "How does paper change it?"


@reversion.register()
class Session(models.Model):
    """`paints` are ids in their order; `options` are the rest of the plan. `revision` grows with each change: a second
    editor with an older one is told, and nothing is lost."""

    name = models.CharField(max_length=160)
    question = models.CharField(max_length=16, choices=Question.choices)
    paper = models.ForeignKey(Paper, on_delete=models.PROTECT, null=True, blank=True)
    sheet = models.CharField(max_length=16, default="A5")
    note = models.TextField(blank=True, default="")
    paints = models.JSONField(default=list)
    options = models.JSONField(default=dict)
    revision = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)
    binned = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("-created", "-id")

    def __str__(self) -> str:
        return self.name


@reversion.register()
class Card(models.Model):
    """A card of a session. `layout` is the interchange document; `paints` names the paint of each swatch id."""

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="cards")
    card_id = models.CharField(max_length=40, unique=True)
    number = models.PositiveIntegerField()
    paper = models.ForeignKey(Paper, on_delete=models.PROTECT, null=True, blank=True)
    layout = models.JSONField()
    paints = models.JSONField(default=dict)
    reference = models.TextField(blank=True, default="")
    revision = models.PositiveIntegerField(default=1)
    binned = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("session", "number")

    def __str__(self) -> str:
        return self.card_id


class EntryKind(models.TextChoices):
    STEP = "step", "step done"
    UNDONE = "undone", "step taken back"
    NOTE = "note", "note"
    MISHAP = "mishap", "mishap"


class BenchEntry(models.Model):
    """One line of a card's bench book, stamped; lines are added, never changed."""

    card = models.ForeignKey(Card, on_delete=models.CASCADE, related_name="entries")
    at = models.DateTimeField(auto_now_add=True)
    kind = models.CharField(max_length=8, choices=EntryKind.choices)
    step = models.CharField(max_length=40, blank=True, default="")
    swatch = models.CharField(max_length=20, blank=True, default="")
    text = models.TextField(blank=True, default="")
    person = models.CharField(max_length=150, blank=True, default="")

    class Meta:
        ordering = ("id",)


class Timer(models.Model):
    """A wait at the bench. It lives here and not in a page, so that it survives reload and rings on every screen."""

    card = models.ForeignKey(Card, on_delete=models.CASCADE, related_name="timers")
    step = models.CharField(max_length=40)
    title = models.CharField(max_length=160)
    seconds = models.PositiveIntegerField()
    started = models.DateTimeField()
    ended = models.DateTimeField(null=True, blank=True)  # acknowledged or stopped

    class Meta:
        ordering = ("id",)


class Exposure(models.Model):
    """A strip in the light: when it began, and when it is to be measured again."""

    card = models.OneToOneField(Card, on_delete=models.CASCADE, related_name="exposure")
    began = models.DateField()
    hours_a_day = models.FloatField(default=8.0)
    every_weeks = models.PositiveIntegerField(default=4)
    weeks = models.PositiveIntegerField(default=24)
    dark_weeks = models.PositiveIntegerField(default=4)

    class Meta:
        ordering = ("began",)
