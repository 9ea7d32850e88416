"""The graph carried on as devices are read again is the graph resolved of all there is."""

import random
import time
from dataclasses import astuple
from typing import Any

import pytest

from tarn.apps.estate.asking.places import Sql, holds
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.store.remembered import forget
from tarn.apps.services import running
from tarn.apps.services.inputs import ServiceIn
from tarn.apps.services.kept import members
from tarn.apps.services.kept.change import checked
from tarn.apps.services.models import Noise, Service
from tarn.apps.services.standing import edges, resolved, whose
from tarn.apps.services.standing.programs import programs
from tarn.core.standing.programs import told_apart
from tests.apps.standing import talk
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db
LATELY = (time.time() - START) / DAY - 5
"""A day within what talk counts for."""
DEVICES = 8


def mac(n: int) -> str:
    return f"18:f9:5e:00:00:{n:02x}"


def uuid(n: int) -> str:
    return f"00000000-0000-4000-8000-0000000000{n:02}"


class Estate:
    """Devices that are read again and again, each time with something else of them."""

    def __init__(self, chance: random.Random) -> None:
        self.chance, self.told = chance, [self._first(n) for n in range(1, DEVICES + 1)]
        self.readings = 0

    def _first(self, n: int) -> dict[str, Any]:
        return {
            "identity": {"name": f"d{n}", "serial": f"S-{n}", "uuid": uuid(n)},
            "placement": {"address": f"10.60.4.{n}"},
            "interfaces": [{"name": "eth0", "mac": mac(n)}],
        }

    def change(self, n: int) -> dict[str, Any]:
        """Have something of a device be otherwise, and return what is told of it."""
        told, pick = self.told[n], self.chance.randint
        others = [pick(1, DEVICES) for _ in range(3)]
        what = self.chance.choice(
            [
                "talk",
                "talk",
                "talk",
                "hardware",
                "move",
                "name",
                "host",
                "switch",
                "files",
                "power",
                "programs",
                "cluster",
                "neighbour",
            ]
        )
        if what == "talk":
            told["connections"] = [
                talk(
                    self.chance.choice(["out", "in"]),
                    self.chance.choice(["heron", "sshd", "tixline"]),
                    o,
                    self.chance.choice([80, 5432]),
                )
                for o in others
            ]
        elif what == "hardware":
            told["hardware"] = {"memory": pick(1, 9) << 30}
        elif what == "move":
            told["placement"] = {"address": f"10.60.4.{pick(1, DEVICES)}"}
        elif what == "programs":
            told["processes"] = [
                {
                    "command": f"{name} --n {pick(1, 3)}",
                    "name": name,
                    "account": name,
                    "listens": "80",
                    "count": pick(1, 3),
                }
                for name in {self.chance.choice(["heron", "tixline", "relay"]) for _ in range(2)}
            ]
        elif what == "cluster":
            told["cluster_parts"] = [
                {"cluster": "c", "sort": sort, "name": name, "state": state}
                for sort, name, state in (
                    *(("node", f"d{o}", self.chance.choice(["online", "offline"])) for o in {*others}),
                    ("guest", f"d{pick(1, DEVICES)}", ""),
                    ("address", f"10.60.4.{pick(1, DEVICES)}", ""),
                )
            ]
        elif what == "name":
            told["identity"] = {**told["identity"], "name": f"d{n + 1}-{pick(1, 3)}"}
        elif what == "host":
            told["guests"] = [{"uuid": uuid(o), "name": f"d{o}"} for o in {*others}]
        elif what == "switch":
            told["forwarding"] = [{"mac": mac(o), "vlan": 4, "port": f"port{pick(1, 3)}"} for o in {*others}]
        elif what == "files":
            told["filesystems"] = [
                {"mount": "/srv", "device": f"10.60.4.{others[0]}:/srv"},
                {"mount": "/", "device": "/dev/sda1", "full": 5 * pick(1, 9)},
            ]
            told["share_users"] = [{"share": "files", "client": f"10.60.4.{others[1]}"}]
        elif what == "power":
            told["outlets"] = [{"name": f"outlet {pick(1, 4)}", "feeds": f"d{others[0]}"}]
        else:
            told["neighbours"] = [{"port": "up", "chassis": mac(others[0]), "name": "x", "remote_port": "p1"}]
        return told

    def read(self, n: int, day: float) -> None:
        self.readings += 1
        document = sighting(f"d{n}", day, id=f"reading-{self.readings}", **self.told[n])
        list(take_in([document]))


def running_whole() -> tuple[Any, Any]:
    """What runs now and whatever ran, read whole."""
    return running._read(holds("p", None)).looks, running._read(Sql("1")).looks


def by_program(graph: Any) -> list[Any]:
    """The edges of a graph by programs, whatever their numbers: a program by its device, its name and what it does."""
    asked = {
        n: (graph.hosts[n], graph.names[n], sorted({(e.over, e.kind) for e in (*graph.on.get(n), *graph.under.get(n))}))
        for n in graph.hosts
    }
    return sorted((str(asked.get(e.stands, e.stands)), str(asked.get(e.on, e.on)), *e[2:]) for e in graph.edges)


