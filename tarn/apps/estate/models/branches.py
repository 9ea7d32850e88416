"""The trees that places, departments and holders stand in."""

from django.db import models


class Branch(models.Model):
    """That one place, department or person lies under another; `under` is empty for one at the top.

    It stands beside the evidence and not in it: a tree that is put in order holds for past days as well.
    """

    field = models.CharField(max_length=20, help_text="place, department or person")
    name = models.CharField(max_length=300)
    under = models.CharField(max_length=300, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["field", "name"], name="branch_once")]

    def __str__(self) -> str:
        return self.name
