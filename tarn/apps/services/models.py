"""Tables of services. Times are whole seconds since 1970 in UTC."""

from django.db import models


class Noise(models.Model):
    """Talk that says nothing of what stands on what: of a process, over a port, or both; as people have it."""

    process = models.CharField(max_length=300, blank=True)
    port = models.IntegerField(null=True)
    why = models.CharField(max_length=300)
    made_by = models.CharField(max_length=150, blank=True)
    made_at = models.BigIntegerField()

    class Meta:
        ordering = ["process", "port"]

    def __str__(self) -> str:
        return " ".join(filter(None, (self.process, f"port {self.port}" if self.port else "")))
