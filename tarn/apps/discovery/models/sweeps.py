"""Networks, credentials, sweeps, and how far each address got in each run."""

from django.conf import settings
from django.db import models

from tarn.apps.discovery.models.shared import once, owner
from tarn.core.reach import Reach, read_reach


class Outpost(models.Model):
    """A collector in networks that Tarn cannot reach; only the SHA-256 of its token is kept."""

    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made_at = models.BigIntegerField()
    withdrawn_at = models.BigIntegerField(null=True)
    last_seen = models.BigIntegerField(null=True)
    release = models.CharField(max_length=40, blank=True)
    trouble = models.CharField(max_length=300, blank=True, help_text="why it was refused when it last asked")
    skew = models.FloatField(default=0.0, help_text="seconds its clock is ahead of ours")
    kept = models.IntegerField(default=0, help_text="hand-ins it could not send yet")
    handed = models.BigIntegerField(default=0, help_text="addresses it has looked at")
    organisation = owner()

    scope_path = "organisation"

    class Meta:
        constraints = [once("outpost_once", "name")]

    def __str__(self) -> str:
        return self.name


class Network(models.Model):
    """A network range of the company: the place it serves and how gently it is probed."""

    range = models.CharField(max_length=100)
    name = models.CharField(max_length=120)
    place = models.CharField(max_length=120, blank=True)
    never_probe = models.BooleanField(default=False)
    outside = models.BooleanField(default=False, help_text="whether it can be reached from outside the company")
    at_once = models.IntegerField(default=256, help_text="devices of this network in flight at once")
    pause_ms = models.IntegerField(default=0, help_text="pause between two devices, in milliseconds")
    quiet = models.CharField(max_length=200, blank=True, help_text="when maintenance begins: a recurrence rule")
    quiet_minutes = models.IntegerField(default=0, help_text="how long maintenance lasts")
    outposts = models.ManyToManyField(Outpost, blank=True, help_text="reached through these, and from nowhere else")
    organisation = owner()

    scope_path = "organisation"

    class Meta:
        constraints = [once("network_once", "range")]

    def __str__(self) -> str:
        return f"{self.range} {self.name}"


class Credential(models.Model):
    """A credential. `sealed` is the secret, encrypted; it never leaves the server."""

    name = models.CharField(max_length=80)
    protocol = models.CharField(max_length=10, help_text="snmp-v1, snmp-v2c, snmp-v3, ssh, winrm, ldap or http")
    port = models.IntegerField()
    timeout = models.FloatField(default=5.0, help_text="seconds")
    user = models.CharField(max_length=80, blank=True)
    auth = models.CharField(
        max_length=10,
        blank=True,
        help_text="SNMP v3: its hash; WinRM: ntlm, basic …; HTTP: basic, bearer, header",
    )
    privacy = models.CharField(max_length=10, blank=True, help_text="SNMP v3: aes128, aes256 or des")
    plain = models.BooleanField(default=False, help_text="without TLS")
    verify = models.BooleanField(default=False, help_text="the server's certificate must be one we trust")
    places = models.JSONField(default=list, help_text="places it may be used for; empty: all")
    reach = models.JSONField(default=list, help_text="addresses, networks and hosts where it may be used (core.reach)")
    outposts = models.ManyToManyField("discovery.Outpost", help_text="outposts it may be handed to")
    acts = models.BooleanField(default=False, help_text="tasks may be run with it; if not, it only reads")
    known_to_all = models.BooleanField(
        default=False, help_text="a password everybody knows: it is tried whether it is let in, and nothing is read"
    )
    refusals = models.IntegerField(default=0, help_text="refusals of its directory account since it was let in")
    sealed = models.BinaryField()
    preference = models.IntegerField(default=100)
    version = models.IntegerField(default=1)
    organisation = owner()

    scope_path = "organisation"

    class Meta:
        constraints = [once("credential_once", "name")]
        ordering = ["preference", "name"]

    def __str__(self) -> str:
        return self.name

    @property
    def where(self) -> Reach:
        """Where it may be used, as it is reckoned with."""
        return read_reach(tuple(self.reach))


class Worked(models.Model):
    """A credential that was let in at an address: the next sweep tries it first."""

    address = models.CharField(max_length=50)
    credential = models.CharField(max_length=80)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["address", "credential"], name="worked_once")]

    def __str__(self) -> str:
        return f"{self.credential} at {self.address}"


