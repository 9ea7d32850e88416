"""Kept selections and phrases."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Coalesce


class KeptSet(models.Model):
    """A kept selection. Whatever its kind it comes down to a filter: of a picked set, the numbers that were picked."""

    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=10, default="live", help_text="live, picked or address")
    filter = models.TextField()
    folder = models.CharField(max_length=120, blank=True)
    note = models.CharField(max_length=300, blank=True)
    version = models.IntegerField(default=1)
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)
    access = models.CharField(max_length=5, default="all", help_text="who may see and change it: all, read, own")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made_at = models.BigIntegerField()

    scope_path = "organisation"
    maker_path = "made_by__username"

    class Meta:
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="set_once")]

    def __str__(self) -> str:
        return self.name


class KeptView(models.Model):
    """How the register was looked at: a question, its columns, order and bands, under a name."""

    name = models.CharField(max_length=120)
    filter = models.TextField(blank=True)
    columns = models.JSONField(default=list, help_text="names of fields, in order; none: as each has them")
    sort = models.CharField(max_length=120, blank=True)
    bands = models.JSONField(default=list, help_text="names of bands; none: the usual ones")
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)
    access = models.CharField(max_length=5, default="all", help_text="who may see and change it: all, read, own")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made_at = models.BigIntegerField()

    scope_path = "organisation"
    maker_path = "made_by__username"

    class Meta:
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="view_once")]

    def __str__(self) -> str:
        return self.name


class SetSpan(models.Model):
    """What a set was defined by, from when to when: a past day is asked by the definition of that day."""

    kept = models.ForeignKey(KeptSet, models.CASCADE, related_name="spans")
    filter = models.TextField()
    valid_from = models.BigIntegerField()
    valid_to = models.BigIntegerField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["kept"], condition=models.Q(valid_to__isnull=True), name="set_span_once")
        ]


class Phrase(models.Model):
    """A named list of words and patterns that filters may use as @name. `values` is JSON: texts, /…/ for patterns."""

    name = models.SlugField(max_length=60, unique=True, allow_unicode=True)
    values = models.JSONField(default=list)
    meaning = models.CharField(max_length=300, blank=True)

    def __str__(self) -> str:
        return self.name
