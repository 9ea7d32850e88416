"""What the company owns of rights to use software. Days are dates; moments whole seconds since 1970 in UTC."""

from django.db import models
from django.db.models.functions import Coalesce

from tarn.apps.people.naming import Named


class Licence(Named):
    """A right to use products; how much of it is what its purchases add up to."""

    publisher = models.CharField(max_length=200, blank=True)
    metric = models.CharField(max_length=30, default="device")
    products = models.JSONField(default=list, help_text="names of the products it covers, or phrases (@office_suites)")
    release = models.CharField(max_length=60, blank=True, help_text="the release bought; empty: any")
    downgrade = models.BooleanField(default=False)
    second_device = models.BooleanField(default=False)
    guests = models.CharField(max_length=4, default="own", help_text="whose units a virtual machine needs: own, host")
    per_host = models.IntegerField(default=1, help_text="guests a unit carries")
    per_processor = models.IntegerField(default=0, help_text="fewest cores counted a processor")
    pack = models.IntegerField(default=1, help_text="units come in packs of so many")
    formula = models.CharField(max_length=200, blank=True, help_text="of a capacity unit")
    departments = models.JSONField(default=list, help_text="only devices of these; empty: the whole company")
    without_limit = models.BooleanField(default=False)
    starts = models.DateField(null=True)
    ends = models.DateField(null=True, help_text="last day of the term; none: perpetual")
    maintained_until = models.DateField(null=True)
    keys_wanted = models.BooleanField(default=False)
    transferable = models.BooleanField(default=True)
    edition = models.CharField(max_length=60, blank=True, help_text="the edition of its products; empty: any")
    shared = models.BooleanField(default=False, help_text="it also covers what other organisations use")
    cost = models.BigIntegerField(default=0, help_text="recurring, in minor units")
    cost_currency = models.CharField(max_length=3, blank=True)
    cost_every = models.CharField(max_length=10, blank=True)
    note = models.TextField(blank=True)
    tags = models.JSONField(default=list)
    extra = models.JSONField(default=dict, help_text="fields of the company's own, by name")


class PastTerms(models.Model):
    """The terms of a licence as they were before a change, up to the day they changed on, that day excluded."""

    licence = models.ForeignKey(Licence, models.CASCADE)
    until = models.DateField()
    terms = models.JSONField()

    scope_path = "licence__organisation"

    class Meta:
        ordering = ["until", "pk"]


class Purchase(models.Model):
    """A line of a purchase: so many units on a day at a price each; a negative quantity gives some back."""

    licence = models.ForeignKey(Licence, models.CASCADE)
    day = models.DateField()
    quantity = models.IntegerField()
    price = models.BigIntegerField(help_text="of one unit, in minor units")
    currency = models.CharField(max_length=3)
    order = models.CharField(max_length=80, blank=True)
    supplier = models.CharField(max_length=200, blank=True)

    scope_path = "licence__organisation"

    class Meta:
        ordering = ["day", "pk"]


class Key(models.Model):
    """A licence key: sealed, with its digest to find it again; `licence` none: nobody knows what it is for."""

    licence = models.ForeignKey(Licence, models.CASCADE)
    sealed = models.BinaryField()
    digest = models.CharField(max_length=64)
    tail = models.CharField(max_length=8, help_text="its last characters, all that is shown to most")
    activations = models.IntegerField(null=True, help_text="devices it may be activated on; none: any number")
    added_at = models.BigIntegerField()

    scope_path = "licence__organisation"

    class Meta:
        constraints = [models.UniqueConstraint(fields=["licence", "digest"], name="key_once_a_licence")]


class Pin(models.Model):
    """What a person says of one product on one device, from a day until another: covered by this licence, exempt,
    or disputed."""

    asset = models.BigIntegerField()
    product = models.CharField(max_length=300)
    says = models.CharField(max_length=10, help_text="licence, exempt or disputed")
    licence = models.ForeignKey(Licence, models.CASCADE, null=True)
    why = models.CharField(max_length=300, blank=True)
    begins = models.DateField()
    until = models.DateField(null=True, help_text="last day it holds")
    made_by = models.CharField(max_length=150)
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"


class Need(models.Model):
    """A product that may not be used without a licence, though none is held."""

    product = models.CharField(max_length=300)
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "product", name="need_once")]


class UseRecord(models.Model):
    """Somebody used a product from one moment to another: what concurrent use is reckoned from."""

    product = models.CharField(max_length=300)
    person = models.CharField(max_length=300, blank=True)
    device = models.CharField(max_length=300, blank=True)
    begins = models.BigIntegerField()
    ends = models.BigIntegerField()
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        indexes = [models.Index(fields=["product", "begins"], name="use_of_product")]


class Change(models.Model):
    """Counts the changes to anything above, so that what is reckoned knows when to be reckoned anew."""

    number = models.BigIntegerField(default=0)