class Trial(models.Model):
    """A credential tried at one address; `steps` grows as they are done."""

    credential = models.ForeignKey(Credential, models.CASCADE)
    address = models.CharField(max_length=50)
    route = models.CharField(max_length=10)
    outpost = models.ForeignKey(Outpost, models.CASCADE, null=True, help_text="who tries it; none: Tarn itself")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made_at = models.BigIntegerField()
    ended_at = models.BigIntegerField(null=True)
    state = models.CharField(max_length=10, default="waiting")
    steps = models.JSONField(default=list)

    scope_path = "credential__organisation"

    def __str__(self) -> str:
        return f"trial of {self.credential_id} at {self.address}"


class AcceptedKey(models.Model):
    """A host key a person accepted at an address, for the machine there was set up anew."""

    address = models.CharField(max_length=50)
    fingerprint = models.CharField(max_length=100)
    accepted_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    accepted_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["address", "fingerprint"], name="accepted_key_once")]

    def __str__(self) -> str:
        return f"{self.fingerprint} at {self.address}"


class Sweep(models.Model):
    """A source of the kind sweep: where to look, with what."""

    name = models.CharField(max_length=120)
    ranges = models.JSONField(default=list)
    exclusions = models.JSONField(default=list)
    protocols = models.JSONField(default=list, help_text="of snmp, ssh, tls")
    credentials = models.ManyToManyField(Credential, blank=True)
    route = models.CharField(max_length=10, default="direct")
    at_once = models.IntegerField(default=256)
    patience = models.FloatField(default=1.5, help_text="seconds to wait for a first answer")
    schedule = models.CharField(max_length=200, blank=True, help_text="a recurrence rule (RFC 5545); empty: by hand")
    next_at = models.BigIntegerField(null=True, help_text="the next start by its schedule")
    minutes = models.IntegerField(null=True, help_text="a run is stopped after so many minutes")
    version = models.IntegerField(default=1)
    organisation = owner()

    scope_path = "organisation"

    class Meta:
        constraints = [once("sweep_once", "name")]

    def __str__(self) -> str:
        return self.name


class Run(models.Model):
    """One sweep over its ranges. `tick` rises with every change of an address, for live progress."""

    sweep = models.ForeignKey(Sweep, models.CASCADE)
    state = models.CharField(max_length=10, default="waiting")
    wish = models.CharField(max_length=10, blank=True, help_text="what a person asked for: pause or stop")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made_at = models.BigIntegerField()
    started_at = models.BigIntegerField(null=True)
    ended_at = models.BigIntegerField(null=True)
    beat = models.BigIntegerField(default=0, help_text="the worker's last sign of life")
    at_work = models.BooleanField(default=False, help_text="a worker is at it; if not, only outposts are")
    tick = models.BigIntegerField(default=0)
    stage = models.IntegerField(default=0)
    total = models.IntegerField(default=0)
    message = models.TextField(blank=True)

    scope_path = "sweep__organisation"

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"run {self.pk} of {self.sweep_id}"


class Lease(models.Model):
    """Addresses of a run that an outpost is at; theirs until it ends, or until the outpost is found to be gone."""

    key = models.CharField(max_length=32, unique=True)
    run = models.ForeignKey(Run, models.CASCADE)
    outpost = models.ForeignKey(Outpost, models.CASCADE)
    made_at = models.BigIntegerField()
    ends = models.BigIntegerField()

    def __str__(self) -> str:
        return f"lease of {self.outpost_id} in run {self.run_id}"


class RunAddress(models.Model):
    """How far one address got in one run."""

    run = models.ForeignKey(Run, models.CASCADE, db_index=False)
    position = models.IntegerField()
    address = models.CharField(max_length=50)
    network = models.ForeignKey(Network, models.SET_NULL, null=True, help_text="where only outposts reach it")
    lease = models.ForeignKey(Lease, models.SET_NULL, null=True)
    outpost = models.CharField(max_length=80, blank=True, help_text="the outpost that looked at it")
    stage = models.IntegerField(default=0)
    outcome = models.CharField(max_length=12, default="waiting")
    code = models.CharField(max_length=20, blank=True)
    reason = models.TextField(blank=True)
    remedy = models.TextField(blank=True)
    credential = models.CharField(max_length=80, blank=True)
    taken_for = models.CharField(max_length=200, blank=True)
    met = models.JSONField(default=dict, help_text="what the reason speaks of: credential, protocol, section")
    ports = models.JSONField(default=list)
    offers = models.JSONField(default=list, help_text="the collectors it was offered to, and what came of each")
    only = models.CharField(max_length=10, blank=True, help_text="the one collector it is read again by")
    asset_id = models.BigIntegerField(null=True)
    took_ms = models.IntegerField(null=True)
    tick = models.BigIntegerField(default=0)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "address"], name="run_address_once")]
        indexes = [
            models.Index(fields=["run", "tick"], name="run_tick"),
            models.Index(fields=["asset_id"], condition=models.Q(asset_id__isnull=False), name="run_asset"),
        ]
