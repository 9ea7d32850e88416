"""Software: what is listed, which product that is, its releases, and where they were installed from when to when."""

from django.db import models


class Product(models.Model):
    """A software product under one name, whatever its spellings; `key` is what the spellings have in common."""

    key = models.CharField(max_length=300, unique=True)
    name = models.CharField(max_length=300)
    publisher = models.CharField(max_length=500, blank=True)

    def __str__(self) -> str:
        return self.name


class Counter(models.Model):
    """How often something changed that no number of its own rows tells: `catalogue`, what is told of listed names."""

    name = models.CharField(max_length=30, primary_key=True)
    number = models.BigIntegerField()

    def __str__(self) -> str:
        return f"{self.name} {self.number}"


class NamingRule(models.Model):
    """A correction of what listed names are taken for; they are carried out in order of their numbers."""

    field = models.CharField(max_length=20, help_text="what is compared: name, product or publisher")
    match = models.CharField(max_length=300)
    product = models.CharField(max_length=300, blank=True)
    publisher = models.CharField(max_length=300, blank=True)
    role = models.CharField(max_length=20, blank=True)
    note = models.CharField(max_length=300, blank=True)
    made_by = models.CharField(max_length=150, blank=True)
    made_at = models.BigIntegerField()

    def __str__(self) -> str:
        return f"{self.field} {self.match}"


class Listing(models.Model):
    """An entry of software lists by the name it is listed under, and what that was taken for."""

    name = models.CharField(max_length=300)
    name_fold = models.CharField(max_length=300, unique=True)
    publisher = models.CharField(max_length=500, blank=True)
    first_version = models.CharField(max_length=500, blank=True)
    product = models.ForeignKey(Product, models.PROTECT, null=True, db_constraint=False)
    role = models.CharField(max_length=20, default="product")
    edition = models.CharField(max_length=60, blank=True)
    arch = models.CharField(max_length=20, blank=True)
    language = models.CharField(max_length=40, blank=True)
    understood = models.BooleanField(default=True)
    why = models.TextField(default="[]", help_text="JSON: by which rules it was taken for that")

    def __str__(self) -> str:
        return self.name


class Release(models.Model):
    """One version of a listing; `version_key` sorts as versions do, by the rule of `system`'s packages if it is one."""

    listing = models.ForeignKey(Listing, models.CASCADE, db_index=False)
    version = models.CharField(max_length=500)
    version_key = models.CharField(max_length=2000)
    system = models.CharField(max_length=3, default="", blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["listing", "version"], name="release_once")]


class InstallSpan(models.Model):
    """A release was installed on an asset from when to when, says a source."""

    asset = models.ForeignKey("estate.Asset", models.CASCADE, db_index=False, db_constraint=False)
    source = models.ForeignKey("estate.Source", models.PROTECT, db_index=False, db_constraint=False)
    listing = models.ForeignKey(Listing, models.PROTECT, db_index=False, db_constraint=False)
    release = models.ForeignKey(Release, models.PROTECT, db_index=False, db_constraint=False)
    valid_from = models.BigIntegerField()
    valid_to = models.BigIntegerField(null=True)
    initial = models.BooleanField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["asset", "release", "source"],
                condition=models.Q(valid_to__isnull=True),
                name="install_open_once",
            )
        ]
        indexes = [
            models.Index(
                fields=["listing", "release", "asset", "valid_from"],
                condition=models.Q(valid_to__isnull=True),
                name="install_open_product",
            ),
            models.Index(
                fields=["listing", "release", "asset", "valid_to", "valid_from"],
                condition=models.Q(valid_to__isnull=False),
                name="install_closed_product",
            ),
            models.Index(
                fields=["asset", "valid_to"], condition=models.Q(valid_to__isnull=False), name="install_closed_asset"
            ),
            models.Index(
                fields=["valid_from", "asset", "listing", "release", "valid_to"],
                condition=models.Q(initial=False),
                name="install_begun",
            ),
            models.Index(
                fields=["valid_to", "asset", "release"],
                condition=models.Q(valid_to__isnull=False),
                name="install_ended",
            ),
        ]
