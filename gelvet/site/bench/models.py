"""Sessions at the bench: a question, its paints, its cards."""

from django.db import models

from gelvet.site.library.models import Paint, Paper


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


class Session(models.Model):
    """`revision` grows with each change: a second editor with an older one is told, and nothing is lost."""

    name = models.CharField(max_length=160)
    question = models.CharField(max_length=16, choices=Question.choices)
    paper = models.ForeignKey(Paper, on_delete=models.PROTECT, null=True, blank=True)
    sheet = models.CharField(max_length=8, default="A5")
    note = models.TextField(blank=True, default="")
    revision = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created", "-id")

    def __str__(self) -> str:
        return self.name


class SessionPaint(models.Model):
    """A paint's place in the session's order."""

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="places")
    paint = models.ForeignKey(Paint, on_delete=models.PROTECT)
    position = models.PositiveIntegerField()

    class Meta:
        ordering = ("position",)
        constraints = (models.UniqueConstraint(fields=("session", "paint"), name="a_paint_once_a_session"),)


class Card(models.Model):
    """A card of a session. `layout` is the interchange document; `paints` names the paint of each swatch id."""

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="cards")
    card_id = models.CharField(max_length=40, unique=True)
    number = models.PositiveIntegerField()
    layout = models.JSONField()
    paints = models.JSONField(default=dict)
    reference = models.TextField(blank=True, default="")

    class Meta:
        ordering = ("session", "number")

    def __str__(self) -> str:
        return self.card_id


class SessionChange(models.Model):
    """What a session was before a change, so that it can be undone and redone."""

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="changes")
    made = models.DateTimeField(auto_now_add=True)
    action = models.CharField(max_length=80)
    before = models.JSONField()
    after = models.JSONField()
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)
