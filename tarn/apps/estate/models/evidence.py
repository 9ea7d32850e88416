"""Evidence as it came: sources, sightings and their sections, and what identifies an asset."""

from django.db import models


class Source(models.Model):
    """Anything evidence comes from."""

    kind = models.CharField(max_length=40)
    name = models.CharField(max_length=200)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kind", "name"], name="source_once")]

    def __str__(self) -> str:
        return f"{self.kind} {self.name}"


class SectionBody(models.Model):
    """The content of a section, once however often it is seen; compressed unless short."""

    hash = models.BinaryField(primary_key=True, max_length=16)
    body = models.BinaryField()


class Sighting(models.Model):
    """A dated document of evidence, as it came. Never changed; `asset` is what identity made of it."""

    document = models.CharField(max_length=80, unique=True)
    source = models.ForeignKey(Source, models.PROTECT, db_index=False, db_constraint=False)
    at = models.BigIntegerField()
    received_at = models.BigIntegerField()
    address = models.CharField(max_length=500, blank=True)
    clock_skew = models.FloatField(null=True)
    head = models.TextField(help_text="JSON: a list of readings, each with section, collector, complete, note, hash")
    asset = models.ForeignKey("estate.Asset", models.PROTECT, null=True, db_index=False, db_constraint=False)
    verdict = models.CharField(max_length=12)
    reasons = models.TextField(help_text="JSON: why it was taken to be this asset, or why nobody can say")
    candidates = models.TextField(default="[]", help_text="JSON: numbers of the assets an undecided one may be of")

    class Meta:
        indexes = [
            models.Index(fields=["asset", "at"], name="sighting_asset_at"),
            models.Index(fields=["source", "id"], condition=models.Q(verdict="undecided"), name="sighting_undecided"),
        ]


class Identifier(models.Model):
    """An identifier an asset has been seen with: kind and normalised value in one text."""

    key = models.CharField(max_length=600)
    asset = models.ForeignKey("estate.Asset", models.CASCADE, db_index=False, db_constraint=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["asset", "key"], name="identifier_once")]


class SectionState(models.Model):
    """How fresh one source's word on one section of one asset is."""

    asset = models.ForeignKey("estate.Asset", models.CASCADE, db_index=False, db_constraint=False)
    source = models.ForeignKey(Source, models.PROTECT, db_index=False, db_constraint=False)
    section = models.CharField(max_length=20)
    hash = models.BinaryField(max_length=16)
    collector = models.CharField(max_length=40)
    complete = models.BooleanField()
    confirmed = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["asset", "source", "section"], name="section_state_once")]


class SourceSeen(models.Model):
    """When a source first and last saw an asset."""

    asset = models.ForeignKey("estate.Asset", models.CASCADE, db_index=False, db_constraint=False)
    source = models.ForeignKey(Source, models.PROTECT, db_index=False, db_constraint=False)
    first_seen = models.BigIntegerField()
    last_seen = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["asset", "source"], name="source_seen_once")]
