"""Signs: what speaks for and against a sighting being of an asset, each with its weight, and what they come to."""

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from tarn.core.identifiers import SAYS, Identifier
from tarn.core.makers import akin

CLONE_WINDOW = 36 * 3600
"""Seconds within which two sightings at different addresses count as two devices at once."""

CLEAR = 3
"""By how much one asset must be ahead of another for a sighting to be of it all the same."""

FOR = {"tarn": 20, "instance": 8, "serial": 6, "uuid": 6, "own": 5, "mac": 4, "name": 3, "key": 2, "short": 2}
"""What agreement in a kind weighs. A serial number agrees where its maker is not told, or spelt otherwise."""

AGAINST = {"serial": 5, "uuid": 5, "domain": 4, "own": 3, "maker": 3, "mac": 2, "short": 1}
"""What it weighs where both tell of a kind and nothing agrees. A host key is made anew with every set-up, so another
one says nothing; a name changes; a board brings a number and a UUID of its own."""

_STRONG = frozenset({"tarn", "instance", "serial", "uuid", "own"})
_TELLING = frozenset({"serial", "uuid", "own", "mac"})
_DEFINITE = frozenset({"serial", "uuid"})
"""Kinds a device has from its maker: another value of one is another device, unless much else agrees."""


@dataclass(frozen=True, slots=True)
class KnownAsset:
    """What must be known of a candidate to judge it: all its identifiers, its name now, where and when it was last seen
    (seconds), and other names it has now by the word of some source (folded)."""

    held: Collection[str]
    name: str
    address: str | None
    last_seen: int
    also: frozenset[str] = frozenset()

    @property
    def names(self) -> frozenset[str]:
        """All names it has now, by whoever's word."""
        return self.also | {self.name} if self.name else self.also


class Told:
    """What a sighting tells, its identifiers by kind; where it was made and when."""

    __slots__ = ("address", "at", "kinds")

    def __init__(self, found: Iterable[Identifier], address: str | None, at: int) -> None:
        self.address, self.at = address, at
        self.kinds: dict[str, set[str]] = {}
        for identifier in found:
            self.kinds.setdefault(identifier.kind, set()).add(identifier.value)

    def with_keys(self, keys: Iterable[str]) -> "Told":
        """Return what this and other identifiers tell together."""
        whole = Told((), self.address, self.at)
        whole.kinds = {kind: set(values) for kind, values in self.kinds.items()}
        for kind, values in _by_kind(keys).items():
            whole.kinds.setdefault(kind, set()).update(values)
        return whole


@dataclass(frozen=True, slots=True)
class Weighed:
    """What the signs come to, and why in words; `usual` where that needs no saying beside what matched."""

    verdict: Literal["same", "other", "undecided"]
    score: int
    why: str = ""
    usual: bool = True


def _by_kind(keys: Iterable[str]) -> dict[str, set[str]]:
    out: dict[str, set[str]] = {}
    for key in keys:
        kind, _, value = key.partition(":")
        out.setdefault(kind, set()).add(value)
    return out


def _makers(serials: set[str], number: str) -> set[str]:
    return {made_by for n, _, made_by in (s.partition("|") for s in serials) if n == number}


def _serial(mine: dict[str, set[str]], theirs: dict[str, set[str]]) -> str:
    """Return how serial numbers compare: agree, alien (one number of two makers), differ, or nothing to compare."""
    a, b = mine.get("bare", set()), theirs.get("bare", set())
    if not a or not b:
        return ""
    if not (common := a & b):
        return "differ"
    for number in common:
        ours, others = _makers(mine.get("serial", set()), number), _makers(theirs.get("serial", set()), number)
        if not ours or not others or any(akin(x, y) for x in ours for y in others):
            return "agree"
    return "alien"


def _compared(
    mine: dict[str, set[str]], theirs: dict[str, set[str]], names: frozenset[str]
) -> tuple[set[str], set[str]]:
    """Return the kinds that agree and those that differ between two sets of identifiers; `names`: theirs now."""
    agree: set[str] = set()
    differ: set[str] = set()
    for kind in ("tarn", "instance", "uuid", "own", "mac", "key"):
        a, b = mine.get(kind), theirs.get(kind)
        if a and b:
            (agree if a & b else differ).add(kind)
    match _serial(mine, theirs):
        case "agree":
            agree.add("serial")
        case "alien":
            differ.add("maker")
        case "differ":
            differ.add("serial")
    called = next(iter(mine.get("short", ())), "")
    if called and names:
        if called not in names:
            differ.add("short")
        else:
            told, held = _domains(mine, called), _domains(theirs, called)
            if told and held and not told & held:
                differ.add("domain")
            else:
                agree.add("name" if told and held else "short")
    return agree, differ


