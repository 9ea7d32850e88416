"""Hooks over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.discovery.hooks import change as actions
from tarn.apps.discovery.hooks.results import HookOut, HookTakenOut, MadeOut
from tarn.apps.discovery.models import Hook
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible

router = Router(tags=["hooks"])


class HookIn(Schema):
    name: str
    organisation: int | None = None


@router.get("/hooks", response=list[HookOut])
def hooks(request: HttpRequest) -> list[HookOut]:
    """Return the hooks in force."""
    require(request.user, "credentials")
    return visible(Hook).filter(withdrawn_at=None).order_by("name")


@router.post("/hooks", response=MadeOut)
def new_hook(request: HttpRequest, data: HookIn) -> MadeOut:
    """Make a hook; this answer is the only time its secret is given."""
    made, secret = actions.make_hook(request.user, data.name, data.organisation)
    url = f"{request.scheme}://{request.get_host()}/api/inbound/{made.key}"
    return {"id": made.pk, "name": made.name, "url": url, "secret": secret}


@router.delete("/hooks/{number}", response={204: None})
def withdraw(request: HttpRequest, number: int) -> Status[None]:
    """Withdraw a hook."""
    try:
        actions.withdraw_hook(request.user, number)
    except Hook.DoesNotExist:
        raise HttpError(404, f"There is no hook {number} in force.") from None
    return Status(204, None)


@router.post("/inbound/{key}", auth=None, response=HookTakenOut)
def message(request: HttpRequest, key: str) -> HookTakenOut:
    """Take a signed message in (Standard Webhooks 1.0): a sighting, or word that a device changed."""
    return actions.take_message(key, request.headers, request.body)
