"""Fill rules: when an asset is like this, fill that field from this. Reckons what they would do; writes nothing.

A rule reads one thing of an asset (or reckons it), may match a pattern against it, compose a value of what matched,
and look that up in a table. Rules are asked in order: of several that fill one field of an asset the first does.
"""

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from tarn.core.fields import FIELDS
from tarn.core.formula import TODAY, Formula, FormulaError
from tarn.core.patterns import pattern
from tarn.core.text import fold

FILLABLE = ("kind", "state", "person", "department", "place", "note", "importance")
"""Fields of every asset that a rule may fill, beside the company's own."""

WHEN = {
    "new": "once, of assets that come after the rule was put in force",
    "change": "of every asset, and again when what it reads has changed",
    "always": "kept in step: withdrawn too where the rule no longer applies",
}

READS = {
    "network.place": "the place of the network it is on",
    "network.name": "the name of the network it is on",
    "switch.name": "the switch it is plugged into",
    "switch.place": "the place of that switch",
    "switch.port": "the port it is plugged into",
    "host.name": "the virtual host it runs on",
    "host.place": "the place of that virtual host",
    "person.department": "the department of the person who has it",
    "usual.account": "the account that was signed in last on most days of the last 60",
    "usual.person": "the person whose account was signed in last on most days of the last 60",
}
"""What a rule may read beside the asset's own fields."""


class FillError(ValueError):
    """A rule that cannot be; `field` says which part of it."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True)
class FillRule:
    """A rule: `reads` names what it reads, or `formula` reckons it; `pattern` (RE2) and `compose` take it apart and put
    it together (`{name}` for a named group, `{1}` for a numbered one, `{value}` for what was read); `table` looks
    the result up, letter case aside, `*` standing for everything else."""

    number: int
    name: str
    fills: str
    reads: str = ""
    formula: str = ""
    pattern: str = ""
    compose: str = ""
    table: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Filled:
    """What a rule makes of an asset: what it read, and the value; None where it has none to give."""

    read: str
    value: str | None


_BRACES = re.compile(r"\{(\w+)\}")


def _days() -> list[str]:
    return [name for name, field in FIELDS.items() if field.type == "moment"]


class Ready:
    """A rule made ready to be carried out. Raises FillError naming the part that is wrong."""

    def __init__(self, rule: FillRule) -> None:
        self.rule = rule
        if bool(rule.reads) == bool(rule.formula):
            raise FillError("reads", "A rule reads one thing of an asset, or reckons it by a formula: one of the two.")
        try:
            self._formula = Formula(rule.formula, "The rule", _days()) if rule.formula else None
        except FormulaError as error:
            raise FillError("formula", str(error)) from None
        try:
            self._pattern = pattern(rule.pattern) if rule.pattern else None
        except ValueError as error:
            raise FillError("pattern", f"The pattern cannot be read: {error}.") from None
        self._compose = rule.compose or self._first_group()
        groups = {"value", "0"}
        if self._pattern is not None:
            groups |= {*self._pattern.groupindex, *(str(i) for i in range(1, self._pattern.groups + 1))}
        self._wanted = tuple(dict.fromkeys(_BRACES.findall(self._compose)))
        for name in self._wanted:
            if name not in groups:
                raise FillError(
                    "compose", f"“{{{name}}}” is no group of the pattern; there are: {', '.join(sorted(groups))}."
                )
        # Most rules take one thing as it is; then nothing has to be put together.
        self._alone = self._wanted[0] if self._wanted and self._compose == f"{{{self._wanted[0]}}}" else ""
        self._made: dict[str, Filled] = {}
        self._table = {fold(k): v for k, v in rule.table.items()}

    def _first_group(self) -> str:
        if self._pattern is None or not self._pattern.groups:
            return "{value}" if self._pattern is None else "{0}"
        return f"{{{next(iter(self._pattern.groupindex), '1')}}}"

    @property
    def needs(self) -> set[str]:
        """What it reads of an asset."""
        return set(self._formula.names) - {TODAY} if self._formula else {self.rule.reads}

    def make(self, facts: Mapping[str, Any]) -> Filled | None:
        """Return what the rule makes of an asset's facts; None where what it reads is not known."""
        if self._formula is not None:
            number = self._formula.value(dict(facts))
            read = "" if number is None else f"{number:.15g}"
        else:
            read = "" if (held := facts.get(self.rule.reads)) is None else str(held)
        if not read:
            return None
        made = self._made.get(read)
        if made is None:
            made = self._made[read] = self._of(read)
        return made

    def _of(self, read: str) -> Filled:
        """Return what the rule makes of what it read, which is all it depends on."""
        found = None
        if self._pattern is not None and (found := self._pattern.search(read)) is None:
            return Filled(read, None)
        parts = {name: self._part(found, name, read) for name in self._wanted}
        made = (parts[self._alone] if self._alone else _BRACES.sub(lambda m: parts[m[1]], self._compose)).strip()
        if self._table:
            return Filled(read, self._table.get(fold(made), self._table.get("*")))
        return Filled(read, made or None)

    def _part(self, found: Any, name: str, read: str) -> str:
        if name == "value" or found is None:
            return read
        return found.group(int(name) if name.isdigit() else name) or ""


OUTCOMES = {
    "fills": "would be filled",
    "same": "holds that already",
    "pinned": "a person has said otherwise",
    "yields": "an earlier rule fills it",
    "wrong": "the value does not fit the field",
    "nothing": "the rule gives no value",
}


@dataclass(frozen=True, slots=True)
class Filling:
    """What comes of a rule on an asset: one of OUTCOMES, and why in words where that is not plain."""

    asset: int
    rule: int
    read: str
    value: Any
    before: Any
    outcome: str
    words: str = ""


def resolve(
    rules: Iterable[Ready],
    applies: Mapping[int, Iterable[int]],
    facts: Mapping[int, Mapping[str, Any]],
    pins: Mapping[int, Mapping[str, tuple[str, Any]]],
    fits: Any,
) -> Iterator[Filling]:
    """Yield what comes of rules, in their order, on the assets each applies to (by the rule's number).

    `facts`: by asset what is known of it. `pins`: by asset and field who has said what by hand. `fits(field, value)`
    returns the value as the field holds it; raises ValueError.
    """
    taken: dict[tuple[int, str], str] = {}
    for ready in rules:
        rule = ready.rule
        for asset in applies.get(rule.number, ()):
            known = facts[asset]
            made = ready.make(known)
            before = known.get(rule.fills)
            if made is None or made.value is None:
                said = f"{rule.reads or 'the formula'} is not known" if made is None else "what it read does not match"
                yield Filling(asset, rule.number, made.read if made else "", None, before, "nothing", said)
                continue
            try:
                value = fits(rule.fills, made.value)
            except ValueError as error:
                yield Filling(asset, rule.number, made.read, made.value, before, "wrong", str(error))
                continue
            if (first := taken.get((asset, rule.fills))) is not None:
                yield Filling(asset, rule.number, made.read, value, before, "yields", f"“{first}” comes before it")
                continue
            taken[asset, rule.fills] = rule.name
            pin = pins.get(asset, {}).get(rule.fills)
            if pin is not None and pin[1] != value:
                words = f"{pin[0]} says “{pin[1]}”, which stands"
                yield Filling(asset, rule.number, made.read, value, before, "pinned", words)
            else:
                yield Filling(asset, rule.number, made.read, value, before, "same" if before == value else "fills")
