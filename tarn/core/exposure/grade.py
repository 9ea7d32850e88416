"""What a finding asks for: a grade by a tree of questions, after SSVC (CERT/CC: exploitation, exposure, automatable,
technical impact, mission and well-being). The tree is data; every step of an answer can be shown."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal, Union

Grade = Literal["act now", "this week", "this month", "watch"]
GRADES: tuple[Grade, ...] = ("act now", "this week", "this month", "watch")
"""The grades, the gravest first."""

PROMISED: dict[Grade, int | None] = {"act now": 3, "this week": 7, "this month": 30, "watch": None}
"""Days within which each grade is promised to be ended."""

LIKELY = 0.1
"""The chance of use within 30 days (EPSS) from which on use counts as likely."""


@dataclass(frozen=True, slots=True)
class Point:
    """A question of the tree: what it asks, its answers from the gravest on, and how each comes about."""

    name: str
    asks: str
    answers: tuple[str, ...]


POINTS: dict[str, Point] = {
    p.name: p
    for p in (
        Point("use", "Is it used by attackers?", ("in use", "likely", "not known")),
        Point("reach", "Can the device be reached from outside?", ("outside", "inside")),
        Point("automatable", "Can it be used without anybody's doing, over the network?", ("yes", "no")),
        Point("impact", "What does it yield?", ("total", "partial")),
        Point("importance", "How much hangs on the device?", ("high", "usual")),
    )
}
"""The questions there are, by name."""

Tree = Union[Grade, "Branch"]


@dataclass(frozen=True)
class Branch:
    """A question with the tree that each answer leads to."""

    point: str
    answers: Mapping[str, Tree]


class TreeError(ValueError):
    """A tree that leaves a question without an answer, asks one twice, or ends in no grade."""


_WEEK_OR_MONTH = {"importance": {"high": "this week", "usual": "this month"}}
_MONTH_OR_WATCH = {"importance": {"high": "this month", "usual": "watch"}}
_NOW_OR_WEEK = {"importance": {"high": "act now", "usual": "this week"}}
_BY_ITSELF = {"automatable": {"yes": "act now", "no": "this week"}}
SHIPPED: dict[str, Any] = {
    "use": {
        "in use": {
            "reach": {"outside": "act now", "inside": {"importance": {"high": "act now", "usual": _BY_ITSELF}}},
        },
        "likely": {
            "reach": {"outside": _NOW_OR_WEEK, "inside": {"automatable": {"yes": "this week", "no": _WEEK_OR_MONTH}}},
        },
        "not known": {
            "reach": {
                "outside": {"automatable": {"yes": "this week", "no": "this month"}},
                "inside": {"impact": {"total": "this month", "partial": _MONTH_OR_WATCH}},
            }
        },
    }
}
"""The tree that ships."""


def read_tree(told: object, asked: frozenset[str] = frozenset()) -> Tree:
    """Return a tree given as nested JSON: a grade, or one question with all its answers. Raises TreeError."""
    if isinstance(told, str):
        if told not in GRADES:
            raise TreeError(f"“{told}” is no grade; one of: {', '.join(GRADES)}.")
        return next(g for g in GRADES if g == told)
    if not isinstance(told, dict) or len(told) != 1:
        raise TreeError("Each place of the tree is a grade or one question.")
    [(name, answers)] = told.items()
    if name not in POINTS:
        raise TreeError(f"“{name}” is no question; one of: {', '.join(POINTS)}.")
    if name in asked:
        raise TreeError(f"“{name}” is asked twice on one way.")
    if not isinstance(answers, dict) or set(answers) != set(POINTS[name].answers):
        raise TreeError(f"“{name}” has these answers, each once: {', '.join(POINTS[name].answers)}.")
    return Branch(name, {a: read_tree(answers[a], asked | {name}) for a in POINTS[name].answers})


@dataclass(frozen=True, slots=True)
class Step:
    """One step of an answer: the question, the answer, and why."""

    point: str
    answer: str
    because: str = ""


@dataclass(frozen=True, slots=True)
class Graded:
    """A grade with the steps that led to it."""

    grade: Grade
    steps: tuple[Step, ...]


def graded(tree: Tree, answers: Mapping[str, tuple[str, str]]) -> Graded:
    """Return the grade of answers, each with why it is so, by question."""
    steps = []
    while isinstance(tree, Branch):
        answer, because = answers[tree.point]
        steps.append(Step(tree.point, answer, because))
        tree = tree.answers[answer]
    return Graded(tree, tuple(steps))


def of_vulnerability(used: bool, chance: float | None, vector: str) -> dict[str, tuple[str, str]]:
    """Return the answers that follow from a vulnerability alone, each with why.

    Automatable and impact are read of the CVSS vector as SSVC's guide does: over the network, of low complexity, with
    neither privileges nor anybody's doing; high for confidentiality and integrity, or all of a scope, is total.
    """
    if used:
        use = ("in use", "it stands on a list of those in use")
    elif chance is not None and chance >= LIKELY:
        use = ("likely", f"its chance of use within 30 days is {chance:.0%}")
    else:
        use = ("not known", "no list says so" if chance is None else f"its chance of use is {chance:.1%}")
    metrics = dict(m.split(":", 1) for m in vector.split("/") if ":" in m)
    if not metrics:
        return {
            "use": use,
            "automatable": ("yes", "no score tells; the graver answer is taken"),
            "impact": ("total", "no score tells; the graver answer is taken"),
        }
    open_to_all = metrics.get("AV") == "N" and metrics.get("AC") == "L"
    alone = metrics.get("PR", metrics.get("Au", "N")) == "N" and metrics.get("UI", "N") == "N"
    automatic = (open_to_all and alone) or metrics.get("AU") == "Y"
    high = [metrics.get(f"V{m}", metrics.get(m, "N")) in ("H", "C") for m in ("C", "I")]
    said = "/".join(f"{m}:{metrics[m]}" for m in ("AV", "AC", "PR", "Au", "UI") if m in metrics)
    return {
        "use": use,
        "automatable": ("yes" if automatic else "no", f"its vector says {said}"),
        "impact": ("total" if all(high) else "partial", "by confidentiality and integrity in its vector"),
    }
