"""Assets and what is held of them: claims by source, and the truth made of them."""

from typing import Any

from django.db import models


class Asset(models.Model):
    """One device. What is held of it is in spans; the columns here are caches written by the door."""

    number = models.CharField(max_length=20, unique=True)
    first_seen = models.BigIntegerField()
    last_seen = models.BigIntegerField()
    sources = models.IntegerField(default=0)
    packages = models.IntegerField(default=0)
    sure = models.IntegerField(default=0)
    guess = models.CharField(max_length=40, blank=True)
    guess_reasons = models.TextField(default="[]", help_text="JSON: why it is taken for that kind")

    def __str__(self) -> str:
        return self.number


class Term(models.Model):
    """A word of a field's vocabulary, so that spans hold numbers and bands count fast."""

    field = models.CharField(max_length=20)
    text = models.CharField(max_length=500)
    folded = models.CharField(max_length=500)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["field", "text"], name="term_once")]


class FieldSpan(models.Model):
    """What one source says of one field, from when to when. `value` is JSON."""

    asset = models.ForeignKey(Asset, models.CASCADE, db_index=False, db_constraint=False)
    source = models.ForeignKey("estate.Source", models.PROTECT, db_index=False, db_constraint=False)
    section = models.CharField(max_length=20)
    field = models.CharField(max_length=80)
    value = models.TextField()
    valid_from = models.BigIntegerField()
    valid_to = models.BigIntegerField(null=True)
    initial = models.BooleanField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["asset", "source", "section", "field"],
                condition=models.Q(valid_to__isnull=True),
                name="field_open_once",
            )
        ]
        indexes = [
            models.Index(fields=["asset", "valid_to"], condition=models.Q(valid_to__isnull=False), name="field_closed")
        ]


def _term() -> Any:
    return models.IntegerField(null=True)


class AssetSpan(models.Model):
    """What Tarn held to be true of an asset from when to when, sources weighed. Columns `x_id` are terms."""

    asset = models.ForeignKey(Asset, models.CASCADE, db_index=False, db_constraint=False)
    valid_from = models.BigIntegerField()
    valid_to = models.BigIntegerField(null=True)
    standing_id = _term()
    kind_id = _term()
    state_id = _term()
    manufacturer_id = _term()
    model_id = _term()
    platform_id = _term()
    os_name_id = _term()
    arch_id = _term()
    place_id = _term()
    person_id = _term()
    department_id = _term()
    organisation_id = _term()
    name = models.TextField(null=True)
    name_fold = models.TextField(default="")
    serial = models.TextField(null=True)
    uuid = models.TextField(null=True)
    domain = models.TextField(null=True)
    os_version = models.TextField(null=True)
    os_version_key = models.TextField(null=True)
    os_kernel = models.TextField(null=True)
    processor = models.TextField(null=True)
    cores = models.IntegerField(null=True)
    memory = models.BigIntegerField(null=True)
    address = models.TextField(null=True)
    address_key = models.TextField(null=True)
    mac = models.TextField(null=True)
    description = models.TextField(null=True)
    last_user = models.TextField(null=True)
    aside_reason = models.TextField(null=True)
    note = models.TextField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["asset"], condition=models.Q(valid_to__isnull=True), name="asset_open_once")
        ]
        indexes = [
            models.Index(
                fields=["standing_id", "kind_id", "os_name_id", "place_id", "name_fold"],
                condition=models.Q(valid_to__isnull=True),
                name="asset_open_list",
            ),
            models.Index(
                fields=["standing_id", "name_fold"], condition=models.Q(valid_to__isnull=True), name="asset_open_name"
            ),
            models.Index(
                fields=["standing_id", "kind_id", "os_name_id", "place_id", "name_fold", "valid_from", "valid_to"],
                name="asset_list_as_of",
            ),
            models.Index(fields=["address_key"], condition=models.Q(valid_to__isnull=True), name="asset_open_address"),
            models.Index(fields=["asset", "valid_from"], name="asset_span_asset"),
        ]