def in_order(looks: Any) -> dict[Any, list[Any]]:
    return {seen: sorted(places, key=astuple) for seen, places in looks.items()}


def rows(graph: Any) -> list[Any]:
    return sorted(graph.edges)


@pytest.mark.parametrize("seed", range(6))
def test_carried_on_it_is_what_resolving_all_of_it_says(
    seed: int, people: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    Noise.objects.get_or_create(port=None, process="sshd", defaults={"why": "Somebody looks after it.", "made_at": 0})
    estate = Estate(random.Random(seed))
    for n in range(DEVICES):
        estate.read(n, LATELY)
    everything = sorted(whose.last_read(None))
    decide(people["operator"], everything, {"standing": "register"}, "adopted", at=START)
    decide(people["operator"], everything[:1], {"kind": "router"}, "seen")
    decide(people["operator"], everything[4:6], {"fed_by": "d2, d3 outlet 1"}, "said", at=START)
    forget()
    edges.full(None), running.running(None), running.ever()
    whole, kinds = resolved.resolve, set()
    with monkeypatch.context() as patched:
        for step in range(1, 36):
            for n in {estate.chance.randrange(DEVICES) for _ in range(2)}:
                estate.change(n)
                # Late evidence is among it.
                estate.read(n, LATELY + (step if estate.chance.random() < 0.9 else step - 2.5) / 10)
            if step % 10 == 0:
                feeds = f"d{estate.chance.randint(1, DEVICES)} outlet 2"
                decide(people["operator"], [estate.chance.choice(everything)], {"fed_by": feeds}, "said")
            patched.setattr(resolved, "resolve", lambda at: pytest.fail("it was resolved anew"))
            patched.setattr(edges, "_by_program", lambda at: pytest.fail("it was told apart anew"))
            patched.setattr(edges, "resolve", lambda at: pytest.fail("it was resolved anew"))
            assert rows(edges.graph(None)) == rows(whole(None).graph), f"after step {step}"
            assert by_program(edges.full(None)) == by_program(told_apart(edges.graph(None).edges, programs(None)).graph)
            for carried, read in zip((running.running(None), running.ever()), running_whole(), strict=True):
                assert in_order(carried) == in_order(read), f"after step {step}"
            kinds |= {e.kind for e in edges.graph(None).edges}
    assert "talks to" in kinds
    assert len(kinds) >= 4


RULES = (
    "memory >= 5GB", "name ~ d3", "kind = router", "ports[port = 80]", "processes[name = heron]", "fed_by ~ d2",
    "called by [name ~ d]", "depends on [memory >= 4GB]", "guest of [name ~ d]", "count addresses >= 1",
    "cluster_parts[sort = guest]", "last_seen >= now - 20d", "not processes[name = relay] and talks to [name ~ d1]",
)  # fmt: skip


@pytest.mark.parametrize("seed", range(4))
def test_members_of_services_are_what_asking_their_rules_anew_says(
    seed: int, people: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    estate = Estate(random.Random(seed))
    for n in range(DEVICES):
        estate.read(n, LATELY)
    everything = sorted(whose.last_read(None))
    decide(people["operator"], everything, {"standing": "register"}, "adopted", at=START)
    for rule in RULES:
        parts: list[Any] = [{"name": "All", "rules": [{"filter": rule}]}]
        service = checked(ServiceIn.model_validate({"name": rule, "parts": parts}))
        service.made_by, service.made_at = "nobody", START
        service.save()
    forget()
    members.all_members(None)
    asked: list[str] = []
    reckon = members.reckoned
    with monkeypatch.context() as patched:
        patched.setattr(members, "reckoned", lambda service, at: asked.append(service.name) or reckon(service, at))
        for step in range(1, 31):
            n = estate.chance.randrange(DEVICES)
            estate.change(n)
            estate.read(n, LATELY + (step if estate.chance.random() < 0.9 else step - 2.5) / 10)
            if step % 10 == 0:
                decide(people["operator"], [estate.chance.choice(everything)], {"fed_by": "d2"}, "said")
            found = members.all_members(None)
            for service in Service.objects.all():
                assert found[service.pk].parts == reckon(service, None).parts, f"{service.name} after step {step}"
    assert 0 < len(asked) < 30 * len(RULES), "some were asked again, and not all of them each time"


def test_a_past_day_stays_as_it_is_until_evidence_of_it_comes(people: Any) -> None:
    estate = Estate(random.Random(1))
    for n in range(DEVICES):
        estate.read(n, LATELY)
    then = START + int((LATELY + 1) * DAY)
    before = edges.graph(then)
    estate.told[0]["connections"] = [talk("out", "heron", 3, 5432)]
    estate.read(0, LATELY + 2)
    assert edges.graph(then) is before
    assert [e.kind for e in edges.graph(None).edges] == ["talks to"]
    estate.read(0, LATELY + 0.5)
    assert [e.kind for e in edges.graph(then).edges] == ["talks to"]
