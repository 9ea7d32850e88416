"""Discovery over HTTP: thin; parse, call, shape."""

import asyncio
from collections.abc import AsyncIterator
from typing import Any, Literal

from asgiref.sync import sync_to_async
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.discovery import reads
from tarn.apps.discovery.actions import credentials as credential_actions
from tarn.apps.discovery.actions import runs as run_actions
from tarn.apps.discovery.actions import sweeps as sweep_actions
from tarn.apps.discovery.actions import trials as trial_actions
from tarn.apps.discovery.models import Credential, Run, Sweep, Trial
from tarn.apps.people.roles import require

router = Router(tags=["discovery"])


class CredentialIn(Schema):
    name: str
    protocol: Literal["snmp-v1", "snmp-v2c", "snmp-v3", "ssh", "winrm", "ldap", "http"]
    port: int | None = None
    timeout: float | None = None
    user: str = ""
    auth: str = ""
    privacy: str = ""
    preference: int = 100
    plain: bool = False
    verify: bool = False
    places: list[str] = []
    secrets: dict[str, str] = {}
    version: int = 0


class CredentialOut(Schema):
    id: int
    name: str
    protocol: str
    port: int
    timeout: float
    user: str
    auth: str
    privacy: str
    preference: int
    plain: bool
    verify: bool
    places: list[str]
    refusals: int
    version: int
    used_by: list[str]


class SecretIn(Schema):
    secrets: dict[str, str]


class TrialIn(Schema):
    credential: int
    address: str
    route: str = "direct"


class StepOut(Schema):
    step: str
    title: str
    verdict: str
    says: str
    advice: str
    took_ms: int


class TrialOut(Schema):
    id: int
    credential: int
    name: str
    protocol: str
    address: str
    route: str
    state: str
    made_at: int
    steps: list[StepOut]
    read_with: int
    refused: int
    refusals: int
    used_by: list[str]
    places: list[str]


class SweepIn(Schema):
    name: str
    ranges: list[str]
    exclusions: list[str] = []
    protocols: list[str] = ["snmp", "ssh", "winrm", "tls"]
    credentials: list[int] = []
    route: str = "direct"
    at_once: int = 256
    patience: float = 1.5
    schedule: str = ""
    minutes: int | None = None
    version: int = 0


class StageOut(Schema):
    name: str
    past: int
    inside: int
    total: int


class RunOut(Schema):
    id: int
    sweep: int
    name: str
    route: str
    state: str
    wish: str
    asked_by: str | None
    made_at: int
    started_at: int | None
    ended_at: int | None
    total: int
    done: int
    seconds: int
    rate: float
    remaining_seconds: int | None
    outcomes: dict[str, int]
    stages: list[StageOut]
    message: str
    tick: int


class SweepOut(Schema):
    id: int
    name: str
    ranges: list[str]
    exclusions: list[str]
    protocols: list[str]
    credentials: list[int]
    route: str
    at_once: int
    patience: float
    schedule: str
    schedule_words: str
    next_at: int | None
    minutes: int | None
    version: int
    last_run: RunOut | None


class RangesIn(Schema):
    ranges: list[str]
    exclusions: list[str] = []


class RangesOut(Schema):
    probe: int
    left_out: int
    first: str
    last: str


class NetworkOut(Schema):
    id: int
    range: str
    name: str
    place: str
    never_probe: bool
    at_once: int
    pause_ms: int


class NetworkIn(Schema):
    range: str
    name: str
    place: str = ""
    never_probe: bool = False
    at_once: int = 256
    pause_ms: int = 0


class AddressOut(Schema):
    address: str
    stage: int
    outcome: str
    code: str
    reason: str
    remedy: str
    credential: str
    taken_for: str
    ports: list[int]
    asset_id: int | None
    took_ms: int | None


class ReasonOut(Schema):
    code: str
    reason: str
    remedy: str
    count: int
    addresses: list[str]
    credential: int | None


