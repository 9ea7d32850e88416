"""Fill rules and what they have filled. Times are whole seconds since 1970 in UTC."""

from django.db import models
from django.db.models.functions import Coalesce

from tarn.apps.people.naming import Named


class FillRule(Named):
    """A rule, in its place among the others; its name is the source its values come from, so it is never changed."""

    name = models.CharField(max_length=80)
    position = models.IntegerField(default=0)
    filter = models.TextField(blank=True)
    fills = models.CharField(max_length=80)
    reads = models.CharField(max_length=80, blank=True)
    formula = models.CharField(max_length=200, blank=True)
    pattern = models.CharField(max_length=300, blank=True)
    compose = models.CharField(max_length=200, blank=True)
    table = models.JSONField(default=dict)
    when = models.CharField(max_length=10, default="always")
    in_force_at = models.BigIntegerField(null=True, help_text="since when it is in force; none: it is not")

    class Meta:
        ordering = ["position", "pk"]
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="fill_rule_once")]


class Fill(models.Model):
    """That a rule has filled an asset: what it read then, and the value it gave."""

    rule = models.ForeignKey(FillRule, models.CASCADE, db_index=False)
    asset_id = models.BigIntegerField()
    read = models.CharField(max_length=500)
    value = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["rule", "asset_id"], name="fill_once")]
