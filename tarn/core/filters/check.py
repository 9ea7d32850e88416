"""Checking a filter's tree against the registry: names, types, values. Yields a typed tree.

The typed tree is what a compiler turns into a query. Phrases and moments are resolved;
`!=` and `!~` become a negation, so that what is absent is counted as different.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from dataclasses import field as dataclass_field
from typing import Any, Literal, Union

from tarn.core.branches import HIERARCHIES
from tarn.core.fields import FIELDS, GROUPS, RECKONED, TYPES, Field
from tarn.core.filters.parse import FilterError
from tarn.core.filters.tree import (
    All,
    Any_,
    Between,
    Compare,
    Counted,
    Has,
    InSet,
    Moment,
    Node,
    Not,
    Pattern,
    Phrase,
    Plain,
    Presence,
    Related,
    Unread,
    Value,
    Within,
    Words,
)
from tarn.core.filters.values import Clock, address_span, by_clock, hardware_part, moment_span, scalar, wrong
from tarn.core.own import made_of
from tarn.core.patterns import pattern
from tarn.core.ranges import RangeError, range_keys
from tarn.core.rulings import NO_RULING, VERDICTS
from tarn.core.sections import FACTS
from tarn.core.text import fold, nearest

Op = Literal["=", "<", "<=", ">", ">=", "contains", "matches", "between", "lies in", "present"]

READABLE = {
    **{name: {"software": "packages"}.get(name, name) for name in GROUPS if name not in RECKONED},
    **{name: name for name in FACTS if name not in ("placement", "decision")},
}
"""What is read of a device, by the word for it, and the section of evidence behind it."""

_TEXTUAL = ("text", "version", "address", "addresses", "hardware address")
"""Types that are looked through for a piece of text or by a regular expression."""

_UNORDERED = ("text", "choice", "yes/no", "addresses", "hardware address")


@dataclass(frozen=True, slots=True)
class Cond:
    """One condition on one field; `value` is typed, a pair for `between` (high end out for moments) and `lies in`."""

    field: Field
    op: Op
    value: Any = None


@dataclass(frozen=True, slots=True)
class Every:
    """All hold."""

    items: tuple["Checked", ...]


@dataclass(frozen=True, slots=True)
class Either:
    """At least one holds."""

    items: tuple["Checked", ...]


@dataclass(frozen=True, slots=True)
class Without:
    """It does not hold."""

    item: "Checked"


@dataclass(frozen=True, slots=True)
class Some:
    """Some item of the group has all of `inner`."""

    group: str
    inner: "Checked | None"


@dataclass(frozen=True, slots=True)
class Number:
    """How many items of the group have `inner`, against a number."""

    group: str
    inner: "Checked | None"
    op: str
    number: int


@dataclass(frozen=True, slots=True)
class Member:
    """The condition a kept set stands for, already checked."""

    name: str
    condition: "Checked"


@dataclass(frozen=True, slots=True)
class RelatedTo:
    """It is in that relation to an asset of which this holds; `heard`: as it was confirmed within so many seconds."""

    relation: str
    other: "Checked"
    heard: int | None = None


@dataclass(frozen=True, slots=True)
class NeverRead:
    """This section of it was never read."""

    section: str


Checked = Union[Cond, Every, Either, Without, Some, Number, Member, RelatedTo, NeverRead]


@dataclass(frozen=True)
class Context:
    """What a check needs to know: the clock, the phrases, and how to read a kept set's filter.

    `set_filter(name)` gives the parsed filter of a live set, or raises KeyError.
    """

    clock: Clock
    phrases: Mapping[str, tuple[Value, ...]]
    set_filter: Callable[[str], Node]
    set_names: Callable[[], list[str]] = list
    branch: Callable[[str, str], tuple[str, ...]] = lambda field, name: (name,)
    """A name in the tree of a field, and all that lies under it."""
    rests_on: set[str] = dataclass_field(default_factory=set)
    """What was consulted beside the filter's own words, noted as it is: some of RESTS_ON."""


