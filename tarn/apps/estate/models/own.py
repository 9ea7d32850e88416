"""Fields and kinds of the company's own. What they hold of assets is evidence like all else."""

from django.db import models


class OwnField(models.Model):
    """A field of the company's own. One that is dropped keeps its values, and comes back with them."""

    name = models.CharField(max_length=60)
    type = models.CharField(max_length=12)
    unit = models.CharField(max_length=20, blank=True)
    choices = models.JSONField(default=list)
    help = models.CharField(max_length=300, blank=True)
    group = models.CharField(max_length=60, blank=True)
    required = models.BooleanField(default=False)
    kinds = models.JSONField(default=list, help_text="the kinds it is on; empty: all")
    position = models.IntegerField(default=0)
    many = models.BooleanField(default=False)
    template = models.CharField(max_length=300, blank=True)
    listed = models.BooleanField(default=False)
    version = models.IntegerField(default=1)
    dropped_at = models.BigIntegerField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["name"], condition=models.Q(dropped_at=None), name="own_field_once")
        ]

    def __str__(self) -> str:
        return self.name


class OwnKind(models.Model):
    """A kind of the company's own, below another or at the top."""

    name = models.CharField(max_length=60)
    parent = models.CharField(max_length=60, blank=True)
    icon = models.CharField(max_length=20, blank=True)
    names = models.JSONField(default=dict, help_text="its name in other languages, by language tag (RFC 5646)")
    hidden = models.JSONField(default=list, help_text="fields of kinds above that it does not have")
    version = models.IntegerField(default=1)
    dropped_at = models.BigIntegerField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["name"], condition=models.Q(dropped_at=None), name="own_kind_once")
        ]

    def __str__(self) -> str:
        return self.name
