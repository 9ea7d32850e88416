"""Other systems that know devices, and what each sync of them found."""

from django.conf import settings
from django.db import models

from tarn.apps.discovery.models.shared import once, owner
from tarn.apps.discovery.models.sweeps import Credential


class Source(models.Model):
    """Another system that knows devices: how it is asked, when, and what becomes of what it drops."""

    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=20, help_text="directory, device management or inventory")
    settings = models.JSONField(default=dict)
    take = models.JSONField(default=list, help_text="sections taken; empty: all")
    credential = models.ForeignKey(Credential, models.PROTECT, null=True)
    route = models.CharField(max_length=10, default="direct")
    schedule = models.CharField(max_length=200, blank=True)
    next_at = models.BigIntegerField(null=True)
    gone = models.CharField(max_length=10, default="keep", help_text="what the other side dropped: keep, mark, retire")
    gone_days = models.IntegerField(default=30)
    loss_share = models.IntegerField(
        default=20, help_text="percent of what it knew that may be missing before a person is asked"
    )
    version = models.IntegerField(default=1)
    organisation = owner()

    scope_path = "organisation"

    class Meta:
        constraints = [once("source_once_each", "name")]

    def __str__(self) -> str:
        return self.name


class Sync(models.Model):
    """One pull from a source."""

    source = models.ForeignKey(Source, models.CASCADE)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    state = models.CharField(max_length=10, default="waiting", help_text="waiting, running, done, part, failed")
    made_at = models.BigIntegerField()
    ended_at = models.BigIntegerField(null=True)
    since = models.BigIntegerField(null=True, help_text="only what changed after this was asked for")
    beat = models.BigIntegerField(default=0, help_text="the last sign of life of whoever is at it")
    counts = models.JSONField(default=dict)
    faults = models.JSONField(default=list)
    message = models.TextField(blank=True)
    loss = models.JSONField(
        null=True,
        help_text="what is missing beyond the source's share, until a person says yes",
    )

    scope_path = "source__organisation"

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"sync {self.pk} of {self.source_id}"


class SourceDevice(models.Model):
    """A device of another system, by its id there."""

    source = models.ForeignKey(Source, models.CASCADE)
    key = models.CharField(max_length=300)
    asset_id = models.BigIntegerField(null=True)
    last_sync = models.BigIntegerField()
    missing_since = models.BigIntegerField(null=True)
    told = models.CharField(max_length=10, blank=True, help_text="the state Tarn gave it for being missing")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["source", "key"], name="source_device_once")]

    def __str__(self) -> str:
        return self.key
