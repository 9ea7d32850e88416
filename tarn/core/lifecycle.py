"""States an asset goes through and the steps between them: what each step may begin from, what it needs, what it does.

The company may keep a book of steps of its own; `SHIPPED` holds until it does. A step is data, so that it can be
shown, changed, checked against what is asked, and written into the history of an asset.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import date
from typing import Any

from tarn.core.kinds import STATES

NEEDS: dict[str, str] = {
    "person": "who gets it",
    "receiver": "a person, a place or a department",
    "due": "the day it is to come back",
    "condition": "the condition it came back in",
    "method": "how it is disposed of",
    "erasure": "the record of erasure, or why there is nothing to erase",
    "why": "the reason",
}
"""What a step may need of whoever takes it, in words."""

CLEARS = ("person", "department", "due_back")
"""What a step may take from an asset."""

MOST_STEPS = 40


class StepError(ValueError):
    """A step that cannot be taken or kept; `field` says what is wrong with it."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class LifeStep:
    """A step: its name as an order (“lend”), the states it begins from (“” stands for none), the state it leads to.

    `needs`: names of NEEDS; `clears`: names of CLEARS; `hands`: what it does to a hand-over: “gives” begins one,
    “returns” ends it, “” leaves it alone.
    """

    name: str
    begins: tuple[str, ...]
    to: str
    needs: tuple[str, ...] = ()
    clears: tuple[str, ...] = ()
    hands: str = ""


_KEPT = ("in stock", "in use", "on loan", "in repair", "missing")
SHIPPED: tuple[LifeStep, ...] = (
    LifeStep("plan", ("",), "planned"),
    LifeStep("order", ("", "planned"), "ordered"),
    LifeStep("take into stock", ("", "planned", "ordered"), "in stock"),
    LifeStep("hand over", ("", "in stock", "in use"), "in use", ("receiver",), ("due_back",), "gives"),
    LifeStep("lend", ("in stock", "in use"), "on loan", ("person", "due"), (), "gives"),
    LifeStep("take back", ("in use", "on loan"), "in stock", ("condition",), ("person", "due_back"), "returns"),
    LifeStep("send to repair", ("in stock", "in use", "on loan"), "in repair", ("why",)),
    LifeStep("bring back from repair", ("in repair",), "in stock"),
    LifeStep("report lost or stolen", _KEPT, "lost or stolen", ("why",), (), "returns"),
    LifeStep("find again", ("lost or stolen", "missing"), "in stock", (), ("person", "due_back"), "returns"),
    LifeStep(
        "retire", ("", *_KEPT, "lost or stolen"), "retired", ("why",), ("person", "department", "due_back"), "returns"
    ),
    LifeStep("take up again", ("retired",), "in stock", ("why",)),
    LifeStep(
        "dispose of", ("retired", "in stock"), "disposed", ("method", "erasure"), ("person", "due_back"), "returns"
    ),
)
"""The steps that hold until the company keeps a book of its own."""


def read_book(rows: Iterable[Mapping[str, Any]]) -> tuple[LifeStep, ...]:
    """Return a book of steps from its rows. Raises StepError naming the step and what is wrong."""
    out: list[LifeStep] = []
    for number, row in enumerate(rows, start=1):
        name = str(row.get("name") or "").strip()
        if not name:
            raise StepError("steps", f"Step {number} needs a name, such as “lend”.")
        step = LifeStep(
            name[:60],
            tuple(dict.fromkeys(str(s) for s in row.get("begins") or ())),
            str(row.get("to") or ""),
            tuple(dict.fromkeys(str(n) for n in row.get("needs") or ())),
            tuple(dict.fromkeys(str(c) for c in row.get("clears") or ())),
            str(row.get("hands") or ""),
        )
        _checked(step)
        out.append(step)
    names = [s.name.casefold() for s in out]
    if doubled := next((s.name for s in out if names.count(s.name.casefold()) > 1), None):
        raise StepError("steps", f"“{doubled}” is there twice.")
    if not out:
        raise StepError("steps", "A book needs at least one step.")
    if len(out) > MOST_STEPS:
        raise StepError("steps", f"{len(out)} steps are too many: at most {MOST_STEPS}.")
    return tuple(out)


