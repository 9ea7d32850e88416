"""Tokens for scripts and the audit trail. People are Django's own users; roles are its groups."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Coalesce, Lower


class Organisation(models.Model):
    """One of several companies that live in one Tarn. Its name stands in evidence, so it is never changed."""

    name = models.CharField(max_length=120, unique=True)
    made_at = models.BigIntegerField()

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Limit(models.Model):
    """That a person sees and does only what is of this organisation; without any they see all."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    organisation = models.ForeignKey(Organisation, models.CASCADE)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "organisation"], name="limit_once")]

    def __str__(self) -> str:
        return f"{self.user_id} to {self.organisation_id}"


class Person(models.Model):
    """A person of the company, as one source knows them: who may hold devices. Times are seconds since 1970."""

    source = models.CharField(max_length=120)
    key = models.CharField(max_length=300)
    name = models.CharField(max_length=300, db_index=True)
    email = models.CharField(max_length=300, blank=True)
    department = models.CharField(max_length=300, blank=True)
    title = models.CharField(max_length=300, blank=True)
    groups = models.JSONField(default=list)
    account = models.CharField(max_length=300, blank=True, help_text="the name they sign in by, without its domain")
    organisation = models.ForeignKey(Organisation, models.CASCADE, null=True)
    joined_at = models.BigIntegerField(help_text="when the source first told of them")
    left_at = models.BigIntegerField(null=True, help_text="since when they are no longer active there")
    last_sync = models.BigIntegerField()

    scope_path = "organisation"

    class Meta:
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "source", "key", name="person_once")]
        indexes = [models.Index(Lower("account"), name="person_by_account")]
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class ApiToken(models.Model):
    """A token for scripts; only its SHA-256 is kept."""

    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    scope = models.CharField(max_length=10, default="all", help_text="read, evidence or all (people.actions.tokens)")
    made_at = models.BigIntegerField()
    expires_at = models.BigIntegerField(null=True)
    used_at = models.BigIntegerField(null=True)
    withdrawn_at = models.BigIntegerField(null=True)

    def __str__(self) -> str:
        return self.name


class FailedSignIn(models.Model):
    """A sign-in that failed. `at` is in seconds since 1970; `forgiven` once its person has signed in since."""

    at = models.FloatField(db_index=True)
    name = models.CharField(max_length=150)
    address = models.CharField(max_length=50)
    forgiven = models.BooleanField(default=False)

    def __str__(self) -> str:
        return f"{self.name} from {self.address}"


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


class Reader(models.Model):
    """In which language somebody reads Tarn and its letters; whoever has said nothing, as their browser asks for."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE)
    language = models.CharField(max_length=8)

    def __str__(self) -> str:
        return f"{self.user_id} in {self.language}"
