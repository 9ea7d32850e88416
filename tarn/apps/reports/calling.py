"""Calls on the web: another system told something, signed (Standard Webhooks 1.0)."""

import socket
import time

import httpx
from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.validators import URLValidator

from tarn.apps.people.actions.refusals import Invalid
from tarn.core.dialling import NotDialled, dialled
from tarn.core.signing import signature

_PATIENCE = 10.0
"""Seconds a called system has to answer."""


class NotCalled(RuntimeError):
    """A system could not be called, or refused; the message says why."""


def is_call(one: str) -> bool:
    """Whether a recipient is an address on the web that is called, and no mail."""
    return one.startswith(("https://", "http://"))


def check_call(one: str, field: str = "to") -> None:
    """Raise Invalid where an address cannot be called."""
    try:
        URLValidator(schemes=["http", "https"])(one)
    except ValidationError:
        raise Invalid(field, f"“{one}” is no address that can be called.") from None


def call(url: str, secret: str, message: str, body: bytes) -> None:
    """Call another system with a JSON document; it is not followed elsewhere. Raises NotCalled."""
    stamp = str(int(time.time()))
    headers = {
        "Content-Type": "application/json",
        "webhook-id": message,
        "webhook-timestamp": stamp,
        "webhook-signature": signature(secret, message, stamp, body),
    }
    try:
        way = dialled(url, settings.TARN_CALLS_ALLOWED, addresses_of)
    except NotDialled as error:
        raise NotCalled(str(error)) from None
    with httpx.Client(timeout=_PATIENCE, follow_redirects=False, trust_env=False) as client:
        answer = client.post(
            way.url,
            content=body,
            headers={**headers, "Host": way.host},
            extensions={"sni_hostname": way.server_name},
        )
    if not answer.is_success:
        raise NotCalled(f"{url} answered {answer.status_code} {answer.reason_phrase}")


def addresses_of(host: str, port: int) -> list[str]:
    """Return the addresses a name leads to, each once; none where it leads nowhere."""
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except socket.gaierror:
        return []
    return list(dict.fromkeys(str(entry[4][0]) for entry in found))
