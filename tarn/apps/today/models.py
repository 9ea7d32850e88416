"""What people put aside of what wants a hand. Times are whole seconds since 1970 in UTC."""

from django.conf import settings
from django.db import models


class Aside(models.Model):
    """A line somebody does not want to see: until a day, until there is something new in it, or ever."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    key = models.CharField(max_length=60)
    how = models.CharField(max_length=5, help_text="until, done or never")
    until = models.BigIntegerField(null=True)
    things = models.JSONField(default=list, help_text="of what it was when it was done")
    made_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "key"], name="aside_once")]

    def __str__(self) -> str:
        return f"{self.key} {self.how}"
