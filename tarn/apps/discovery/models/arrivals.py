"""Files, hooks and reporters by which devices arrive, and the rules of what becomes of them."""

from django.conf import settings
from django.db import models

from tarn.apps.discovery.models.shared import once, owner


class FileImport(models.Model):
    """A file of devices: how it is read, what it would do, what it did."""

    name = models.CharField(max_length=120, help_text="the source its values come from")
    file_name = models.CharField(max_length=200)
    path = models.CharField(max_length=300)
    shape = models.JSONField(default=dict)
    mapping = models.JSONField(default=dict)
    state = models.CharField(
        max_length=10, default="uploaded", help_text="uploaded, rehearsed, running, done, undoing, undone"
    )
    counts = models.JSONField(default=dict)
    refused = models.JSONField(default=list)
    progress = models.IntegerField(default=0, help_text="rows taken in or taken back so far, while it runs")
    total = models.IntegerField(default=0, help_text="rows the file has, as it was rehearsed")
    beat = models.BigIntegerField(default=0, help_text="the last sign of life of whoever is at it")
    made_at = models.BigIntegerField()
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    organisation = owner()

    scope_path = "organisation"

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.file_name


class FileMapping(models.Model):
    """The mapping last used for files with these headings."""

    headings = models.CharField(max_length=64, unique=True, help_text="digest of the headings")
    mapping = models.JSONField(default=dict)


class Hook(models.Model):
    """A way in for another system: it pushes sightings, or tells that a device changed, signed with a secret."""

    name = models.CharField(max_length=80)
    key = models.CharField(max_length=32, unique=True, help_text="names it in the address it posts to")
    sealed = models.BinaryField()
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made_at = models.BigIntegerField()
    withdrawn_at = models.BigIntegerField(null=True)
    used_at = models.BigIntegerField(null=True)
    organisation = owner()

    scope_path = "organisation"

    class Meta:
        constraints = [once("hook_once", "name")]

    def __str__(self) -> str:
        return self.name


class Enrolment(models.Model):
    """A token baked into reporters; only its SHA-256 is kept. Withdrawn, its reporters are refused."""

    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made_at = models.BigIntegerField()
    withdrawn_at = models.BigIntegerField(null=True)
    organisation = owner()

    scope_path = "organisation"

    def __str__(self) -> str:
        return self.name


class Reporter(models.Model):
    """A computer that reports: its number here, and the last document, whose unchanged sections stand on."""

    enrolment = models.ForeignKey(Enrolment, models.PROTECT)
    number = models.CharField(max_length=40, unique=True)
    document = models.CharField(max_length=80)
    asset_id = models.BigIntegerField(null=True)
    version = models.IntegerField()
    last_seen = models.BigIntegerField()
    skew = models.FloatField(default=0.0, help_text="seconds its clock is ahead of ours")

    def __str__(self) -> str:
        return self.number


class IntakeRule(models.Model):
    """What waits at intake and answers to a filter is adopted, or set aside, by itself."""

    name = models.CharField(max_length=80)
    filter = models.TextField()
    action = models.CharField(max_length=10, default="adopt", help_text="adopt or aside")
    reason = models.CharField(max_length=200, blank=True, help_text="why such devices are set aside")
    in_force = models.BooleanField(default=False)
    made_at = models.BigIntegerField()
    organisation = owner()

    scope_path = "organisation"

    class Meta:
        constraints = [once("rule_once", "name")]

    def __str__(self) -> str:
        return self.name


class Ruled(models.Model):
    """That a rule has decided of an asset: it does so once, so that a person's other word stands."""

    rule = models.ForeignKey(IntakeRule, models.CASCADE)
    asset_id = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["rule", "asset_id"], name="ruled_once")]

    def __str__(self) -> str:
        return f"{self.rule_id} of {self.asset_id}"
