"""Labels that were printed, and what they say to whoever finds a device. Times are whole seconds since 1970 in UTC."""

from django.db import models

from tarn.apps.people.naming import Named


class Label(models.Model):
    """A label of a device. It hangs on a document of the device's evidence, and goes where that goes when devices are
    merged or parted. `printed`: how often; `lost_at`: since when it counts as lost: its code leads on, but is not
    printed again."""

    code = models.CharField(max_length=20, unique=True)
    anchor = models.CharField(max_length=64)
    number = models.CharField(max_length=20, help_text="the device's number when it was printed")
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()
    printed = models.IntegerField(default=0)
    printed_at = models.BigIntegerField(null=True)
    lost_at = models.BigIntegerField(null=True)
    lost_by = models.CharField(max_length=150, blank=True)

    class Meta:
        indexes = [models.Index(fields=["anchor"], name="label_of")]

    def __str__(self) -> str:
        return f"{self.number} {self.code}"


class LabelWords(models.Model):
    """What labels say beside a device's number, and what the page says that a finder is led to: one row."""

    company = models.CharField(max_length=80, blank=True)
    phone = models.CharField(max_length=40, blank=True)
    words = models.CharField(max_length=300, blank=True)
    version = models.IntegerField(default=1)

    def __str__(self) -> str:
        return self.company


class NumberScheme(Named):
    """How the company numbers devices of some kinds (of none: all others): a prefix, figures, and what checks them."""

    kinds = models.JSONField(default=list)
    prefix = models.CharField(max_length=12, blank=True)
    digits = models.IntegerField(default=5)
    check_kind = models.CharField(max_length=12, default="none")
    next = models.BigIntegerField(default=1)

    class Meta(Named.Meta):
        pass