def _domains(kinds: dict[str, set[str]], name: str) -> set[str]:
    return {d for short, _, d in (n.partition("|") for n in kinds.get("name", ())) if short == name}


class _Signs:
    """What speaks for and against one asset: kinds that `agree` and those that `differ`; of those that agree, the ones
    `holding` it, by which it was found and no other asset was; and what they weigh together."""

    __slots__ = ("agree", "differ", "facts", "first", "holding", "mine", "score", "theirs", "told")

    def __init__(self, told: Told, by: Sequence[Identifier], facts: KnownAsset) -> None:
        self.told, self.facts, self.first = told, facts, by[0]
        self.mine, self.theirs = told.kinds, _by_kind(facts.held)
        self.agree, self.differ = _compared(self.mine, self.theirs, facts.names)
        counted = {i.kind for i in by}
        holding = self.agree & ({*counted, "serial"} if counted & {"serial", "bare"} else counted)
        self.holding = holding | (self.agree & {"name", "short"} if counted & {"name", "short"} else set())
        self.score = sum(FOR[kind] for kind in self.holding) - sum(AGAINST.get(kind, 0) for kind in self.differ)

    @property
    def strong(self) -> set[str]:
        """What holds it of numbers that are one device's."""
        return self.holding & _STRONG

    @property
    def all_else_stayed(self) -> bool:
        """Whether name and all hardware addresses are as they were."""
        named = "short" in self.agree or "name" in self.agree
        return named and "mac" in self.agree and self.mine["mac"] == self.theirs.get("mac")

    @property
    def all_else_changed(self) -> bool:
        """Whether one number alone agrees, while name and every hardware address are another's."""
        numbers = self.holding <= {"serial", "uuid", "own", "key"} and len(self.holding - {"key"}) < 2
        return {"mac", "short"} <= self.differ and numbers

    @property
    def only_a_uuid(self) -> bool:
        """Whether of what is strong a UUID alone agrees, under another name and with no address to back it."""
        return self.strong == {"uuid"} and "short" in self.differ and "mac" not in self.holding

    @property
    def elsewhere(self) -> bool:
        """Whether it was seen at another address at nearly the same time."""
        return _elsewhere(self.told, self.facts)

    def same(self, why: str = "") -> Weighed:
        """Return that it is the same device; with a reason where that is not usual."""
        return Weighed("same", max(self.score, 1) if why else self.score, why, usual=not why)

    def other(self, why: str | None = None) -> Weighed:
        """Return that it is another device, by default for what differs."""
        return Weighed("other", self.score, _against(self.differ, self.first) if why is None else why)

    def undecided(self, why: str) -> Weighed:
        """Return that it cannot be told."""
        return Weighed("undecided", self.score, why)


@dataclass(frozen=True, slots=True)
class _Rule:
    """One line of the table: where `when` holds of the signs, `then` says what they come to."""

    when: Callable[[_Signs], bool]
    then: Callable[[_Signs], Weighed]


_COPIED_KEY = "the presented key was copied: every hardware address is another"
_RULES = (
    _Rule(lambda s: not s.holding, lambda s: s.other(_unmatched(s.first, s.differ))),
    _Rule(lambda s: bool(s.holding & {"tarn", "instance"}), lambda s: _numbered(s)),
    _Rule(
        lambda s: s.all_else_stayed and bool(s.differ & _DEFINITE),
        lambda s: s.same("its board was exchanged: name and all hardware addresses are as they were"),
    ),
    _Rule(lambda s: s.all_else_changed, lambda s: _clone(s)),
    _Rule(lambda s: bool(s.differ & _DEFINITE) and len(s.holding & _TELLING) < 2, lambda s: s.other()),
    # One UUID under two names at two addresses at once: a copy.
    _Rule(
        lambda s: s.only_a_uuid and s.elsewhere,
        lambda s: s.other(f"two devices with the {_said(s.first)} were seen at nearly the same time"),
    ),
    # A UUID goes with every copy of a virtual machine; that the name changed needs a second witness.
    _Rule(
        lambda s: s.only_a_uuid and s.score > 0,
        lambda s: s.undecided(f"the {SAYS['uuid']} agrees, but the name is another"),
    ),
    _Rule(lambda s: bool(s.strong), lambda s: s.same() if s.score > 0 else s.other()),
    _Rule(lambda s: "maker" in s.differ, lambda s: s.other()),
    _Rule(
        lambda s: "domain" in s.differ,
        lambda s: s.other(f"the device called {s.facts.name} belongs to another domain"),
    ),
    _Rule(lambda s: "mac" in s.holding, lambda s: _by_address(s)),
    _Rule(lambda s: s.holding == {"key"} and "mac" in s.differ, lambda s: s.other(_COPIED_KEY)),
    _Rule(lambda s: s.holding == {"key"}, lambda s: s.same()),
    _Rule(
        lambda s: "mac" in s.differ and s.elsewhere,
        lambda s: s.other("another device of that name was seen at nearly the same time elsewhere"),
    ),
    _Rule(
        lambda s: "mac" in s.differ,
        lambda s: s.undecided("the name agrees, but every hardware address is another"),
    ),
    _Rule(lambda s: True, lambda s: s.same()),
)
"""What signs come to: the first line that applies says it."""


