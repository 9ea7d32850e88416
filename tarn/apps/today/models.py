"""What people put aside of what wants a hand, and their boards. Times are whole seconds since 1970 in UTC."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Coalesce

from tarn.apps.people.naming import Named


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


class Board(Named):
    """A board somebody laid out. Those that ship are in `boards/shipped.py`. `drawer`: cards taken off it, kept there;
    `role`: whose board it is as long as they choose no other."""

    name = models.CharField(max_length=80)
    cards = models.JSONField(default=list)
    drawer = models.JSONField(default=list)
    access = models.CharField(max_length=5, default="own", help_text="who may see and change it: all, read, own")
    role = models.CharField(max_length=20, blank=True)

    maker_path = "made_by"

    class Meta:
        ordering = ["name"]
        # Everybody may have a morning of their own.
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", "made_by", name="board_once")]


class Chosen(models.Model):
    """The board somebody looks at: the key of one that ships, or the number of one laid out."""

    person = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE)
    board = models.CharField(max_length=40)

    def __str__(self) -> str:
        return self.board
