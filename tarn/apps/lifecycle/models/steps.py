"""Steps that assets took from state to state, and what was handed over. Moments are seconds since 1970 in UTC.

Both hang on the document in which the step was said, not on the asset: so they go where a merge or split takes that.
"""

from django.db import models


class StepBook(models.Model):
    """The one row of the steps the company has made its own; until there is one, what ships holds."""

    steps = models.JSONField()
    version = models.IntegerField(default=1)


class StepTaken(models.Model):
    """A step an asset took: from which state to which, by whom, when and why, and what was said with it."""

    anchor = models.CharField(max_length=80, unique=True, help_text="the document in which it was said")
    step = models.CharField(max_length=60)
    begins = models.CharField(max_length=40, blank=True)
    to = models.CharField(max_length=40)
    at = models.BigIntegerField(db_index=True)
    who = models.CharField(max_length=150)
    why = models.CharField(max_length=500, blank=True)
    method = models.CharField(max_length=200, blank=True)
    erasure = models.CharField(max_length=500, blank=True)
    proceeds = models.BigIntegerField(null=True, help_text="minor units of the company's currency")
    costs = models.BigIntegerField(default=0)


class HandOver(models.Model):
    """An asset in somebody's hands: given on a day, due back on one if it is lent, acknowledged, returned."""

    anchor = models.CharField(max_length=80, unique=True, help_text="the document in which it was said")
    person = models.CharField(max_length=300, blank=True)
    department = models.CharField(max_length=300, blank=True)
    place = models.CharField(max_length=300, blank=True)
    lent = models.BooleanField(default=False)
    given_at = models.BigIntegerField()
    given_by = models.CharField(max_length=150)
    due = models.DateField(null=True)
    digest = models.CharField(max_length=64, db_index=True, blank=True, help_text="of the acknowledgement's token")
    acknowledged_at = models.BigIntegerField(null=True)
    acknowledged_by = models.CharField(max_length=300, blank=True)
    returned_at = models.BigIntegerField(null=True, db_index=True)
    returned_to = models.CharField(max_length=150, blank=True)
    condition = models.CharField(max_length=500, blank=True)
