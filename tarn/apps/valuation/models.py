"""By what assets are written down, what energy costs, and plans of replacing them. Amounts are in minor units."""

from django.db import models
from django.db.models.functions import Coalesce

from tarn.apps.people.naming import Named


class DepreciationRule(models.Model):
    """Terms for the assets that answer a filter; of several rules the first that an asset answers holds for it."""

    name = models.CharField(max_length=200)
    position = models.IntegerField(default=0)
    filter = models.TextField(blank=True)
    months = models.IntegerField()
    residual = models.IntegerField(default=0, help_text="hundredths of a percent of the cost")
    method = models.CharField(max_length=30)
    convention = models.CharField(max_length=20)
    factor = models.IntegerField(default=200)
    changes = models.JSONField(default=list, help_text="from a day on: months in all, residual")
    version = models.IntegerField(default=1)
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        ordering = ["position", "pk"]
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="depreciation_rule_once")]

    def __str__(self) -> str:
        return self.name


class AssetTerms(models.Model):
    """Terms of one asset in place of its rule's. Hangs on a document of it, so it goes where that goes."""

    anchor = models.CharField(max_length=80, unique=True)
    cost = models.BigIntegerField(help_text="in the company's currency")
    start = models.DateField()
    months = models.IntegerField()
    residual = models.BigIntegerField(default=0)
    method = models.CharField(max_length=30)
    convention = models.CharField(max_length=20)
    factor = models.IntegerField(default=200)
    revisions = models.JSONField(default=list, help_text="from a day on: months left, residual")
    why = models.CharField(max_length=300, blank=True)
    made_by = models.CharField(max_length=150)
    version = models.IntegerField(default=1)


class Energy(models.Model):
    """The one row of what energy costs: the price of a kilowatt hour, and by kind watts and hours a day."""

    price = models.DecimalField(max_digits=10, decimal_places=6, default=0, help_text="of a kWh, company's currency")
    kinds = models.JSONField(default=dict, help_text="by kind [watts, hours a day]")
    version = models.IntegerField(default=1)


class Scenario(Named):
    """A plan of refresh under one set of assumptions, kept to be laid beside others."""

    filter = models.TextField(blank=True)
    settings = models.JSONField()
