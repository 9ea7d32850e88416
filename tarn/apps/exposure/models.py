"""Tables of exposure. Times are whole seconds since 1970 in UTC; an open end is NULL.

Documents are kept as they came. What follows from them (vulnerabilities, what is told of each, statuses) has one
writer, `deriving`, and can be made anew from documents, decisions and evidence; it names nothing of the estate by
number, so that a rebuild of that leaves it alone.
"""

from django.conf import settings
from django.db import models


class Feed(models.Model):
    """A source of advisories. `state`: what it remembers between runs, as a mirror's marks of what it gave last."""

    name = models.CharField(max_length=120, unique=True)
    kind = models.CharField(max_length=40)
    settings = models.JSONField(default=dict)
    route = models.CharField(max_length=20, default="direct")
    schedule = models.CharField(max_length=60, blank=True)
    next_at = models.BigIntegerField(null=True)
    loss_share = models.IntegerField(default=20)
    state = models.JSONField(default=dict)
    version = models.IntegerField(default=1)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class FeedRun(models.Model):
    """One reading of a feed: what it came to, what was refused and why, and what waits for a person's yes."""

    feed = models.ForeignKey(Feed, models.CASCADE, related_name="runs")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    state = models.CharField(max_length=10, default="waiting")
    made_at = models.BigIntegerField()
    beat = models.BigIntegerField(null=True)
    ended_at = models.BigIntegerField(null=True)
    counts = models.JSONField(default=dict)
    faults = models.JSONField(default=list, help_text="what was refused or left aside: place, rule")
    message = models.TextField(blank=True)
    loss = models.JSONField(null=True, help_text="what it would take back beyond the feed's share, waiting for a yes")

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["feed", "-id"], name="feed_run_latest")]


class Content(models.Model):
    """A document's octets as they came, compressed, under their SHA-256."""

    hash = models.BinaryField(primary_key=True, max_length=32)
    body = models.BinaryField()


class Document(models.Model):
    """One version of a document of a feed, from when to when it was the one that stood."""

    feed = models.ForeignKey(Feed, models.PROTECT, db_index=False, db_constraint=False)
    format = models.CharField(max_length=20)
    name = models.CharField(max_length=400)
    hash = models.BinaryField(max_length=32)
    by = models.CharField(max_length=200, blank=True)
    word = models.CharField(max_length=12)
    dated = models.BigIntegerField(null=True)
    begins = models.BigIntegerField()
    ends = models.BigIntegerField(null=True)
    warnings = models.JSONField(default=list)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["feed", "format", "name"], condition=models.Q(ends=None), name="document_open_once"
            )
        ]
        indexes = [models.Index(fields=["name"], name="document_name")]

    def __str__(self) -> str:
        return f"{self.format} {self.name}"


class Vulnerability(models.Model):
    """One vulnerability, under the best known of its names."""

    name = models.CharField(max_length=200, unique=True)

    def __str__(self) -> str:
        return self.name


class Alias(models.Model):
    """A name a vulnerability is known by."""

    name = models.CharField(max_length=200, primary_key=True)
    vulnerability = models.ForeignKey(Vulnerability, models.CASCADE, related_name="aliases")


class Telling(models.Model):
    """What a version of a document tells of one vulnerability."""

    document = models.ForeignKey(Document, models.CASCADE, related_name="tellings")
    vulnerability = models.ForeignKey(Vulnerability, models.CASCADE, related_name="tellings")
    title = models.TextField(blank=True)
    text = models.TextField(blank=True)
    published = models.BigIntegerField(null=True)
    withdrawn = models.BigIntegerField(null=True)
    used = models.BooleanField(default=False)
    more = models.JSONField(default=dict, help_text="scores, weaknesses, remedies, links")


