"""Handbooks and their issues. Times are whole seconds since 1970 in UTC."""

from django.db import models

from tarn.apps.people.naming import Named


class Handbook(Named):
    """A handbook as it is being written. `document`: nodes of core/handbooks/document.py; `place`: what it is about;
    `rule`: when it is issued by itself (RFC 5545), in the name of `made_by`; `to`: to whom issues are mailed, in which
    `formats`; `approved`: whether an issue waits for a second person; `sealed`: the secret of its calls."""

    text = models.CharField(max_length=500, blank=True)
    document = models.JSONField()
    place = models.CharField(max_length=300, blank=True)
    rule = models.CharField(max_length=200, blank=True)
    to = models.JSONField(default=list)
    formats = models.JSONField(default=list)
    approved = models.BooleanField(default=False)
    sealed = models.BinaryField(null=True)
    next_at = models.BigIntegerField(null=True)
    trouble = models.CharField(max_length=500, blank=True)

    class Meta(Named.Meta):
        pass


class Draft(models.Model):
    """A document as it was kept at a version: nothing that was written is lost."""

    handbook = models.ForeignKey(Handbook, models.CASCADE, related_name="drafts")
    version = models.IntegerField()
    document = models.JSONField()
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["handbook", "version"], name="draft_once")]


class Issue(models.Model):
    """A handbook with all its blocks filled as of one moment. It is never changed; `state`: asked until a second person
    has approved or refused it, else issued."""

    handbook = models.ForeignKey(Handbook, models.CASCADE, related_name="issues")
    number = models.IntegerField()
    at = models.BigIntegerField(help_text="the moment its blocks are of")
    title = models.CharField(max_length=200)
    document = models.JSONField(help_text="with the parts of other handbooks put in")
    filled = models.JSONField(help_text="by key of a block, what it was filled with")
    variables = models.JSONField()
    changed = models.JSONField(default=list, help_text="what differs from the issue before")
    state = models.CharField(max_length=8, default="issued", help_text="asked, issued or refused")
    asked_by = models.CharField(max_length=150)
    asked_at = models.BigIntegerField()
    decided_by = models.CharField(max_length=150, blank=True)
    decided_at = models.BigIntegerField(null=True)
    why = models.CharField(max_length=500, blank=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["handbook", "number"], name="issue_once")]

    def __str__(self) -> str:
        return f"{self.title} no. {self.number}"


class Delivery(models.Model):
    """An issue on its way to somebody by mail; what failed is tried again."""

    issue = models.ForeignKey(Issue, models.CASCADE, related_name="deliveries")
    to = models.CharField(max_length=320)
    due_at = models.BigIntegerField()
    sent_at = models.BigIntegerField(null=True)
    tries = models.IntegerField(default=0)
    trouble = models.CharField(max_length=500, blank=True)
