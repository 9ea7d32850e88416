"""What the company says of software. Times are whole seconds since 1970 in UTC; an open end is NULL."""

from django.db import models
from django.db.models.functions import Coalesce


class Ruling(models.Model):
    """A ruling, from when to when. What is changed ends, and what it is changed to begins: the past keeps its own."""

    subject = models.CharField(max_length=10, help_text="product, publisher or phrase")
    name = models.CharField(max_length=300)
    low = models.CharField(max_length=60, blank=True, help_text="lowest release, in; empty: open")
    high = models.CharField(max_length=60, blank=True)
    department = models.CharField(max_length=200, blank=True, help_text="empty: the whole company")
    verdict = models.CharField(max_length=12)
    until = models.BigIntegerField(null=True, help_text="last moment of a toleration")
    why = models.CharField(max_length=500, blank=True)
    review_at = models.BigIntegerField(null=True, help_text="when to look at it again")
    begins = models.BigIntegerField()
    ends = models.BigIntegerField(null=True)
    made_by = models.CharField(max_length=150)
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        indexes = [models.Index(fields=["subject", "name"], name="ruling_subject")]

    def __str__(self) -> str:
        return f"{self.subject} {self.name}: {self.verdict}"


class Baseline(models.Model):
    """What devices should have: which devices, and a list of conditions each with a name."""

    name = models.CharField(max_length=120)
    filter = models.TextField(blank=True, help_text="which devices it is for")
    rules = models.JSONField(default=list, help_text="name and filter of each thing that should be so")
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()
    version = models.IntegerField(default=1)
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="baseline_once")]

    def __str__(self) -> str:
        return self.name
