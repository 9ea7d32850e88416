"""Credentials and their trials over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router, Schema, Status

from tarn.apps.discovery.credentials import change as credential_actions
from tarn.apps.discovery.credentials import given_passwords
from tarn.apps.discovery.credentials import shown as reads
from tarn.apps.discovery.credentials import trials as trial_actions
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.credentials.jobs import run_known_passwords
from tarn.apps.discovery.credentials.results import AcceptedKeyOut, CredentialOut, KnownPasswordTries, TrialOut
from tarn.apps.discovery.models import Credential, Trial
from tarn.apps.people.answers import or_404
from tarn.apps.people.scope import visible

router = Router(tags=["credentials"])


class SecretIn(Schema):
    secrets: dict[str, str]


class TrialIn(Schema):
    credential: int
    address: str
    route: str = "direct"
    outpost: int | None = None


@router.get("/credentials", response=list[CredentialOut])
def credentials(request: HttpRequest) -> list[CredentialOut]:
    """Return all credentials; their secrets are never returned."""
    return reads.credentials()


@router.post("/credentials", response=CredentialOut)
def new_credential(request: HttpRequest, data: CredentialIn) -> CredentialOut:
    """Make a credential."""
    return reads.credential(credential_actions.make_credential(request.user, data, data.secrets))


@router.put("/credentials/{number}", response=CredentialOut)
def edit_credential(request: HttpRequest, number: int, data: CredentialIn) -> CredentialOut:
    """Change a credential; secrets not given stay as they are."""
    change = credential_actions.change_credential
    return reads.credential(
        or_404(Credential, lambda n: change(request.user, n, data.version, data, data.secrets), number)
    )


@router.delete("/credentials/{number}", response={204: None})
def end_credential(request: HttpRequest, number: int) -> Status[None]:
    """Drop a credential. This cannot be undone."""
    or_404(Credential, lambda n: credential_actions.drop_credential(request.user, n), number)
    return Status(204, None)


@router.post("/credentials/{number}/tries", response=KnownPasswordTries)
def try_known_password(request: HttpRequest, number: int) -> KnownPasswordTries:
    """Have a password that everybody knows tried on the devices that are due."""
    made = or_404(Credential, lambda n: given_passwords.try_everywhere(request.user, n), number)
    run_known_passwords([t.pk for t in made])
    return {"devices": len(made)}


@router.post("/credentials/{number}/secret", response=CredentialOut)
def renew_secret(request: HttpRequest, number: int, data: SecretIn) -> CredentialOut:
    """Replace a credential's secret, and nothing else."""
    renew = credential_actions.renew_secret
    return reads.credential(or_404(Credential, lambda n: renew(request.user, n, data.secrets), number))


@router.post("/trials", response=TrialOut)
def new_trial(request: HttpRequest, data: TrialIn) -> TrialOut:
    """Try a credential at an address; ask for the trial again until its state is done."""
    start = trial_actions.start_trial
    return reads.trial(
        or_404(Credential, lambda n: start(request.user, n, data.address, data.route, data.outpost), data.credential)
    )


@router.get("/trials/{number}", response=TrialOut)
def one_trial(request: HttpRequest, number: int) -> TrialOut:
    """Return a trial with the steps done so far."""
    return reads.trial(
        or_404(Trial, lambda n: visible(Trial).select_related("credential", "outpost").get(pk=n), number)
    )


@router.post("/trials/{number}/key", response=AcceptedKeyOut)
def accept_key(request: HttpRequest, number: int) -> AcceptedKeyOut:
    """Accept the key a trial met, where it is another than the address presented before."""
    trial = or_404(Trial, lambda n: visible(Trial).get(pk=n), number)
    return {"address": trial.address, "fingerprint": trial_actions.accept_key(request.user, number)}