class StatementRow(models.Model):
    """One statement of a telling, under the keys that what is here is looked up by. `body` is a core Statement."""

    telling = models.ForeignKey(Telling, models.CASCADE, related_name="statements")
    vulnerability = models.ForeignKey(Vulnerability, models.CASCADE, related_name="+")
    key = models.CharField(max_length=400)
    loose = models.CharField(max_length=400)
    body = models.TextField()

    class Meta:
        indexes = [
            models.Index(fields=["key"], name="statement_key"),
            models.Index(fields=["loose"], name="statement_loose"),
        ]


class Chance(models.Model):
    """The chance that a vulnerability is used within 30 days, as published, from when to when."""

    name = models.CharField(max_length=200)
    chance = models.FloatField()
    percentile = models.FloatField()
    begins = models.BigIntegerField()
    ends = models.BigIntegerField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["name"], condition=models.Q(ends=None), name="chance_open_once")]


class Use(models.Model):
    """That a vulnerability stood on a list of those in use, from when to when; `since` as the list says."""

    feed = models.ForeignKey(Feed, models.PROTECT, db_constraint=False)
    name = models.CharField(max_length=200)
    since = models.BigIntegerField()
    action = models.TextField(blank=True)
    ransom = models.BooleanField(default=False)
    begins = models.BigIntegerField()
    ends = models.BigIntegerField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["feed", "name"], condition=models.Q(ends=None), name="use_open_once")
        ]


class Thing(models.Model):
    """Something here that statements may be about, by its own words: a release as it stands on a system, a system, a
    model, a component `within` a product (part c; `package` is its key outside). Kept for good, so that the past stays
    told."""

    part = models.CharField(max_length=1)
    package = models.CharField(max_length=300, blank=True)
    product = models.CharField(max_length=300)
    maker = models.CharField(max_length=300, blank=True)
    version = models.CharField(max_length=500, blank=True)
    order = models.CharField(max_length=10, blank=True)
    distribution = models.CharField(max_length=100, blank=True)
    release = models.CharField(max_length=100, blank=True)
    platform = models.CharField(max_length=40, blank=True)
    hardware = models.CharField(max_length=40, blank=True)
    edition = models.CharField(max_length=60, blank=True)
    within = models.CharField(max_length=300, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=[
                    "part", "package", "product", "maker", "version", "order",
                    "distribution", "release", "platform", "hardware", "edition", "within",
                ],
                name="thing_once",
            )
        ]  # fmt: skip

    def __str__(self) -> str:
        return f"{self.package or self.product} {self.version}".strip()


class ComponentTold(models.Model):
    """A component of a product or device, as a bill of materials tells it: what it is of, and the component's own key,
    name and version."""

    document = models.ForeignKey(Document, models.CASCADE)
    of_key = models.CharField(max_length=400)
    of_version = models.CharField(max_length=500, blank=True)
    key = models.CharField(max_length=400)
    name = models.CharField(max_length=300)
    version = models.CharField(max_length=500, blank=True)
    order = models.CharField(max_length=10, blank=True)


class OutsideName(models.Model):
    """What people say a product is called outside: `key` as core.exposure.outside makes it; empty: nobody knows it."""

    product = models.CharField(max_length=300)
    maker = models.CharField(max_length=300, blank=True)
    key = models.CharField(max_length=400, blank=True)
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["product", "maker", "key"], name="outside_name_once")]

    def __str__(self) -> str:
        return f"{self.product}: {self.key or 'nobody knows it'}"


class Status(models.Model):
    """How a thing stands to a vulnerability, from when to when that was known. `statement`: the one believed."""

    thing = models.ForeignKey(Thing, models.CASCADE, db_index=False)
    vulnerability = models.ForeignKey(Vulnerability, models.CASCADE, db_index=False)
    status = models.SmallIntegerField(help_text="its place in core.exposure.told.STATUSES")
    sure = models.SmallIntegerField()
    needs = models.BooleanField(default=False)
    statement = models.BigIntegerField()
    begins = models.BigIntegerField()
    ends = models.BigIntegerField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["vulnerability", "thing"], condition=models.Q(ends=None), name="status_open_once"
            )
        ]
        indexes = [models.Index(fields=["thing", "vulnerability"], name="status_thing")]


