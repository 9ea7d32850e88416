"""The company's money: its own currency, when its year begins, and rates of exchange by day."""

from django.db import models


class Ledger(models.Model):
    """The one row of what holds of all the company's money."""

    currency = models.CharField(max_length=3, default="EUR")
    year_begins = models.IntegerField(default=1, help_text="month a fiscal year begins in")
    idle_after = models.IntegerField(default=90, help_text="days without use after which an installation is idle")
    version = models.IntegerField(default=1)


class Rate(models.Model):
    """How many of a currency one unit of the company's own buys, from a day on."""

    day = models.DateField()
    currency = models.CharField(max_length=3)
    rate = models.DecimalField(max_digits=18, decimal_places=8)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["currency", "day"], name="rate_once")]
