"""Leases, whatever happens: outposts that ask, hand in by parts, die, come back and are taken for dead."""

import json
import time
from collections import Counter
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tarn.apps.discovery.models import Lease, Network, Outpost, Run, RunAddress, Sweep
from tarn.apps.discovery.networks.change import make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.outposts import leasing
from tarn.apps.discovery.outposts.change import give_work, make_outpost, take_hand_in
from tarn.apps.discovery.sweeps.change import make_sweep
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.discovery.sweeps.runs import plan_run
from tarn.apps.estate.models import Sighting
from tarn.collect.outpost.wire import SPEECH, Greeting, HandIn, SweepOrder, read
from tests.documents import sighting

POSTS = 3
_moves = st.lists(
    st.tuples(
        st.sampled_from(["ask", "hand in", "finish", "die", "expire", "tend", "again"]), st.integers(0, POSTS - 1)
    ),
    max_size=30,
)


class Post:
    """An outpost as far as Tarn hears of it: its orders, and what it has still to look at."""

    def __init__(self, number: int, row: Outpost) -> None:
        self.number, self.row = number, row
        self.work: dict[str, tuple[SweepOrder, list[str]]] = {}
        self.last: HandIn | None = None

    def greeting(self) -> Greeting:
        return Greeting(SPEECH, "1", time.time(), room=1, leases=list(self.work))

    def ask(self) -> None:
        for order in give_work(self.row, self.greeting()).orders:
            self.work[order.lease] = (order, list(order.addresses))

    def hand_in(self, *, whole: bool) -> None:
        for lease, (order, left) in list(self.work.items()):
            some = left if whole else left[: max(1, len(left) // 2)]
            found = [
                {"address": a, "outcome": "fully read", "sighting": _seen(a, order.sweep, self.number)} for a in some
            ]
            body = {"id": f"{lease}{len(left)}", "run": order.run, "lease": lease, "found": found, "done": whole}
            self.last = read(HandIn, json.dumps(body).encode())
            take_hand_in(self.row, self.last)
            rest = left[len(some) :]
            if rest:
                self.work[lease] = (order, rest)
            else:
                del self.work[lease]


def _seen(address: str, sweep: str, post: int) -> dict[str, Any]:
    made = sighting(
        f"dev-{address}", post / 1000, identity={"serial": f"SN-{address}"}, source=sweep, address=address,
        id=f"{sweep}-{address}-{post}",
    )  # fmt: skip
    return made.model_dump(mode="json", by_alias=True)


@pytest.mark.django_db
@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(moves=_moves)
def test_every_address_is_looked_at_and_nothing_is_lost_or_doubled(db: None, moves: list[tuple[str, int]]) -> None:
    for model in (Run, Sweep, Network, Outpost):
        model.objects.all().delete()
    before = Sighting.objects.count()
    network = make_network(None, NetworkIn.model_validate({"range": "10.60.20.0/24", "name": "MV Tansy"}))
    posts = [Post(n, make_outpost(None, f"post {n}", [network.pk])[0]) for n in range(POSTS)]
    sweep = make_sweep(
        None,
        SweepIn.model_validate({"name": f"s{time.time_ns()}", "ranges": ["10.60.20.1-10.60.20.48"], "route": "lab"}),
    )
    run = plan_run(None, sweep)
    now = int(time.time())
    Run.objects.filter(pk=run.pk).update(state="running", started_at=now)  # the worker has nothing to do here
    for move, number in moves:
        post = posts[number]
        if move == "ask":
            post.ask()
        elif move in ("hand in", "finish"):
            post.hand_in(whole=move == "finish")
        elif move == "die":
            post.work = {}
        elif move == "expire":
            Lease.objects.filter(outpost=post.row).update(ends=now - 1)
            leasing.tend(now)
        elif move == "tend":
            leasing.tend(now)
        elif post.last is not None:
            take_hand_in(post.row, post.last)
        _no_address_is_two_posts(run)
    for _ in range(12):  # whoever is left does the rest
        posts[0].ask()
        for post in posts:
            post.hand_in(whole=True)
        Lease.objects.update(ends=now - 1)
        leasing.tend(now)
    run.refresh_from_db()
    rows = RunAddress.objects.filter(run=run, outcome="fully read")
    assert (run.state, rows.count()) == ("done", 48)
    assert not Lease.objects.exists()
    seen = Counter(Sighting.objects.filter(source__name=sweep.name).values_list("address", flat=True))
    assert len(seen) == 48
    assert Sighting.objects.count() - before == sum(seen.values())
    assert max(seen.values()) <= POSTS, "one and the same document counts once"


def _no_address_is_two_posts(run: Run) -> None:
    held = RunAddress.objects.filter(run=run, outcome="waiting").exclude(lease=None)
    assert held.count() == held.values("address").distinct().count()
    assert not Lease.objects.filter(run=run).exclude(outpost__withdrawn_at=None).exists()
