"""Administrators and protection over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.software import administrators_and_protection as reads
from tarn.apps.estate.software.results import (
    AdministratorsOut,
    ProtectionOut,
)

router = Router(tags=["software"])
COMPUTERS = "kind in (server, workstation, laptop, kiosk, till, hypervisor)"
"""What these views ask of where nothing narrower is asked."""


@router.get("/software/administrators", response=AdministratorsOut)
def administrators(request: HttpRequest, filter: str = "", as_of: str | None = None) -> AdministratorsOut:
    """Return who may act as administrator on the computers of a selection, approved or not, groups with members."""
    return reads.administrators(question(filter or COMPUTERS, read_dial(as_of)))


@router.get("/software/protection", response=ProtectionOut)
def protection(request: HttpRequest, filter: str = "", as_of: str | None = None) -> ProtectionOut:
    """Return how the computers of a selection are protected."""
    return reads.protection(question(filter or COMPUTERS, read_dial(as_of)))
