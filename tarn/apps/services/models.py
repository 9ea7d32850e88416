"""Tables of services. Times are whole seconds since 1970 in UTC."""

from django.db import models

from tarn.apps.people.naming import Named


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


class Service(Named):
    """What the company gives to people, by the devices that do it. `parts`: each a name, how many of its members it
    needs (0: all), and rules, each a filter and why; `entries`: where it is reached, an address or name and a port."""

    name = models.CharField(max_length=80)
    purpose = models.CharField(max_length=300, blank=True)
    owner = models.CharField(max_length=120, blank=True)
    deputies = models.JSONField(default=list)
    promise = models.IntegerField(null=True, help_text="back within so many minutes; none: nothing is promised")
    hours = models.CharField(max_length=120, blank=True)
    places = models.JSONField(default=list)
    importance = models.CharField(max_length=10, default="usual", help_text="high or usual")
    notes = models.TextField(blank=True)
    entries = models.JSONField(default=list)
    parts = models.JSONField(default=list)


class HandMember(models.Model):
    """A device that a person put into a part of a service beside its rules, or took out of it, and why."""

    service = models.ForeignKey(Service, models.CASCADE, related_name="by_hand")
    asset_id = models.BigIntegerField()
    part = models.CharField(max_length=80)
    out = models.BooleanField(default=False)
    why = models.CharField(max_length=300)
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()

    class Meta:
        ordering = ["part", "asset_id"]
        constraints = [models.UniqueConstraint(fields=["service", "part", "asset_id"], name="hand_member_once")]


class MemberSpan(models.Model):
    """That a device was found to be a member of a part, from when to when Tarn found it so, and why; `told`: whether
    the owner has been told that it came, and that it went."""

    service = models.ForeignKey(Service, models.CASCADE, related_name="spans")
    asset_id = models.BigIntegerField()
    part = models.CharField(max_length=80)
    because = models.CharField(max_length=500)
    valid_from = models.BigIntegerField()
    valid_to = models.BigIntegerField(null=True)
    initial = models.BooleanField(default=False, help_text="it was there when the part was first reckoned")

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["service", "part", "asset_id"],
                condition=models.Q(valid_to__isnull=True),
                name="member_span_once",
            )
        ]
        indexes = [models.Index(fields=["service", "valid_from"], name="member_span_from")]


class CarriedSpan(models.Model):
    """That a service on which much hangs stood on a device, member or not, from when to when Tarn found it so."""

    service = models.ForeignKey(Service, models.CASCADE, related_name="carried_by")
    asset_id = models.BigIntegerField()
    valid_from = models.BigIntegerField()
    valid_to = models.BigIntegerField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["service", "asset_id"], condition=models.Q(valid_to__isnull=True), name="carried_once"
            )
        ]


class Recogniser(models.Model):
    """A rule over processes by which a program is known, where its version is read, and what is one instance.

    `general`: it says what sort of program something is and not which, as those do that come with Tarn.
    """

    name = models.CharField(max_length=80, unique=True)
    rule = models.TextField()
    version = models.CharField(max_length=300, blank=True, help_text="a pattern whose first group is the version")
    instance = models.CharField(max_length=30)
    note = models.CharField(max_length=300, blank=True)
    general = models.BooleanField(default=False)
    in_force = models.BooleanField(default=True)
    made_by = models.CharField(max_length=150, blank=True)
    made_at = models.BigIntegerField()
    edition = models.IntegerField(default=1)

    class Meta:
        ordering = ["general", "name"]

    def __str__(self) -> str:
        return self.name


class ProgramWord(models.Model):
    """What people say of unknown programs: leave a group alone (`key`), or take a stem for several programs."""

    word = models.CharField(max_length=10, help_text="alone or parted")
    key = models.CharField(max_length=300, help_text="the key of a group, or the stem that is parted")
    looks = models.CharField(max_length=500)
    why = models.CharField(max_length=300, blank=True)
    made_by = models.CharField(max_length=150)
    made_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["word", "key"], name="program_word_once")]


class Inquiry(models.Model):
    """What was asked in a bad hour, kept for its notes."""

    words = models.JSONField(default=list)
    opened_by = models.CharField(max_length=150)
    opened_at = models.BigIntegerField()
    organisation = models.ForeignKey("people.Organisation", models.CASCADE, null=True)

    scope_path = "organisation"

    class Meta:
        ordering = ["-opened_at", "-pk"]

    def __str__(self) -> str:
        return ", ".join(self.words)[:200]


class InquiryNote(models.Model):
    """A note of an inquiry, with its time."""

    inquiry = models.ForeignKey(Inquiry, models.CASCADE, related_name="notes")
    at = models.BigIntegerField()
    by = models.CharField(max_length=150)
    text = models.TextField()

    class Meta:
        ordering = ["at", "pk"]
