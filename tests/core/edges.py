"""Any edges there may be, for property tests."""

from collections.abc import Sequence

from hypothesis import strategies as st

from tarn.core.standing.edge import Edge


def edges(
    stands: st.SearchStrategy[int],
    on: st.SearchStrategy[int],
    kinds: Sequence[str],
    over: Sequence[str] = ("",),
    most: int = 25,
) -> st.SearchStrategy[list[Edge]]:
    """Return lists of edges between nodes, of some kinds, over some ports."""
    one = st.builds(
        Edge,
        stands=stands,
        on=on,
        kind=st.sampled_from(kinds),
        over=st.sampled_from(over),
        process=st.sampled_from(["", "heron", "heron, tixline"]),
        since=st.integers(0, 9),
        heard=st.integers(0, 9),
        sure=st.integers(0, 100),
        witnesses=st.lists(st.integers(1, 9), max_size=2, unique=True).map(tuple),
        quiet=st.booleans(),
    )
    return st.lists(one, max_size=most)
