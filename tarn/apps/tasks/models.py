"""Tasks, how each device fared, and the reviewed scripts. Times are whole seconds since 1970 in UTC."""

from django.conf import settings
from django.db import models


class Script(models.Model):
    """A script of the list: it runs once another person than its writer has reviewed this very text."""

    name = models.CharField(max_length=120, unique=True)
    platform = models.CharField(max_length=20, help_text="Linux, macOS or Windows")
    text = models.TextField()
    meaning = models.CharField(max_length=500, blank=True)
    written_by = models.CharField(max_length=150)
    written_at = models.BigIntegerField()
    reviewed_by = models.CharField(max_length=150, blank=True)
    reviewed_at = models.BigIntegerField(null=True)
    version = models.IntegerField(default=1)

    def __str__(self) -> str:
        return self.name


class Task(models.Model):
    """Something asked of devices. `beat` is the worker's last sign of life."""

    kind = models.CharField(max_length=10)
    thing = models.CharField(max_length=300, blank=True, help_text="the product or script")
    product = models.BigIntegerField(null=True, help_text="the number of the product it is about")
    script = models.TextField(blank=True, help_text="the script's text as it was reviewed")
    filter = models.TextField(blank=True, help_text="the selection it was asked for")
    why = models.CharField(max_length=500, blank=True)
    state = models.CharField(max_length=12, help_text="to approve, waiting, running, proving, done, refused, stopped")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    asked_at = models.BigIntegerField()
    decided_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    decided_at = models.BigIntegerField(null=True)
    started_at = models.BigIntegerField(null=True)
    ended_at = models.BigIntegerField(null=True)
    at_once = models.IntegerField(default=8)
    wish = models.CharField(max_length=10, blank=True)
    beat = models.BigIntegerField(default=0)
    organisation = models.ForeignKey("people.Organisation", models.SET_NULL, null=True)

    scope_path = "organisation"

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.kind} {self.thing}".strip()


class TaskDevice(models.Model):
    """How a task fares on one device, and what the next reading says of it."""

    task = models.ForeignKey(Task, models.CASCADE, related_name="devices")
    asset_id = models.BigIntegerField()
    number = models.CharField(max_length=20)
    name = models.CharField(max_length=300, blank=True)
    address = models.CharField(max_length=50, blank=True)
    place = models.CharField(max_length=120, blank=True)
    organisation = models.CharField(max_length=120, blank=True)
    target = models.JSONField(default=dict, help_text="what it was planned from")
    way = models.CharField(max_length=10, blank=True)
    shown = models.TextField(blank=True, help_text="what is run")
    state = models.CharField(max_length=10, help_text="refused, waiting, running, worked, failed, stopped")
    words = models.TextField(blank=True)
    said = models.TextField(blank=True, help_text="what it printed")
    code = models.IntegerField(null=True)
    credential = models.CharField(max_length=80, blank=True)
    began = models.BigIntegerField(null=True)
    ended = models.BigIntegerField(null=True)
    asked_again = models.BigIntegerField(null=True, help_text="when it was last asked to be read anew")
    tries = models.IntegerField(default=0)
    proof = models.CharField(max_length=12, blank=True, help_text="seen, not seen, or empty while it is awaited")
    proof_words = models.CharField(max_length=500, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["task", "asset_id"], name="task_device_once")]
