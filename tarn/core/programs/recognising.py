"""Recognisers: a rule in the filter language over processes, where its version is read, and what is one instance."""

import re
from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass
from functools import partial

from tarn.core.fields import GROUPS
from tarn.core.filters.check import Checked, Cond, Context, Either, Every, Without, check_among
from tarn.core.filters.parse import parse
from tarn.core.filters.plain import compares, holds
from tarn.core.filters.tree import quote
from tarn.core.patterns import pattern
from tarn.core.programs.features import INTERPRETERS, Look, Seen, look

INSTANCES = ("a device", "a device and port", "a device and account")
"""What makes one instance of an application."""
MOST_STEMS = 25
"""As many different programs a rule may fit; one that fits more says nothing of which program it is."""
_ASKED = ("command", "name", "account", "listens", "unit")


class RuleFault(ValueError):
    """A recogniser that cannot stand; `field` names the part."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


Fits = Callable[[Seen], bool]


def fits(text: str, context: Context) -> Fits:
    """Return whether a rule holds of a process. Raises FilterError with the place, RuleFault for what it cannot ask."""
    checked = check_among(parse(text), context, GROUPS["processes"], "processes")
    strange = [n for n in _names(checked) if n not in _ASKED]
    if strange:
        raise RuleFault("rule", f"A recogniser cannot ask for {strange[0]}; {', '.join(_ASKED)} it can.")
    return lambda seen: holds(checked, partial(_compares, seen))


def _names(checked: Checked) -> list[str]:
    match checked:
        case Every(items) | Either(items):
            return [n for i in items for n in _names(i)]
        case Without(item):
            return _names(item)
        case Cond(field):
            return [field.name]
    return ["that"]


def _compares(seen: Seen, cond: Cond) -> bool:
    value: str = getattr(seen, cond.field.name)
    if cond.field.name == "listens" and cond.op == "=":
        return str(cond.value) in value.split()
    return compares(cond, value)


def version_of(read: str, seen: Seen) -> str:
    """Return the version a pattern reads in a command: its first group; empty where it does not match."""
    if not read:
        return ""
    found = pattern(read).search(seen.command)
    return (found.group(1) or "") if found and found.groups() else ""


@dataclass(frozen=True, slots=True)
class Proposed:
    """A recogniser read from samples: its rule, where the version is read, what one instance is."""

    name: str
    rule: str
    version: str
    instance: str


def proposed(samples: Sequence[Seen], others: Iterable[Seen], context: Context) -> Proposed:
    """Return a recogniser for samples that fits as few others as can be: first by what is run, then by the program, and
    if others still fit, by account and ports that all samples have. Raises ValueError for no samples."""
    looks = [look(s) for s in samples]
    if not looks:
        raise ValueError("no samples")
    conditions = list(_conditions(samples, looks))
    rest = [o for o in set(others) if o not in set(samples)]
    rule = conditions[0]
    for more in conditions[1:]:
        holds = fits(rule, context)
        if not any(holds(o) for o in rest):
            break
        rule = f"{rule} and {more}"
    name = looks[0].stem.split("/")[0].replace("-", " ").replace("_", " ")
    listening = any(s.ports for s in samples)
    return Proposed(name[:1].upper() + name[1:], rule, _version(samples), INSTANCES[1] if listening else INSTANCES[0])


def _conditions(samples: Sequence[Seen], looks: Sequence[Look]) -> Iterable[str]:
    first = looks[0]
    if first.runs:
        shared = _shared(samples, first.runs)
        yield f"command ~ {quote(shared)}" if shared else f"command ~ /{_escaped(first.runs)}/"
    elif all(s.name and s.name == samples[0].name for s in samples) and first.program not in INTERPRETERS:
        yield f"name = {quote(samples[0].name)}"
    else:
        yield f"command ~ {quote(first.program)}"
    if first.runs:
        yield f"command ~ {quote(first.program)}"
    accounts = {s.account for s in samples}
    if len(accounts) == 1 and samples[0].account:
        yield f"account = {quote(samples[0].account)}"
    ports = sorted({p for s in samples for p in s.ports})
    if ports and all(s.ports for s in samples) and len(ports) <= 10:
        yield rf"listens ~ /\b({'|'.join(map(str, ports))})\b/"


def _shared(samples: Sequence[Seen], stem: str) -> str:
    """Return the word around a stem, such as rota-feed.jar, where all samples have the same."""
    words = {m[0] for s in samples if (m := re.search(rf"{re.escape(stem)}[\w.]*", s.command))}
    return words.pop() if len(words) == 1 and all(stem in s.command for s in samples) else ""


def _escaped(text: str) -> str:
    return re.escape(text).replace("/", r"\/")


_READ = re.compile(r"([A-Za-z][A-Za-z_]*(?:-[A-Za-z_]+)*)([-_/]v?)(\d+(?:\.\d+)+)")


def _version(samples: Sequence[Seen]) -> str:
    """Return a pattern for a release that stands in the commands of samples; empty where none does."""
    for sample in samples:
        for word, joint, _ in _READ.findall(sample.command):
            if word.lower() not in INTERPRETERS:
                return rf"{re.escape(word)}{joint}(\d+(?:\.\d+)+)"
    return ""


def too_wide(stems: Iterable[str]) -> str:
    """Return why a rule is no recogniser that fits programs of these stems; empty where it may be one."""
    distinct = sorted(set(stems))
    if len(distinct) <= MOST_STEMS:
        return ""
    first = ", ".join(distinct[:5])
    return f"It fits {len(distinct):,} different programs ({first} …): that tells none of them from the others."


@dataclass(frozen=True, slots=True)
class Recogniser:
    """A recogniser made ready: its number, name, and what it asks. `general`: it says what sort of program it is, not
    which; a program that one of those fits is as unknown as before."""

    number: int
    name: str
    holds: Fits
    version: str = ""
    instance: str = INSTANCES[0]
    general: bool = False

    def apart(self, seen: Seen) -> Hashable:
        """Return what tells an instance from others of this program on the same device: its first port (a second one,
        for looking after it, makes no other), its account, or nothing."""
        if self.instance == INSTANCES[1]:
            return seen.ports[:1]
        return seen.account if self.instance == INSTANCES[2] else None


def recognised(seen: Seen, by: Sequence[Recogniser]) -> Recogniser | None:
    """Return the recogniser that fits a process first; one that says which program it is comes before the others."""
    general = None
    for one in by:
        if one.holds(seen):
            if not one.general:
                return one
            general = general or one
    return general
