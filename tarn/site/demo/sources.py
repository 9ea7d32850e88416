"""The other systems that the demo company has."""

from typing import Any


def make_sources(organisation: int) -> None:
    """Make the other systems that the company has: a directory, device management, endpoint management."""
    from tarn.apps.discovery.credentials.change import make_credential
    from tarn.apps.discovery.credentials.inputs import CredentialIn
    from tarn.apps.discovery.models import Credential
    from tarn.apps.discovery.sources.change import make_source
    from tarn.apps.discovery.sources.inputs import SourceIn
    from tarn.collect.sources.mapped import PREPARED
    from tarn.lab import cloud, people, services, systems
    from tarn.lab.keys import public_pin

    own = {"organisation": organisation}
    nightly = "FREQ=DAILY;BYHOUR=2;BYMINUTE=0;BYSECOND=0"
    common = {"route": "lab", "schedule": nightly, **own}

    def credential(password: str, said: dict[str, Any]) -> Credential:
        return make_credential(None, CredentialIn.model_validate({**said, **own}), {"password": password})

    def source(said: dict[str, Any]) -> None:
        make_source(None, SourceIn.model_validate({**said, **common}))

    bind = credential(
        systems.BIND_PASSWORD,
        {
            "name": "harbour-directory",
            "protocol": "ldap",
            "user": systems.BIND,
            "preference": 60,
            "reach": [systems.DIRECTORY],
        },
    )
    token = credential(
        systems.DEVICES_TOKEN,
        {
            "name": "lanyard-token",
            "protocol": "http",
            "auth": "bearer",
            "preference": 70,
            "reach": [systems.DEVICES],
        },
    )
    basic = credential(
        systems.ENDPOINTS_PASSWORD,
        {
            "name": "breakwater-reader",
            "protocol": "http",
            "auth": "basic",
            "user": systems.ENDPOINTS_USER,
            "preference": 80,
            "reach": [systems.ENDPOINTS],
        },
    )
    keel = credential(
        people.TOKEN,
        {
            "name": "keel-token",
            "protocol": "http",
            "auth": "bearer",
            "preference": 90,
            "reach": [people.ADDRESS],
        },
    )
    pair = credential(
        cloud.SECRET,
        {
            "name": "cloud-reader",
            "protocol": "cloud",
            "user": cloud.KEY,
            "preference": 95,
            "reach": [cloud.ADDRESS],
        },
    )
    care = credential(
        services.WARRANTY_KEY,
        {
            "name": "halberd-care",
            "protocol": "http",
            "auth": "header",
            "user": "X-Care-Key",
            "preference": 96,
            "reach": [services.WARRANTIES],
        },
    )
    desk = credential(
        services.DESK_TOKEN,
        {
            "name": "desk-token",
            "protocol": "http",
            "auth": "bearer",
            "preference": 97,
            "reach": [services.DESK],
        },
    )
    managed, endpoints = PREPARED.values()
    directory = {"address": systems.DIRECTORY, "certificate": public_pin("directory.skerrivane.example")}
    source({"name": "Company directory", "kind": "directory", "settings": directory, "credential": bind.pk})
    source(
        {
            "name": "Lanyard",
            "kind": "device management",
            "settings": {**managed, "certificate": public_pin("devices.skerrivane.example")},
            "credential": token.pk,
            "gone": "mark",
        }
    )
    roll = {"base": f"https://{people.ADDRESS}/scim/v2", "certificate": public_pin("people.skerrivane.example")}
    source({"name": "Keel", "kind": "people", "settings": roll, "credential": keel.pk})
    account = {"endpoint": f"https://{cloud.ADDRESS}", "verify": False}
    source({"name": "Cloud", "kind": "cloud account", "settings": account, "credential": pair.pk})
    asked = {
        "base": f"https://{services.WARRANTIES}/v1",
        "certificate": public_pin("care.skerrivane.example"),
        "manufacturer": "Halberd",
        "batch": services.MOST,
    }
    source({"name": "Halberd care", "kind": "warranty service", "settings": asked, "credential": care.pk})
    tickets = {
        "base": f"http://{services.DESK}:8080/api",
        "items": "tickets",
        "device": "device.serial",
        "paging": "page",
        "size_parameter": "per_page",
        "size": 25,
        "link": "http://desk.skerrivane.example/tickets/{number}",
        "give": "tickets",
    }
    source({"name": "Slipway desk", "kind": "service desk", "settings": tickets, "credential": desk.pk})
    source({"name": "Breakwater", "kind": "inventory", "settings": endpoints, "credential": basic.pk})
