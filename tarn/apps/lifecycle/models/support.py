"""Until when makers support what they made."""

from django.db import models


class SupportEnd(models.Model):
    """The last day its maker supports a system or product, from this release on up to the next."""

    name = models.CharField(max_length=200)
    release = models.CharField(max_length=60, blank=True, help_text="the release, and all that begin with it")
    day = models.DateField()

    class Meta:
        ordering = ["day", "name"]
        constraints = [models.UniqueConstraint(fields=["name", "release"], name="support_end_once")]
