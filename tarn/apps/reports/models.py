"""Reports, watches and the letters they sent. Times are whole seconds since 1970 in UTC."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Coalesce

from tarn.apps.people.naming import Named


class Report(Named):
    """A report somebody composed. Those that ship are in `shipped.py`."""

    name = models.CharField(max_length=120)
    text = models.CharField(max_length=500, blank=True)
    room = models.CharField(max_length=20, default="Estate")
    definition = models.JSONField()
    access = models.CharField(max_length=5, default="all", help_text="who may see and change it: all, read, own")

    maker_path = "made_by"

    class Meta:
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="report_once")]


class Watch(models.Model):
    """A report asked on a schedule that writes to people when its answer says so."""

    name = models.CharField(max_length=120)
    report = models.CharField(max_length=40, help_text="number of a report, or the key of one that ships")
    rule = models.CharField(max_length=200, help_text="recurrence rule (RFC 5545)")
    condition = models.CharField(max_length=10, help_text="the key of a condition of core/watching.py")
    number = models.IntegerField(default=0, help_text="of the conditions that take one")
    share = models.FloatField(null=True, help_text="percent of all devices the rows were of when it last wrote of it")
    to = models.JSONField(default=list, help_text="addresses, role:NAME, person:NAME, holder, or https://…")
    sealed = models.BinaryField(null=True, help_text="the secret its calls are signed with")
    gathered = models.BooleanField(default=False, help_text="its letters go in one message a day with others'")
    insists = models.BooleanField(default=False, help_text="writes again each time until somebody has acknowledged it")
    attach = models.CharField(max_length=5, blank=True)
    quiet = models.CharField(max_length=20, blank=True, help_text="hours in which nothing is sent: 22-6")
    on = models.BooleanField(default=True)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    held = models.JSONField(default=list, help_text="keys of the rows of the last time")
    rows = models.JSONField(default=dict, help_text="by key those rows in words, to say what is gone")
    asked_at = models.BigIntegerField(null=True)
    next_at = models.BigIntegerField(null=True)
    trouble = models.CharField(max_length=500, blank=True)
    version = models.IntegerField(default=1)
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "name", name="watch_once")]

    def __str__(self) -> str:
        return self.name


class Letter(models.Model):
    """A message a watch wrote, and how its sending went. What failed is tried again."""

    watch = models.ForeignKey(Watch, models.CASCADE)
    made_at = models.BigIntegerField()
    due_at = models.BigIntegerField(help_text="not to be sent before: quiet hours, or a try that failed")
    to = models.JSONField(default=list)
    subject = models.CharField(max_length=200)
    text = models.TextField()
    html = models.TextField()
    attachment = models.BinaryField(null=True)
    attached_as = models.CharField(max_length=120, blank=True)
    sent_at = models.BigIntegerField(null=True)
    acknowledged_at = models.BigIntegerField(null=True)
    acknowledged_by = models.CharField(max_length=150, blank=True)
    gathered = models.BooleanField(default=False)
    tries = models.IntegerField(default=0)
    trouble = models.CharField(max_length=500, blank=True)

    class Meta:
        indexes = [
            models.Index(fields=["due_at"], condition=models.Q(sent_at=None), name="letter_due"),
        ]
