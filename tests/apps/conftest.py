"""People and evidence for tests of the apps."""

import threading
from http.server import BaseHTTPRequestHandler, HTTPServer
from typing import Any

import pytest
from django.test import Client

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.people.actions.accounts import make_person
from tests.apps.standing import standing_estate
from tests.documents import packages, sighting


@pytest.fixture
def people(db: Any) -> dict[str, Any]:
    """One person of each role."""
    return {r: make_person(None, r, "low-water-1234", r) for r in ("viewer", "operator", "manager", "administrator")}


@pytest.fixture
def as_role(people: dict[str, Any]) -> Any:
    """Return a client signed in as a role."""

    def client(role: str) -> Client:
        made = Client()
        made.force_login(people[role], backend="django.contrib.auth.backends.ModelBackend")
        return made

    return client


@pytest.fixture
def estate(people: dict[str, Any]) -> list[int]:
    """Four adopted assets: two servers, a laptop, a printer; the servers change on the second day."""
    documents = []
    for day, tix in ((0, "3.8.0"), (10, "3.9.0")):
        documents += [
            sighting(
                "salt-tix-01",
                day,
                identity={"serial": "HB-1001", "manufacturer": "Halberd", "model": "R520"},
                system={"platform": "Linux", "os_name": "Debian GNU/Linux", "os_version": "12"},
                hardware={"memory": (16 if day == 0 else 32) << 30, "cores": 8},
                placement={"address": "10.60.4.21", "place": "Saltholm"},
                packages=packages(
                    **{"tixline-server": tix, "quill-office": "16.0", "old-tool": "1"}
                    if day == 0
                    else {"tixline-server": tix, "quill-office": "16.0"}
                ),
                accounts=[{"name": "root", "uid": 0, "administrator": True}, {"name": "guest", "uid": 5}],
                disks=[{"name": "sda", "size": 480 * 10**9}],
            ),
            sighting(
                "avrn-gate-01",
                day,
                identity={"serial": "HB-1002", "manufacturer": "Halberd"},
                system={"platform": "Linux", "os_name": "Debian GNU/Linux", "os_version": "11.9"},
                hardware={"memory": 8 << 30},
                placement={"address": "10.60.8.14", "place": "Port Averne"},
                packages=packages(**{"quill-office": "15.2"}),
                interfaces=[{"name": "eth0", "speed": 10**9}, {"name": "eth1", "speed": 10**8}],
            ),
        ]
    documents += [
        sighting(
            "salt-lt-01",
            0,
            identity={"serial": "HB-2001"},
            placement={"place": "Saltholm"},
            packages=packages(**{"driftshare": "2.9"}),
        ),
        sighting("salt-prn-01", 0, identity={"serial": "QU-3001"}, placement={"address": "10.60.5.11"}),
    ]
    taken = list(take_in(documents))
    assets = list(dict.fromkeys(t.asset for t in taken if t.asset is not None))
    kinds = {"server": assets[:2], "laptop": [assets[2]], "printer": [assets[3]]}
    for kind, some in kinds.items():
        decide(people["operator"], some, {"standing": "register", "state": "in use", "kind": kind}, "adopted")
    return assets


@pytest.fixture
def standing(people: dict[str, Any]) -> dict[str, int]:
    """A small estate in which some things stand on others: assets by name."""
    return standing_estate(people)


@pytest.fixture
def ask(as_role, standing):
    """Ask the API as a viewer."""
    client = as_role("viewer")

    def asked(path, **params):
        answer = client.get(f"/api{path}", params)
        assert answer.status_code == 200, answer.content
        return answer.json()

    return asked


@pytest.fixture
def called(settings: Any) -> Any:
    """A system on this machine that may be called: keeps what it is sent, and answers with what `answers` says."""

    settings.TARN_CALLS_ALLOWED = ["127.0.0.1", "localhost"]

    class Other(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            self.server.calls.append((dict(self.headers), self.rfile.read(int(self.headers["Content-Length"]))))
            self.send_response(self.server.answers)
            if self.server.answers == 302:
                self.send_header("Location", f"http://127.0.0.1:{self.server.server_port}/elsewhere")
            self.end_headers()

        def log_message(self, *said: Any) -> None:
            pass

    server = HTTPServer(("127.0.0.1", 0), Other)
    server.calls, server.answers = [], 204
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server
    server.shutdown()
    server.server_close()