class ComparedOut(Schema):
    run: int
    ended_at: int | None
    changes: dict[str, list[str]]


class RunPage(Schema):
    run: RunOut
    addresses: list[AddressOut]
    networks: list[NetworkOut]
    reasons: list[ReasonOut]
    compared: ComparedOut | None


class Wish(Schema):
    wish: Literal["pause", "stop", "resume"]


class Again(Schema):
    addresses: list[str]


def _or_404(what: str, find: Any, number: int) -> Any:
    try:
        return find(number)
    except (Credential.DoesNotExist, Sweep.DoesNotExist, Run.DoesNotExist, Trial.DoesNotExist):
        raise HttpError(404, f"There is no {what} {number}.") from None


@router.get("/credentials", response=list[CredentialOut])
def credentials(request: HttpRequest) -> Any:
    """Return all credentials; their secrets are never returned."""
    return reads.credentials()


@router.post("/credentials", response=CredentialOut)
def new_credential(request: HttpRequest, data: CredentialIn) -> Any:
    """Make a credential."""
    values = data.dict(exclude={"secrets", "version"})
    return reads.credential(credential_actions.make_credential(request.user, values, data.secrets))


@router.put("/credentials/{number}", response=CredentialOut)
def edit_credential(request: HttpRequest, number: int, data: CredentialIn) -> Any:
    """Change a credential; secrets not given stay as they are."""
    values = data.dict(exclude={"secrets", "version"})
    change = credential_actions.change_credential
    return reads.credential(
        _or_404("credential", lambda n: change(request.user, n, data.version, values, data.secrets), number)
    )


@router.delete("/credentials/{number}", response={204: None})
def end_credential(request: HttpRequest, number: int) -> Status[None]:
    """Drop a credential. This cannot be undone."""
    _or_404("credential", lambda n: credential_actions.drop_credential(request.user, n), number)
    return Status(204, None)


@router.post("/credentials/{number}/secret", response=CredentialOut)
def renew_secret(request: HttpRequest, number: int, data: SecretIn) -> Any:
    """Replace a credential's secret, and nothing else."""
    renew = credential_actions.renew_secret
    return reads.credential(_or_404("credential", lambda n: renew(request.user, n, data.secrets), number))


@router.post("/trials", response=TrialOut)
def new_trial(request: HttpRequest, data: TrialIn) -> Any:
    """Try a credential at an address; ask for the trial again until its state is done."""
    start = trial_actions.start_trial
    return reads.trial(
        _or_404("credential", lambda n: start(request.user, n, data.address, data.route), data.credential)
    )


@router.get("/trials/{number}", response=TrialOut)
def one_trial(request: HttpRequest, number: int) -> Any:
    """Return a trial with the steps done so far."""
    return reads.trial(_or_404("trial", lambda n: Trial.objects.select_related("credential").get(pk=n), number))


@router.get("/networks", response=list[NetworkOut])
def networks(request: HttpRequest) -> Any:
    """Return the company's networks."""
    return reads.networks()


@router.post("/networks", response=NetworkOut)
def new_network(request: HttpRequest, data: NetworkIn) -> Any:
    """Note a network: its place, its pace, or that it must never be probed."""
    return sweep_actions.make_network(request.user, data.dict())


@router.get("/sweeps", response=list[SweepOut])
def sweeps(request: HttpRequest) -> Any:
    """Return all sweeps."""
    return reads.sweeps()


@router.post("/sweeps/check", response=RangesOut)
def check_ranges(request: HttpRequest, data: RangesIn) -> Any:
    """Say what ranges come to, without saving anything."""
    found = sweep_actions.check_ranges(data.ranges, data.exclusions)
    probe = found["probe"]
    return {"probe": len(probe), "left_out": len(found["left_out"]), "first": probe[0], "last": probe[-1]}


@router.post("/sweeps", response=SweepOut)
def new_sweep(request: HttpRequest, data: SweepIn) -> Any:
    """Make a sweep."""
    return reads.sweep(sweep_actions.make_sweep(request.user, data.dict(exclude={"version"})))