class SupportTold(models.Model):
    """An end of support as a document tells it, under the keys that what is here is looked up by. `body`: a core
    Statement that the versions it is of are affected."""

    document = models.ForeignKey(Document, models.CASCADE)
    key = models.CharField(max_length=400, db_index=True)
    loose = models.CharField(max_length=400, db_index=True)
    body = models.TextField()
    ends = models.BigIntegerField()
    link = models.TextField(blank=True)


class OwnRule(models.Model):
    """A rule of the company: whatever fits its filter is a finding. `days`: its promise, where it is another than its
    grade's; `key`: which of those that ship it is; `settled_at`: up to which moment its spans are settled, and `stamp`
    how what it rests on stood then."""

    name = models.CharField(max_length=120, unique=True)
    filter = models.TextField()
    grade = models.CharField(max_length=12)
    days = models.IntegerField(null=True)
    verb = models.CharField(max_length=12)
    what = models.CharField(max_length=120)
    todo = models.TextField(blank=True)
    key = models.CharField(max_length=40, blank=True)
    in_force = models.BooleanField(default=True)
    made_by = models.CharField(max_length=150, blank=True)
    made_at = models.BigIntegerField()
    version = models.IntegerField(default=1)
    settled_at = models.BigIntegerField(null=True)
    stamp = models.TextField(blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class OwnSpan(models.Model):
    """That a device fitted a rule from when to when. Derived; written by `own.deriving` alone."""

    rule = models.ForeignKey(OwnRule, models.CASCADE, related_name="spans", db_index=False)
    asset = models.BigIntegerField()
    begins = models.BigIntegerField()
    ends = models.BigIntegerField(null=True)

    class Meta:
        indexes = [models.Index(fields=["rule", "ends"], name="own_span_rule")]


class GradingPolicy(models.Model):
    """How findings are graded and by when grades are to be ended; the latest stands from when it was made."""

    tree = models.JSONField()
    days = models.JSONField()
    working = models.BooleanField(default=False)
    holidays = models.JSONField(default=list)
    made_by = models.CharField(max_length=150, blank=True)
    made_at = models.BigIntegerField()


class ChangeWord(models.Model):
    """What people say of a proposed change, by its key: that it goes first, or is not to be made."""

    key = models.CharField(max_length=400)
    word = models.CharField(max_length=10)
    reason = models.TextField(blank=True)
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()
    ended_at = models.BigIntegerField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["key"], condition=models.Q(ended_at=None), name="change_word_once")
        ]


class GivenWork(models.Model):
    """A proposed change given to be done: to a person by a day, as a ticket, or as a task. How far it is follows from
    evidence: what of `filter` is still open on the devices it was given for."""

    key = models.CharField(max_length=400)
    what = models.CharField(max_length=300)
    filter = models.TextField()
    how = models.CharField(max_length=10)
    person = models.CharField(max_length=200, blank=True)
    day = models.DateField(null=True)
    reference = models.CharField(max_length=120, blank=True)
    words = models.TextField(blank=True)
    assets = models.JSONField(default=list, help_text="numbers of the devices it was given for")
    open_then = models.IntegerField()
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()
    ended_at = models.BigIntegerField(null=True)

    class Meta:
        ordering = ["-pk"]


class Acceptance(models.Model):
    """That what is open is accepted for a while: of an advisory or a rule of our own, on the devices a filter asks for,
    of one product where it is named. It counts from `begins`; without that it waits for a second person."""

    vulnerability = models.ForeignKey(Vulnerability, models.CASCADE, null=True)
    rule = models.ForeignKey(OwnRule, models.CASCADE, null=True)
    product = models.CharField(max_length=300, blank=True)
    filter = models.TextField(blank=True)
    reason = models.TextField()
    grade = models.CharField(max_length=12)
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()
    approved_by = models.CharField(max_length=150, blank=True)
    begins = models.BigIntegerField(null=True)
    until = models.BigIntegerField()
    ended_at = models.BigIntegerField(null=True)
    ended_by = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ["-pk"]
