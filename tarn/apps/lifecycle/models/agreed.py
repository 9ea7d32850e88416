"""What the company has agreed with others. Days are dates; moments whole seconds since 1970 in UTC."""

from django.conf import settings
from django.db import models
from django.db.models.functions import Coalesce

from tarn.apps.people.naming import Named


class Contract(Named):
    """An agreement with a provider: its term, how it goes on, what it costs, which devices it covers."""

    provider = models.CharField(max_length=200)
    kind = models.CharField(max_length=20)
    number = models.CharField(max_length=80, blank=True)
    starts = models.DateField()
    ends = models.DateField(null=True, help_text="last day of the first term; none: no end is agreed")
    renews = models.IntegerField(default=0, help_text="months it goes on each time; 0: it is over at its end")
    notice = models.IntegerField(default=0, help_text="days before the end by which notice must be given")
    notices = models.JSONField(default=list, help_text="days before the end at which people are told")
    cost = models.BigIntegerField(default=0, help_text="of one payment, in minor units")
    currency = models.CharField(max_length=3, blank=True)
    every = models.CharField(max_length=10, blank=True)
    first_payment = models.DateField(null=True)
    covers = models.TextField(blank=True, help_text="filter of the devices it covers")
    licences = models.JSONField(default=list, help_text="names of the licences it covers")
    people = models.JSONField(default=list, help_text="names of the people it covers")
    former = models.JSONField(default=list, help_text="terms as they were, each with the day they held up to")
    decided = models.CharField(max_length=10, blank=True, help_text="renew, replace, let go")
    decided_for = models.DateField(null=True, help_text="end of the term it was decided for")
    note = models.TextField(blank=True)


class Order(models.Model):
    """What was ordered of a supplier."""

    number = models.CharField(max_length=80)
    supplier = models.CharField(max_length=200)
    day = models.DateField()
    expected = models.DateField(null=True)
    note = models.TextField(blank=True)
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        ordering = ["-day", "-pk"]
        constraints = [models.UniqueConstraint(Coalesce("organisation", 0), "number", name="order_once")]


class OrderLine(models.Model):
    """So many of one model on an order, at a price each, with a warranty of so many months from the day received."""

    order = models.ForeignKey(Order, models.CASCADE)
    kind = models.CharField(max_length=60)
    manufacturer = models.CharField(max_length=200, blank=True)
    model = models.CharField(max_length=200, blank=True)
    quantity = models.IntegerField()
    price = models.BigIntegerField(help_text="of one, in minor units")
    currency = models.CharField(max_length=3)
    warranty = models.IntegerField(default=0, help_text="months")
    cost_centre = models.CharField(max_length=80, blank=True)

    scope_path = "order__organisation"

    class Meta:
        ordering = ["pk"]


class Receipt(models.Model):
    """One piece of a line that was received: its serial number and the asset it is."""

    line = models.ForeignKey(OrderLine, models.PROTECT)
    serial = models.CharField(max_length=200)
    asset = models.BigIntegerField()
    day = models.DateField()

    scope_path = "line__order__organisation"

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["line", "serial"], name="serial_once_a_line")]


class Feed(models.Model):
    """A calendar feed: whoever has its address reads what ends when, as its maker sees it."""

    digest = models.CharField(max_length=64, unique=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    made_at = models.BigIntegerField()
