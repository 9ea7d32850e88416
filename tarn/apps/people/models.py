"""Tokens for scripts and the audit trail. People are Django's own users; roles are its groups."""

from django.conf import settings
from django.db import models


class ApiToken(models.Model):
    """A token for scripts; only its SHA-256 is kept."""

    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    made_at = models.BigIntegerField()
    used_at = models.BigIntegerField(null=True)
    withdrawn_at = models.BigIntegerField(null=True)

    def __str__(self) -> str:
        return self.name


class AuditEntry(models.Model):
    """Who did what to which thing, when. `undo` is the inverse where the action has one."""

    at = models.BigIntegerField(db_index=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    who = models.CharField(max_length=150)
    verb = models.CharField(max_length=40)
    thing = models.CharField(max_length=300)
    detail = models.JSONField(default=dict)
    undo = models.JSONField(null=True)
    undone_by = models.OneToOneField("self", models.SET_NULL, null=True, related_name="undoes")

    def __str__(self) -> str:
        return f"{self.who} {self.verb} {self.thing}"