def weigh(told: Told, by: Sequence[Identifier], facts: KnownAsset) -> Weighed:
    """Judge an asset that answers to some identifiers of a sighting: the same device, another, or not to be decided.

    `by`: the identifiers it answers to and no other asset does.
    """
    signs = _Signs(told, by, facts)
    return next(rule for rule in _RULES if rule.when(signs)).then(signs)


def _elsewhere(told: Told, facts: KnownAsset) -> bool:
    """Whether a sighting was made at another address than the asset's at nearly the same time."""
    apart = bool(told.address and facts.address) and facts.address != told.address
    return apart and abs(told.at - facts.last_seen) < CLONE_WINDOW


def _said(identifier: Identifier) -> str:
    return f"{SAYS[identifier.kind]} {identifier.value.partition('|')[0]}"


def _numbered(signs: _Signs) -> Weighed:
    """A number that was issued: it stands, unless what the sighting tells of the machine is all another's."""
    machine = {"serial", "uuid", "mac", "name", "short"}
    if signs.differ & {"serial", "uuid", "mac", "maker"} and not signs.agree & machine:
        named = " and ".join(SAYS[k] for k in ("serial", "uuid", "mac") if k in signs.differ) or "maker"
        kind = SAYS["tarn" if "tarn" in signs.holding else "instance"]
        return signs.undecided(f"{kind} agrees, but the {named} are another's: a number copied")
    return Weighed("same", max(signs.score, FOR[signs.first.kind]))


def _clone(signs: _Signs) -> Weighed:
    """One number agrees, while name and every hardware address are another's: a copy, or a device all changed."""
    if signs.differ & _DEFINITE:
        return signs.other()
    if signs.elsewhere:
        return signs.other(f"two devices with the {_said(signs.first)} were seen at nearly the same time")
    kind = next((k for k in ("serial", "uuid", "own") if k in signs.holding), "")
    if not kind:
        return signs.other(_COPIED_KEY)
    return signs.undecided(f"the {SAYS[kind]} agrees, but name and hardware addresses all differ")


def _by_address(signs: _Signs) -> Weighed:
    """Hardware addresses agree and nothing stronger: adapters and docks go round, so another name speaks against it.

    It is the same where the name agrees or is not told, where all addresses are the same, or where a system of record
    knows the device under a name of its own ("Ines's phone") by nothing but addresses of the sighting.
    """
    mine, theirs = signs.mine, signs.theirs
    if "short" not in signs.differ or mine["mac"] == theirs["mac"]:
        return signs.same()
    recorded = theirs["mac"] <= mine["mac"] and bool(theirs.get("instance"))
    records = mine["mac"] <= theirs["mac"] and bool(mine.get("instance"))
    if recorded or records:
        return signs.same()
    return signs.other("a hardware address agrees, but names and others differ: an adapter went round")


def _unmatched(first: Identifier, differ: set[str]) -> str:
    if "short" in differ and first.kind in ("name", "short"):
        return f"the asset once called {first.value.partition('|')[0]} has another name now"
    if "maker" in differ:
        return f"the serial number {first.value.partition('|')[0]} is of another maker"
    return _against(differ, first) if differ else ""


def _against(differ: set[str], first: Identifier) -> str:
    kind = next((k for k in ("serial", "uuid", "own", "mac") if k in differ), "")
    if not kind:
        return f"the serial number {first.value.partition('|')[0]} is of another maker" if "maker" in differ else ""
    return f"its {SAYS[kind]} differs from that of the asset with the {SAYS[first.kind]}"


def one_device(told: Told, whole: Told, facts: KnownAsset) -> bool:
    """Whether another asset is the same device as all that was joined so far (`whole`), as a sighting shows.

    It is where nothing by which two devices are told apart differs, and it has the sighting's name, its serial number,
    or is known to a system of record by nothing but addresses of the sighting.
    """
    theirs = _by_kind(facts.held)
    agree, differ = _compared(whole.kinds, theirs, frozenset())
    if differ & {"serial", "uuid", "maker", "mac", "own"}:
        return False
    name = next(iter(told.kinds.get("short", ())), "")
    addresses = theirs.get("mac", set())
    recorded = bool(addresses and theirs.get("instance")) and addresses <= told.kinds.get("mac", set())
    return name in facts.names or "serial" in agree or recorded
