"""What people keep with an asset: dated notes and files."""

from django.db import models


class Paper(models.Model):
    """A note, a file, or both. It hangs on a sighting, not on the asset: so it goes where a merge or split takes that.

    The file's content lies in the folder of papers, under its SHA-256.
    """

    anchor = models.CharField(max_length=80, db_index=True, help_text="the document of a sighting of the asset")
    text = models.TextField(blank=True)
    file_name = models.CharField(max_length=200, blank=True)
    sha256 = models.CharField(max_length=64, blank=True)
    size = models.BigIntegerField(default=0)
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()
    removed_at = models.BigIntegerField(null=True)

    def __str__(self) -> str:
        return self.file_name or self.text[:40]
