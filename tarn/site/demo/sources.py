"""The other systems that the demo company has."""


def make_sources(organisation: int) -> None:
    """Make the other systems that the company has: a directory, device management, endpoint management."""
    from tarn.apps.discovery.credentials.change import make_credential
    from tarn.apps.discovery.credentials.inputs import CredentialIn
    from tarn.apps.discovery.sources.change import make_source
    from tarn.apps.discovery.sources.inputs import SourceIn
    from tarn.collect.sources.mapped import PREPARED
    from tarn.lab import cloud, people, services, systems
    from tarn.lab.keys import public_pin

    own = {"organisation": organisation}
    bind = make_credential(
        None,
        CredentialIn.model_validate(
            {
                "name": "harbour-directory",
                "protocol": "ldap",
                "user": systems.BIND,
                "preference": 60,
                "reach": [systems.DIRECTORY],
                **own,
            }
        ),
        {"password": systems.BIND_PASSWORD},
    )
    token = make_credential(
        None,
        CredentialIn.model_validate(
            {
                "name": "lanyard-token",
                "protocol": "http",
                "auth": "bearer",
                "preference": 70,
                "reach": [systems.DEVICES],
                **own,
            }
        ),
        {"password": systems.DEVICES_TOKEN},
    )
    basic = make_credential(
        None,
        CredentialIn.model_validate(
            {
                "name": "breakwater-reader",
                "protocol": "http",
                "auth": "basic",
                "user": systems.ENDPOINTS_USER,
                "preference": 80,
                "reach": [systems.ENDPOINTS],
                **own,
            }
        ),
        {"password": systems.ENDPOINTS_PASSWORD},
    )
    keel = make_credential(
        None,
        CredentialIn.model_validate(
            {
                "name": "keel-token",
                "protocol": "http",
                "auth": "bearer",
                "preference": 90,
                "reach": [people.ADDRESS],
                **own,
            }
        ),
        {"password": people.TOKEN},
    )
    pair = make_credential(
        None,
        CredentialIn.model_validate(
            {
                "name": "cloud-reader",
                "protocol": "cloud",
                "user": cloud.KEY,
                "preference": 95,
                "reach": [cloud.ADDRESS],
                **own,
            }
        ),
        {"password": cloud.SECRET},
    )
    care = make_credential(
        None,
        CredentialIn.model_validate(
            {
                "name": "halberd-care",
                "protocol": "http",
                "auth": "header",
                "user": "X-Care-Key",
                "preference": 96,
                "reach": [services.WARRANTIES],
                **own,
            }
        ),
        {"password": services.WARRANTY_KEY},
    )
    desk = make_credential(
        None,
        CredentialIn.model_validate(
            {
                "name": "desk-token",
                "protocol": "http",
                "auth": "bearer",
                "preference": 97,
                "reach": [services.DESK],
                **own,
            }
        ),
        {"password": services.DESK_TOKEN},
    )
    managed, endpoints = PREPARED.values()
    nightly = "FREQ=DAILY;BYHOUR=2;BYMINUTE=0;BYSECOND=0"
    common = {"route": "lab", "schedule": nightly, **own}
    directory = {"address": systems.DIRECTORY, "certificate": public_pin("directory.skerrivane.example")}
    make_source(
        None,
        SourceIn.model_validate(
            {"name": "Company directory", "kind": "directory", "settings": directory, "credential": bind.pk, **common}
        ),
    )
    make_source(
        None,
        SourceIn.model_validate(
            {
                "name": "Lanyard",
                "kind": "device management",
                "settings": {**managed, "certificate": public_pin("devices.skerrivane.example")},
                "credential": token.pk,
                "gone": "mark",
                **common,
            }
        ),
    )
    roll = {"base": f"https://{people.ADDRESS}/scim/v2", "certificate": public_pin("people.skerrivane.example")}
    make_source(
        None,
        SourceIn.model_validate({"name": "Keel", "kind": "people", "settings": roll, "credential": keel.pk, **common}),
    )
    account = {"endpoint": f"https://{cloud.ADDRESS}", "verify": False}
    make_source(
        None,
        SourceIn.model_validate(
            {"name": "Cloud", "kind": "cloud account", "settings": account, "credential": pair.pk, **common}
        ),
    )
    asked = {
        "base": f"https://{services.WARRANTIES}/v1",
        "certificate": public_pin("care.skerrivane.example"),
        "manufacturer": "Halberd",
        "batch": services.MOST,
    }
    make_source(
        None,
        SourceIn.model_validate(
            {"name": "Halberd care", "kind": "warranty service", "settings": asked, "credential": care.pk, **common}
        ),
    )
    tickets = {
        "base": f"http://{services.DESK}:8080/api",
        "items": "tickets",
        "device": "device.serial",
        "paging": "page",
        "size_parameter": "per_page",
        "size": 25,
        "link": "http://desk.skerrivane.example/tickets/{number}",
    }
    make_source(
        None,
        SourceIn.model_validate(
            {"name": "Slipway desk", "kind": "service desk", "settings": tickets, "credential": desk.pk, **common}
        ),
    )
    make_source(
        None,
        SourceIn.model_validate(
            {"name": "Breakwater", "kind": "inventory", "settings": endpoints, "credential": basic.pk, **common}
        ),
    )