def _checked(step: LifeStep) -> None:
    where = f"“{step.name}”: "
    if not step.begins:
        raise StepError("steps", f"{where}say from which states it may be taken.")
    for state in (*step.begins, step.to):
        if state not in STATES and not (state == "" and state in step.begins):
            raise StepError("steps", f"{where}“{state}” is no state; one of: {', '.join(STATES)}.")
    for told, known, word in ((step.needs, NEEDS, "needed"), (step.clears, CLEARS, "taken away")):
        for name in told:
            if name not in known:
                raise StepError("steps", f"{where}“{name}” is nothing that can be {word}; one of: {', '.join(known)}.")
    if step.hands not in ("", "gives", "returns"):
        raise StepError("steps", f"{where}a step gives, returns, or leaves a hand-over alone.")
    if step.hands == "gives" and not {"person", "receiver"} & set(step.needs):
        raise StepError("steps", f"{where}what is handed over needs somebody who gets it.")
    if step.hands != "gives" and {"person", "receiver", "due"} & set(step.needs):
        raise StepError("steps", f"{where}only a step that hands over asks for whom, or until when.")


def as_rows(steps: Iterable[LifeStep]) -> list[dict[str, Any]]:
    """Return a book of steps as rows."""
    return [{k: list(v) if isinstance(v, tuple) else v for k, v in asdict(s).items()} for s in steps]


def step_named(steps: Sequence[LifeStep], name: str) -> LifeStep:
    """Return the step of a name. Raises StepError with the names there are."""
    life_step = next((s for s in steps if s.name == name), None)
    if life_step is None:
        raise StepError("step", f"There is no step “{name}”; one of: {', '.join(s.name for s in steps)}.")
    return life_step


def steps_from(steps: Sequence[LifeStep], states: Iterable[str]) -> list[LifeStep]:
    """Return the steps that may be taken from every one of some states."""
    held = set(states)
    return [s for s in steps if held and held <= set(s.begins)]


@dataclass(frozen=True, slots=True)
class Given:
    """What whoever takes a step says. Empty texts and None: nothing is said. `proceeds`: money got for what is
    disposed of, and `costs` of parting with it, in minor units of the company's currency."""

    person: str = ""
    place: str = ""
    department: str = ""
    due: date | None = None
    condition: str = ""
    method: str = ""
    erasure: str = ""
    why: str = ""
    proceeds: int | None = None
    costs: int = 0


def check_step(step: LifeStep, given: Given, states: Mapping[str, Sequence[str]], day: date) -> None:
    """Check that a step can be taken on a day. `states`: by state the names of the assets in it.

    Raises StepError naming what is missing, or the assets the step does not lead on from.
    """
    for state, names in states.items():
        if state not in step.begins:
            some = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
            stands = f"is {state}" if state else "has no state"
            stands = stands if len(names) == 1 else stands.replace("is ", "are ").replace("has ", "have ")
            may = ", ".join(s or "no state" for s in step.begins)
            raise StepError("step", f"“{step.name}” is taken from: {may}; {some} {stands}. Nothing was done.")
    for need in step.needs:
        if need == "receiver":
            if not (given.person or given.place or given.department):
                raise StepError("person", f"“{step.name}” needs {NEEDS[need]}.")
        elif not getattr(given, need):
            raise StepError(need, f"“{step.name}” needs {NEEDS[need]}.")
    if given.due is not None and given.due < day:
        raise StepError("due", f"{given.due.isoformat()} is over; say a day to come.")
    if (given.proceeds or 0) < 0 or given.costs < 0:
        raise StepError("proceeds", "This is not less than nothing.")
    if (given.proceeds is not None or given.costs) and step.to != "disposed":
        raise StepError("proceeds", f"“{step.name}” parts with nothing, so nothing is got for it.")


def facts_of(step: LifeStep, given: Given, due_back: int | None) -> dict[str, Any]:
    """Return what a step says of an asset, as a decision does; an empty text takes a value away.

    `due_back`: the moment of the day it is to come back.
    """
    facts: dict[str, Any] = {"state": step.to}
    for name in step.clears:
        facts[name] = None if name == "due_back" else ""
    if step.hands == "gives":
        receiver = {"person": given.person, "department": given.department, "place": given.place}
        # What goes to a place or department is no longer anybody's in person.
        facts |= {"person": given.person, **{k: v for k, v in receiver.items() if v}}
        facts["due_back"] = due_back
    elif given.place:
        facts["place"] = given.place
    return facts


def changed(steps: Sequence[LifeStep], name: str, **values: Any) -> tuple[LifeStep, ...]:
    """Return a book with one step changed, for whoever adapts what ships."""
    return tuple(replace(s, **values) if s.name == name else s for s in steps)