RESTS_ON = ("clock", "sets", "phrases", "trees", "rulings", "people", "advisories", "standing")
"""What may make one filter mean something else without new evidence."""
_UNIT = {"h": 3_600, "d": 86_400, "w": 604_800}
_LONGEST_HEARD = 520 * 604_800
_BY_EVIDENCE = frozenset(("guest of", "plugged into", "powered by", "mounts"))
"""Relations that follow from evidence alone; the others go by what people say is noise, too."""
_BY_FIELD = {
    "ruling.verdict": "rulings",
    "holder.left": "people",
    "account.left": "people",
    "told.grade": "advisories",
    "told.open": "advisories",
    "told.carried": "standing",
}


def check(node: Node, context: Context) -> Checked:
    """Check a tree and return it typed. Raises FilterError with the place and the nearest known name."""
    return _Check(context, ()).node(node, FIELDS, "")


def check_among(node: Node, context: Context, known: Mapping[str, Field], what: str) -> Checked:
    """Check a condition on things that are `what`, with these fields. Raises FilterError."""
    return _Check(context, ()).node(node, known, what)


class _Check:
    def __init__(self, context: Context, inside: tuple[str, ...]) -> None:
        self.context, self.inside = context, inside

    def node(self, node: Node, known: Mapping[str, Field], group: str) -> Checked:
        match node:
            case All(items):
                return Every(tuple(self.node(i, known, group) for i in items))
            case Any_(items):
                return Either(tuple(self.node(i, known, group) for i in items))
            case Not(item):
                return Without(self.node(item, known, group))
            case Compare():
                return self._compare(node, known, group)
            case Within(name, values, pos):
                field = self._field(name, known, group, pos)
                wanted = [w for v in values for w in self._with_branch(field, v)]
                return Either(tuple(self._one(field, "=", v, pos) for v in wanted))
            case Presence(name, present, pos):
                field = self._field(name, known, group, pos)
                if field.stored == "ruling.verdict":  # no ruling is a word of its own there
                    ruled = tuple(Cond(field, "=", v) for v in VERDICTS if v != NO_RULING)
                    return Either(ruled) if present else Cond(field, "=", NO_RULING)
                cond = Cond(field, "present")
                return cond if present else Without(cond)
            case Words(words):
                return Every(tuple(self._word(w, known) for w in words))
        if group:
            what = "A set" if isinstance(node, InSet) else "A list within a list"
            raise FilterError(f"{what} cannot stand inside {group}[…].", node.pos, node.pos + 1)
        match node:
            case Has(name, inner, no, pos):
                some = Some(name, self._inner(name, inner, pos))
                return Without(some) if no else some
            case Counted(name, op, number, inner, pos):
                count = Field(f"count {name}", "number", "", "")
                if op not in ("=", "!=", "<", "<=", ">", ">=") or not isinstance(number, Plain):
                    raise FilterError(f"count {name} is compared with a number by = != < <= > >=.", pos)
                amount = int(scalar(count, number))
                checked = Number(name, self._inner(name, inner, pos), "=" if op == "!=" else op, amount)
                return Without(checked) if op == "!=" else checked
            case Unread(name, pos):
                if name not in READABLE:
                    tries = nearest(name, list(READABLE))
                    message = f"“{name}” is nothing that is read of a device; {', '.join(READABLE)} are."
                    raise FilterError(message, pos, pos + len(name), tries)
                return NeverRead(READABLE[name])
            case InSet(name, pos):
                return self._set(name, pos)
            case Related(relation, other, no, pos, heard):
                if relation not in _BY_EVIDENCE:
                    self.context.rests_on.add("standing")
                related = RelatedTo(relation, self.node(other, FIELDS, ""), self._lately(heard, pos))
                return Without(related) if no else related
        raise AssertionError(node)

    def _lately(self, heard: str, pos: int) -> int | None:
        if not heard:
            return None
        self.context.rests_on.add("clock")
        seconds = int(heard[:-1]) * _UNIT[heard[-1]]
        if not 0 < seconds <= _LONGEST_HEARD:
            raise FilterError(f"“heard within {heard}” is no time to look back: say 1h to 520w.", pos)
        return seconds

    def _with_branch(self, field: Field, value: Value) -> tuple[Value, ...]:
        if field.name not in HIERARCHIES or not isinstance(value, Plain):
            return (value,)
        self.context.rests_on.add("trees")
        return tuple(Plain(name, True, value.pos) for name in self.context.branch(field.name, value.text))

    def _field(self, name: str, known: Mapping[str, Field], group: str, pos: int) -> Field:
        if (plain := known.get(name) or known.get(name.lower())) is not None:
            self._note(plain)
            return plain
        if name.startswith("field:"):
            if (
                found := next((n for n in known if n.startswith("field:") and fold(n) == fold(name)), None)
            ) is not None:
                self._note(known[found])
                return known[found]
            raise FilterError(f"The company has no field of its own called “{name[6:]}”.", pos, pos + len(name))
        tries = nearest(name, list(known))
        where = f"{group}[…] has" if group else "There is"
        message = f"{where} no field “{name}”." + (f" Did you mean {tries[0]}?" if tries else "")
        raise FilterError(message, pos, pos + len(name), tries)

    def _note(self, field: Field) -> None:
        """Note what a field goes by; one that is made of others goes by what they do."""
        if (ground := _BY_FIELD.get(field.stored)) is not None:
            self.context.rests_on.add(ground)
        for name in made_of(field):
            self._note(FIELDS[name])

    def _inner(self, group: str, inner: Node | None, pos: int) -> Checked | None:
        if group not in GROUPS:
            tries = nearest(group, list(GROUPS))
            message = f"There is no list “{group}”." + (f" Did you mean {tries[0]}?" if tries else "")
            raise FilterError(message, pos, pos + len(group), tries)
        if group in RECKONED:
            self.context.rests_on.add("advisories")
        return None if inner is None else self.node(inner, GROUPS[group], group)

    def _set(self, name: str, pos: int) -> Checked:
        end = pos + len(name) + 2
        self.context.rests_on.add("sets")
        if name in self.inside:
            path = " → ".join([*self.inside[self.inside.index(name) :], name])
            raise FilterError(f"The sets ask for each other in a circle: {path}.", pos, end)
        try:
            tree = self.context.set_filter(name)
        except KeyError:
            tries = nearest(name, self.context.set_names())
            message = f"There is no set “{name}”." + (f" Did you mean “{tries[0]}”?" if tries else "")
            raise FilterError(message, pos, end, [f'"{t}"' for t in tries]) from None
        return Member(name, _Check(self.context, (*self.inside, name)).node(tree, FIELDS, ""))

    def _word(self, word: str, known: Mapping[str, Field]) -> Checked:
        return Either(tuple(Cond(f, "contains", _sought(f, word)) for f in known.values() if f.bare))

    def _compare(self, node: Compare, known: Mapping[str, Field], group: str) -> Checked:
        field = self._field(node.field, known, group, node.pos)
        if node.op in ("!=", "!~"):
            return Without(self._one(field, node.op[1], node.value, node.pos))
        return self._one(field, node.op, node.value, node.pos)

    def _one(self, field: Field, op: str, value: Value, pos: int) -> Checked:
        if isinstance(value, Phrase):
            return self._phrase(field, op, value)
        if isinstance(value, Pattern):
            return self._pattern(field, value, pos)
        if isinstance(value, Between):
            if op != "=":
                raise FilterError("A range goes with = or in.", value.pos)
            return self._between(field, value)
        if isinstance(value, Plain) and not value.text.strip():
            message = f"Nothing is compared with an empty text: “{field.name} = none” asks for what has no value."
            raise FilterError(message, value.pos, value.pos + 2)
        if op == "~":
            if field.type not in _TEXTUAL or not isinstance(value, Plain):
                raise self._no_text(field, "“~” looks for a piece of text", pos)
            return Cond(field, "contains", _sought(field, value.text))
        if field.type == "moment":
            return self._moment(field, op, value)
        if isinstance(value, Moment):
            raise wrong(field, value)
        if field.type == "address":
            low, high = address_span(field, value)
            if op == "=":
                return Cond(field, "between", (low, high))
            return Cond(field, op, low if op in ("<", ">=") else high)  # type: ignore[arg-type]
        if field.type == "addresses" and op == "=":
            try:
                return Cond(field, "lies in", range_keys(value.text))
            except RangeError as error:
                if "/" in value.text and value.text[:1].isdigit():
                    raise FilterError(str(error), value.pos, value.pos + len(value.text)) from None
        if op != "=" and field.type in _UNORDERED:
            raise FilterError(f"{field.name} is not ordered: use = != ~ or in.", pos, pos + len(field.name))
        return Cond(field, op, scalar(field, value))  # type: ignore[arg-type]

    def _phrase(self, field: Field, op: str, value: Phrase) -> Checked:
        self.context.rests_on.add("phrases")
        if value.name not in self.context.phrases:
            tries = ["@" + t for t in nearest(value.name, list(self.context.phrases))]
            message = f"There is no phrase “@{value.name}”." + (f" Did you mean {tries[0]}?" if tries else "")
            raise FilterError(message, value.pos, value.pos + len(value.name) + 1, tries)
        return Either(tuple(self._one(field, op, v, value.pos) for v in self.context.phrases[value.name]))

    def _pattern(self, field: Field, value: Pattern, pos: int) -> Checked:
        if field.type not in _TEXTUAL:
            raise self._no_text(field, "a regular expression looks through text", pos)
        try:
            pattern(value.text)
        except ValueError as error:
            end = value.pos + len(value.text) + 2
            raise FilterError(f"The regular expression is refused: {error}.", value.pos, end) from None
        return Cond(field, "matches", value.text)

    def _no_text(self, field: Field, asked: str, pos: int) -> FilterError:
        signs = "= or in" if field.type in _UNORDERED else "= < <= > >= or in"
        said = f"one of: {', '.join(field.choices)}" if field.type == "choice" else TYPES[field.type]
        message = f"{asked[0].upper()}{asked[1:]}, and {field.name} is {said}. Use {signs}."
        return FilterError(message, pos, pos + len(field.name))

    def _between(self, field: Field, value: Between) -> Checked:
        low, high = value.low, value.high
        op: Op = "between"
        pair: tuple[Any, Any]
        if field.type == "moment":
            pair = self._span(field, low)[0], self._span(field, high)[1]
        elif isinstance(low, Moment) or isinstance(high, Moment):
            raise wrong(field, low)
        elif field.type == "address":
            pair = address_span(field, low)[0], address_span(field, high)[1]
        elif field.type == "addresses":
            pair = address_span(field, low)[0], address_span(field, high)[1]
            op = "lies in"
        elif field.type in _UNORDERED:
            raise FilterError(f"{field.name} is not ordered: a range has no meaning.", value.pos)
        else:
            pair = scalar(field, low), scalar(field, high)
        if pair[0] > pair[1]:  # type: ignore[operator]
            raise FilterError("The range ends before it begins.", value.pos)
        return Cond(field, op, pair)

    def _span(self, field: Field, value: Plain | Moment) -> tuple[int, int]:
        if by_clock(value):
            self.context.rests_on.add("clock")
        return moment_span(field, value, self.context.clock)

    def _moment(self, field: Field, op: str, value: Plain | Moment) -> Checked:
        first, after = self._span(field, value)
        match op:
            case "=":
                return Cond(field, "between", (first, after))
            case "<" | ">=":
                return Cond(field, op, first)
            case "<=":
                return Cond(field, "<", after)
        return Cond(field, ">=", after)


def _sought(field: Field, text: str) -> str:
    """Return a piece of text as it is looked for in a field."""
    return hardware_part(text) if field.type == "hardware address" else fold(text)
