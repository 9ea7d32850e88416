"""The ground of tables that other apps keep under a name. Times are whole seconds since 1970 in UTC."""

from django.db import models
from django.db.models.functions import Coalesce


class Named(models.Model):
    """What people make under a name that each organisation has only once."""

    name = models.CharField(max_length=200)
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()
    version = models.IntegerField(default=1)
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        abstract = True
        ordering = ["name"]
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="%(class)s_once")]

    def __str__(self) -> str:
        return self.name
