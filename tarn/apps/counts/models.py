"""Stock-taking: what was expected where, and what was met. Times are whole seconds since 1970 in UTC.

Both hang on documents of a device's evidence, so that they go where that goes when devices are merged or parted.
"""

from django.db import models

from tarn.apps.people.naming import Named


class Count(Named):
    """A stock-taking. `counters`: who counts a place, by its name; `sample`: where not all are looked at, the
    confidence, the tolerance, of how many were drawn and by which seed. What it says is settled once it is closed: the
    bytes of its protocol are kept."""

    filter = models.TextField(blank=True)
    counters = models.JSONField(default=dict)
    sample = models.JSONField(null=True)
    state = models.CharField(max_length=8, default="open", help_text="open, closed or given up")
    ended_at = models.BigIntegerField(null=True)
    ended_by = models.CharField(max_length=150, blank=True)
    protocol = models.BinaryField(default=b"")

    class Meta(Named.Meta):
        ordering = ["-pk"]

    @property
    def number(self) -> str:
        """How people call it."""
        return f"C-{self.pk:04}"


class Expected(models.Model):
    """A device a count expects, as it was when the count was opened. `settled`: what was done about its not being
    there, in words."""

    count = models.ForeignKey(Count, models.CASCADE, related_name="expected")
    anchor = models.CharField(max_length=64)
    number = models.CharField(max_length=20)
    name = models.CharField(max_length=300, blank=True)
    serial = models.CharField(max_length=300, blank=True)
    kind = models.CharField(max_length=40, blank=True)
    model = models.CharField(max_length=300, blank=True)
    place = models.CharField(max_length=300, blank=True)
    person = models.CharField(max_length=300, blank=True)
    state = models.CharField(max_length=12, blank=True, help_text="what the count says, once it is closed")
    settled = models.CharField(max_length=300, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["count", "anchor"], name="expected_once")]


class Met(models.Model):
    """Something met in a count: a code that was scanned, words that were typed, or a tick. `key` is given by the device
    that notes it, so that what is sent twice is noted once; `anchor`: a document of the device it is, empty where no
    device is known; `clock_off`: by how many seconds the clock was wrong that told when."""

    count = models.ForeignKey(Count, models.CASCADE, related_name="met")
    key = models.CharField(max_length=40)
    how = models.CharField(max_length=6, help_text="scan, typed or tick")
    code = models.CharField(max_length=300)
    anchor = models.CharField(max_length=64, blank=True)
    place = models.CharField(max_length=300, blank=True)
    at = models.BigIntegerField()
    received_at = models.BigIntegerField()
    clock_off = models.IntegerField(default=0)
    by = models.CharField(max_length=150)
    note = models.CharField(max_length=1_000, blank=True)
    state = models.CharField(max_length=12, blank=True, help_text="what the count says, once it is closed")
    settled = models.CharField(max_length=300, blank=True)
    taken_back_by = models.CharField(max_length=150, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["count", "key"], name="met_once")]
        indexes = [models.Index(fields=["count", "anchor"], name="met_of")]