@router.put("/sweeps/{number}", response=SweepOut)
def edit_sweep(request: HttpRequest, number: int, data: SweepIn) -> Any:
    """Change a sweep."""
    values = data.dict(exclude={"version"})
    return reads.sweep(
        _or_404("sweep", lambda n: sweep_actions.change_sweep(request.user, n, data.version, values), number)
    )


@router.delete("/sweeps/{number}", response={204: None})
def end_sweep(request: HttpRequest, number: int) -> Status[None]:
    """Drop a sweep and its runs; what it brought stays."""
    _or_404("sweep", lambda n: sweep_actions.drop_sweep(request.user, n), number)
    return Status(204, None)


@router.post("/sweeps/{number}/exclude", response=SweepOut)
def exclude(request: HttpRequest, number: int, data: Again) -> Any:
    """Leave addresses out of a sweep from now on; can be undone."""
    return reads.sweep(_or_404("sweep", lambda n: sweep_actions.exclude(request.user, n, data.addresses), number))


@router.post("/sweeps/{number}/runs", response=RunOut)
def start(request: HttpRequest, number: int) -> Any:
    """Start a run."""
    return reads.run_summary(_or_404("sweep", lambda n: run_actions.start_run(request.user, n), number))


@router.get("/runs", response=list[RunOut])
def runs(request: HttpRequest, under_way: bool = False) -> Any:
    """Return the latest runs, or those under way."""
    return reads.running() if under_way else reads.runs()


@router.get("/runs/{number}", response=RunPage)
def run(request: HttpRequest, number: int) -> Any:
    """Return a run with all its addresses."""
    held = _or_404("run", lambda n: Run.objects.select_related("sweep", "asked_by").get(pk=n), number)
    return reads.run_page(held)


@router.post("/runs/{number}/wish", response=RunOut)
def steer(request: HttpRequest, number: int, data: Wish) -> Any:
    """Pause, stop or resume a run."""
    return reads.run_summary(_or_404("run", lambda n: run_actions.steer(request.user, n, data.wish), number))


@router.post("/runs/{number}/again", response=RunOut)
def again(request: HttpRequest, number: int, data: Again) -> Any:
    """Have addresses of an ended run looked at again."""
    return reads.run_summary(_or_404("run", lambda n: run_actions.read_again(request.user, n, data.addresses), number))


@router.get("/runs/{number}/events")
async def events(request: HttpRequest, number: int, after: int = 0) -> StreamingHttpResponse:
    """Stream a run's progress as server-sent events: `run` (its head) and `addresses` (rows that changed)."""
    await sync_to_async(require)(request.user, "look")
    return StreamingHttpResponse(
        _events(number, after), content_type="text/event-stream", headers={"Cache-Control": "no-cache"}
    )


async def _events(number: int, tick: int) -> AsyncIterator[bytes]:
    quiet = 0.0
    while True:
        head, rows, tick = await sync_to_async(_news)(number, tick)
        if head is None:
            yield reads.to_event("gone", {})
            return
        if rows or quiet == 0.0 or quiet > 5:
            yield reads.to_event("run", head)
            quiet = 0.1
        if rows:
            yield reads.to_event("addresses", rows)
        if head["state"] in run_actions.ENDED:
            yield reads.to_event("end", head)
            return
        await asyncio.sleep(0.4)
        quiet += 0.4


def _news(number: int, tick: int) -> tuple[dict[str, Any] | None, list[dict[str, Any]], int]:
    held = Run.objects.select_related("sweep", "asked_by").filter(pk=number).first()
    if held is None:
        return None, [], tick
    rows = reads.changed_addresses(number, tick)
    return reads.run_summary(held), [reads.address_row(r) for r in rows], held.tick


@router.get("/intake")
def intake(request: HttpRequest) -> dict[str, Any]:
    """Return found devices that wait for a decision, in groups, and undecided identities."""
    return reads.intake()
