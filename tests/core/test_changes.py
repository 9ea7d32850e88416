"""What to do first, against every possible choice; and the tree of grades, walked to every leaf."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.exposure.changes import FindingClass, best, in_order
from tarn.core.exposure.grade import GRADES, POINTS, SHIPPED, Branch, TreeError, graded, of_vulnerability, read_tree

_CLASSES = st.lists(
    st.builds(
        FindingClass,
        st.frozensets(st.integers(0, 4), max_size=3),
        st.integers(0, len(GRADES) - 1),
        st.integers(1, 9),
    ),
    max_size=7,
)


def _ended(classes, chosen):
    return tuple(
        sum(c.number for c in classes if c.needs and c.needs <= set(chosen) and c.grade == g)
        for g in range(len(GRADES))
    )


@given(_CLASSES, st.lists(st.integers(1, 3), min_size=5, max_size=5), st.integers(0, 8))
def test_for_a_budget_nothing_ends_more(classes, costs, budget):
    by_change = dict(enumerate(costs))
    told = best(classes, by_change, budget)
    assert sum(by_change[c] for c in told.chosen) <= budget
    assert told.ended == _ended(classes, told.chosen)
    affordable = (
        some
        for n in range(6)
        for some in itertools.combinations(range(5), n)
        if sum(by_change[c] for c in some) <= budget
    )
    assert told.ended == max(_ended(classes, some) for some in affordable)
    assert told.greedy <= told.ended


@given(_CLASSES, st.lists(st.integers(0, 4), max_size=2, unique=True), st.sets(st.integers(0, 4), max_size=2))
def test_in_order_each_step_says_what_it_ends_and_what_is_left(classes, pinned, refused):
    steps = in_order(classes, range(5), pinned, refused)
    done = [s.change for s in steps]
    assert sorted(done) == sorted(set(range(5)) - refused)
    assert done[: len([p for p in pinned if p not in refused])] == [p for p in pinned if p not in refused]
    open_ = sum(c.number for c in classes)
    for at, step in enumerate(steps):
        now, before = _ended(classes, done[: at + 1]), _ended(classes, done[:at])
        assert step.ended == tuple(a - b for a, b in zip(now, before, strict=True))
        assert step.left == open_ - sum(now)
    if not pinned and all(len(c.needs) < 2 for c in classes):
        assert [s.ended for s in steps] == sorted((s.ended for s in steps), reverse=True)


def test_a_device_with_two_open_products_ends_with_both_updated():
    classes = [
        FindingClass(frozenset({0, 1}), 0, 5),
        FindingClass(frozenset({2}), 1, 3),
        FindingClass(frozenset(), 0, 2),
    ]
    steps = in_order(classes, range(3))
    assert [(s.change, sum(s.ended), s.left) for s in steps] == [(2, 3, 7), (0, 0, 7), (1, 5, 2)]
    assert best(classes, {0: 1, 1: 1, 2: 1}, 2).chosen == (0, 1), "the gravest first: together they end it"


def _leaves(tree, answers=()):
    if not isinstance(tree, Branch):
        yield dict(answers), tree
        return
    for answer, below in tree.answers.items():
        yield from _leaves(below, (*answers, (tree.point, answer)))


def test_every_way_down_the_tree_ends_in_its_grade_and_shows_its_steps():
    tree = read_tree(SHIPPED)
    seen = set()
    for answers, grade in _leaves(tree):
        usual = {name: (point.answers[-1], "") for name, point in POINTS.items()}
        told = graded(tree, usual | {n: (a, "so") for n, a in answers.items()})
        assert told.grade == grade
        assert [(s.point, s.answer) for s in told.steps] == list(answers.items())
        seen.add(grade)
    assert seen == set(GRADES)


@pytest.mark.parametrize(
    ("tree", "says"),
    [
        ("soon", "no grade"),
        ({"use": {"in use": "act now"}}, "each once"),
        ({"weather": {}}, "no question"),
        ({"reach": {"outside": {"reach": {"outside": "watch", "inside": "watch"}}, "inside": "watch"}}, "twice"),
        ([], "one question"),
    ],
)
def test_a_tree_with_holes_is_refused(tree, says):
    with pytest.raises(TreeError, match=says):
        read_tree(tree)


@pytest.mark.parametrize(
    ("vector", "automatable", "impact"),
    [
        ("CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H", "yes", "total"),
        ("CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:U/C:H/I:L/A:H", "no", "partial"),
        ("CVSS:4.0/AV:L/AC:L/AT:N/PR:N/UI:N/VC:H/VI:H/VA:H/SC:N/SI:N/SA:N", "no", "total"),
        ("AV:N/AC:L/Au:N/C:C/I:C/A:C", "yes", "total"),
        ("", "yes", "total"),
    ],
)
def test_what_a_vector_answers(vector, automatable, impact):
    told = of_vulnerability(False, 0.5, vector)
    assert (told["automatable"][0], told["impact"][0], told["use"][0]) == (automatable, impact, "likely")
