"""What Tarn notes of itself: slow answers, how full its disk was, its backups. Times are seconds since 1970."""

from django.db import models


class SlowAnswer(models.Model):
    """An answer that took longer than it should: which door, what was asked, and how long it took in seconds."""

    at = models.FloatField(db_index=True)
    door = models.CharField(max_length=120)
    asked = models.CharField(max_length=500)
    seconds = models.FloatField()
    who = models.CharField(max_length=150)

    def __str__(self) -> str:
        return f"{self.door} {self.seconds:.1f} s"


class DiskMark(models.Model):
    """How full the disk with the data was on a day (2026-11-29), in bytes, and how much of that Tarn's data was."""

    day = models.CharField(max_length=10, unique=True)
    used = models.BigIntegerField()
    whole = models.BigIntegerField()
    data = models.BigIntegerField()

    def __str__(self) -> str:
        return self.day


class Backup(models.Model):
    """A backup that was made by the clock. `checked_at`: since when it is known to be restored whole; `trouble`: why it
    could not be made or checked."""

    at = models.BigIntegerField(db_index=True)
    file = models.CharField(max_length=400)
    bytes = models.BigIntegerField(default=0)
    seconds = models.FloatField(default=0)
    checked_at = models.BigIntegerField(null=True)
    trouble = models.CharField(max_length=500, blank=True)

    def __str__(self) -> str:
        return self.file

    @classmethod
    def last_good(cls) -> "Backup | None":
        """Return the last that is known to be restored whole."""
        return cls.objects.filter(trouble="", checked_at__isnull=False).order_by("-at").first()
