"""Edges: one thing standing on another, and the sorts there are."""

from typing import Literal, NamedTuple, get_args

EdgeKind = Literal[
    "guest of", "plugged into", "powered by", "mounts", "talks to", "falls back on", "may move to", "runs on"
]
KINDS: tuple[EdgeKind, ...] = get_args(EdgeKind)
"""Sorts of edges: a guest stands on its host, a device on the switch it is plugged into and on what its power comes
from, who mounts a file system on who has it, who calls on who is called, and on who would be called were that gone; a
guest on the hosts its cluster would start it on; a program on its device."""
STEAD: dict[EdgeKind, EdgeKind] = {"falls back on": "talks to", "may move to": "guest of"}
"""Sorts that are means of the same end as another."""
MENDABLE: tuple[EdgeKind, ...] = KINDS[:-1]
"""Sorts of which a device may have one more."""
ASKED: frozenset[EdgeKind] = frozenset(("mounts", "talks to", "falls back on"))
"""Sorts by which something is asked for: who only asks is weakened without it, who is asked itself stops."""

HEARD_WITHIN = 30 * 86_400
"""Seconds for which talk, and a share in use, counts after it was last heard."""


class Edge(NamedTuple):
    """One thing standing on another. `over`: the port it is about, a number or a switch's name for it;
    `process`: what calls, several parted by commas; `since` and
    `heard`: from when it is known and when it was last confirmed, in seconds since 1970; `sure` in percent;
    `witnesses`: the assets that say so, one or both ends;
    `quiet`: it was heard lately, but not when they were read last."""

    stands: int
    on: int
    kind: EdgeKind
    over: str = ""
    process: str = ""
    since: int = 0
    heard: int = 0
    sure: int = 100
    witnesses: tuple[int, ...] = ()
    quiet: bool = False
