"""Until when makers support what they made."""

from django.db import models


class SupportEnd(models.Model):
    """When a release of a system or product came out and the last day its maker supports it."""

    name = models.CharField(max_length=200)
    release = models.CharField(max_length=60, blank=True, help_text="the release, and all that begin with it")
    day = models.DateField(null=True)
    released = models.DateField(null=True, help_text="the day the release came out")

    class Meta:
        ordering = ["day", "name"]
        constraints = [models.UniqueConstraint(fields=["name", "release"], name="support_end_once")]
