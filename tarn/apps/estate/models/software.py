"""Products, their releases, and where they were installed from when to when."""

from django.db import models


class Product(models.Model):
    """A software product by the name its package has."""

    name = models.CharField(max_length=300)
    name_fold = models.CharField(max_length=300, unique=True)
    publisher = models.CharField(max_length=500, blank=True)

    def __str__(self) -> str:
        return self.name


class Release(models.Model):
    """One version of a product; `version_key` sorts as versions do."""

    product = models.ForeignKey(Product, models.CASCADE, db_index=False)
    version = models.CharField(max_length=500)
    version_key = models.CharField(max_length=2000)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["product", "version"], name="release_once")]


class InstallSpan(models.Model):
    """A release was installed on an asset from when to when, says a source."""

    asset = models.ForeignKey("estate.Asset", models.CASCADE, db_index=False, db_constraint=False)
    source = models.ForeignKey("estate.Source", models.PROTECT, db_index=False, db_constraint=False)
    product = models.ForeignKey(Product, models.PROTECT, db_index=False, db_constraint=False)
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
                fields=["product", "release", "asset", "valid_from"],
                condition=models.Q(valid_to__isnull=True),
                name="install_open_product",
            ),
            models.Index(
                fields=["product", "release", "asset", "valid_to", "valid_from"],
                condition=models.Q(valid_to__isnull=False),
                name="install_closed_product",
            ),
            models.Index(
                fields=["asset", "valid_to"], condition=models.Q(valid_to__isnull=False), name="install_closed_asset"
            ),
            models.Index(
                fields=["valid_from", "asset", "product", "release", "valid_to"],
                condition=models.Q(initial=False),
                name="install_begun",
            ),
        ]
