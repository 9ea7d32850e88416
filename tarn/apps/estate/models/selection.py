"""Kept selections and phrases."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Coalesce


class KeptSet(models.Model):
    """A live set: a filter kept under a name."""

    name = models.CharField(max_length=120)
    filter = models.TextField()
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made_at = models.BigIntegerField()

    scope_path = "organisation"

    class Meta:
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="set_once")]

    def __str__(self) -> str:
        return self.name


class Phrase(models.Model):
    """A named list of words and patterns that filters may use as @name. `values` is JSON: texts, /…/ for patterns."""

    name = models.SlugField(max_length=60, unique=True, allow_unicode=True)
    values = models.JSONField(default=list)
    meaning = models.CharField(max_length=300, blank=True)

    def __str__(self) -> str:
        return self.name
