"""Administrators and protection over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.software import administrators_and_protection as reads

router = Router(tags=["software"])
COMPUTERS = "kind in (server, workstation, laptop, kiosk, till, hypervisor)"
"""What these views ask of where nothing narrower is asked."""


class AdministratorOut(Schema):
    name: str
    kind: str
    person: str
    members: list[str]
    devices: int
    filter: str
    approved: bool


class AdministratorsOut(Schema):
    rows: list[AdministratorOut]
    phrase: str
    devices: int
    unread: int


class FigureOut(Schema):
    """A number of devices and the filter that opens them."""

    devices: int
    filter: str


class ProtectionStateOut(FigureOut):
    label: str


class ProtectionProductOut(Schema):
    name: str
    there: FigureOut
    on: FigureOut
    current: FigureOut


class ProtectionOut(Schema):
    devices: int
    states: list[ProtectionStateOut]
    none: FigureOut
    unread: FigureOut
    two: FigureOut
    products: list[ProtectionProductOut]


@router.get("/software/administrators", response=AdministratorsOut)
def administrators(request: HttpRequest, filter: str = "", as_of: str | None = None) -> Any:
    """Return who may act as administrator on the computers of a selection, approved or not, groups with members."""
    return reads.administrators(question(filter or COMPUTERS, read_dial(as_of)))


@router.get("/software/protection", response=ProtectionOut)
def protection(request: HttpRequest, filter: str = "", as_of: str | None = None) -> Any:
    """Return how the computers of a selection are protected."""
    return reads.protection(question(filter or COMPUTERS, read_dial(as_of)))
