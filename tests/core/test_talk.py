"""Talk resolved over columns, held against a plain reckoning telling by telling."""

from collections import defaultdict

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.standing.columns import Edges, Words
from tarn.core.standing.edge import Edge
from tarn.core.standing.talk import PAIRED, Known, talk, tellings

NOW = 100
ADDRESSES = {"a1": 1, "a2": 2, "a3": 3, "shared": 0}
rows = st.lists(
    st.tuples(
        st.integers(1, 4),
        st.sampled_from(["out", "in"]),
        st.sampled_from([None, "heron", "sshd", "tixline"]),
        st.sampled_from(["a1", "a2", "a3", "shared", "stranger"]),
        st.sampled_from([22, 80]),
        st.integers(1, 90),
        st.none() | st.integers(91, 110),
    ),
    max_size=30,
)
READ, READY = {1: 95, 2: 40}, {"a2": {3, 4}}


def noise(process, port):
    return process == "sshd" or (process == "heron" and port == 22)


def plainly(told):
    met = defaultdict(list)
    for teller, way, process, peer, port, begins, ends in told:
        other = ADDRESSES.get(peer)
        if other and other != teller:
            ended = ends is not None and ends <= NOW
            heard = ends if ended else max(begins, READ.get(teller, 0))
            ends_of = (teller, other) if way == "out" else (other, teller)
            met[*ends_of, port].append(
                (teller, process or "", begins, heard, ended, READY.get(peer, set()) if way == "out" else set())
            )
    for (caller, called, port), all_of in met.items():
        own = [t for t in all_of if not noise(t[1], port)]
        if {t[0] for t in own} != {t[0] for t in all_of}:
            continue
        mine = {p for teller, p, *_ in own if p and teller == caller}
        process = ", ".join(sorted(mine)) or min((p for _, p, *_ in own if p), default="")
        by = tuple(sorted({t[0] for t in own}))
        since, heard, quiet = min(t[2] for t in own), max(t[3] for t in own), all(t[4] for t in own)
        yield Edge(caller, called, "talks to", str(port), process, since, heard, 100 if len(by) == 2 else 90, by, quiet)
        for other in {o for t in all_of for o in t[5]} - {caller, called}:
            yield Edge(caller, other, "falls back on", str(port), process, since, heard, PAIRED, by, quiet)


@given(rows)
def test_it_is_what_telling_by_telling_says(told):
    words = Words()
    table = tellings(told, words)
    ready = {words.number(a): of for a, of in READY.items()}
    owner = [ADDRESSES.get(words[n], 0) for n in range(len(words))]
    known = Known(NOW, np.array(owner, np.int64), READ, noise, ready)
    assert sorted(Edges(talk(table, known, words), words)) == sorted(plainly(told))
