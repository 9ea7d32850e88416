"""Identity: which asset a sighting is of.

Identifiers are tried strongest first. One that several assets hold tells nothing and
loses its weight by itself. A match that all other evidence contradicts is not taken:
it is a clone where both were seen at nearly the same time, and otherwise waits for a person.
An address alone never identifies anything.
"""

import re
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from typing import Literal

from tarn.core.makers import maker
from tarn.core.sections import Identity
from tarn.core.text import fold

TIERS = ("tarn", "serial", "uuid", "instance", "bare", "mac", "key", "name", "short")
"""Kinds of identifier, the strongest first. `bare`: a serial number whatever its maker, for sources that do not
tell the maker; `key`: a fingerprint the device presents (host key, certificate); `short`: a name whatever its
domain, for sources that do not tell the domain."""

STRONG = frozenset({"tarn", "serial", "uuid", "instance"})
"""Kinds that need no other beside them."""

SAYS = {
    "tarn": "the number Tarn issued",
    "serial": "serial number",
    "uuid": "hardware UUID",
    "instance": "instance id",
    "bare": "serial number (its maker not told)",
    "mac": "hardware address",
    "key": "presented key",
    "name": "name and domain",
    "short": "name (its domain not told)",
}

CLONE_WINDOW = 36 * 3600
"""Seconds within which two sightings at different addresses count as two devices at once."""

_PLACEHOLDER = re.compile(
    r"^(to be filled.*|default string|not (specified|applicable|available)|none|n/?a|unknown|system "
    r"(serial number|product name|manufacturer)|o\.?e\.?m\.?|invalid|empty|chassis serial number|"
    r"base board serial number|[-._ 0]*|[x*#]+|1234567(8(9(0)?)?)?|0?123456789|(?P<c>.)(?P=c){3,})$"
)
_UUID = re.compile(r"^[0-9a-f]{8}(-?[0-9a-f]{4}){3}-?[0-9a-f]{12}$")
_DEFAULT_UUIDS = frozenset({"03000200040005000006000700080009", "00020003000400050006000700080009"})
_SHARED_ADAPTERS = ("00:00:5e:00:01:", "00:00:5e:00:02:")
"""Virtual router addresses (RFC 9568, section 7.3): they move between devices."""


class Identifier:
    """One identifier, normalised for comparison; `key` is the whole as one text, as it is indexed."""

    __slots__ = ("key", "kind", "value")

    def __init__(self, kind: str, value: str) -> None:
        self.kind, self.value = kind, value
        self.key = f"{kind}:{value}"

    def __repr__(self) -> str:
        return f"Identifier({self.key})"


def is_placeholder(value: str | None) -> bool:
    """Whether a maker left this in where a real value belongs."""
    return value is None or bool(_PLACEHOLDER.match(value.strip().lower()))


def stable_mac(mac: str) -> bool:
    """Whether a hardware address stays with one device.

    Locally administered and group addresses (IEEE 802-2014, 8.2) and virtual router
    addresses do not.
    """
    first = int(mac[:2], 16)
    return not first & 0x03 and not mac.startswith(_SHARED_ADAPTERS) and mac != "00:00:00:00:00:00"


def identifiers(identity: Identity) -> list[Identifier]:
    """Return what identifies the device, strongest first; placeholders are left out."""
    out: list[Identifier] = []
    bare = ""
    if identity.tarn:
        out.append(Identifier("tarn", identity.tarn.upper()))
    if not is_placeholder(identity.serial) and identity.serial and len(identity.serial.strip()) > 3:
        made_by = fold(maker(identity.manufacturer or "")).strip()
        number = identity.serial.strip().upper()
        if made_by:
            out.append(Identifier("serial", f"{number}|{made_by}"))
        bare = number
    if identity.uuid:
        uuid = identity.uuid.strip().lower()
        plain = uuid.replace("-", "")
        if _UUID.match(uuid) and len(set(plain)) > 2 and plain not in _DEFAULT_UUIDS:
            out.append(Identifier("uuid", plain))
    if identity.instance:
        out.append(Identifier("instance", identity.instance))
    if bare:
        out.append(Identifier("bare", bare))
    out += [Identifier("mac", m) for m in dict.fromkeys(identity.macs) if stable_mac(m)]
    out += [Identifier("key", k) for k in dict.fromkeys(identity.keys)]
    if identity.name and fold(identity.name) not in ("localhost", "localhost.localdomain", "(none)"):
        short, _, rest = identity.name.partition(".")
        if domain := fold(identity.domain or rest):
            out.append(Identifier("name", f"{fold(short)}|{domain}"))
        out.append(Identifier("short", fold(short)))
    return out


Held = int | tuple[int, ...] | None
"""The holders of an identifier as an index keeps them: one asset, several, or none."""


class Match:
    """The outcome: the asset, none (a new one), or undecided between several; and why, in words.

    `absorbs`: other assets that this evidence shows to be the same device, for each was known by a part of it only.
    """

    __slots__ = ("_found", "_reasons", "absorbs", "asset", "candidates", "verdict")

    def __init__(
        self,
        verdict: Literal["same", "new", "undecided"],
        asset: int | None,
        reasons: list[str] | None,
        candidates: Sequence[int] = (),
        found: Sequence[Identifier] = (),
        absorbs: Sequence[int] = (),
    ) -> None:
        self.verdict, self.asset, self._reasons = verdict, asset, reasons
        self.candidates, self._found, self.absorbs = candidates, found, absorbs

    @property
    def reasons(self) -> list[str]:
        """Why, in words; put together when asked for."""
        if self._reasons is None:
            self._reasons = ["matched by " + _listed(self._found)]
        return self._reasons


@dataclass(frozen=True, slots=True)
class Known:
    """What must be known of a candidate to judge a contradiction: all its identifiers, its name now,
    where and when it was last seen (seconds)."""

    held: Collection[str]
    name: str
    address: str | None
    last_seen: int


def match(
    found: list[Identifier],
    held: Callable[[str], Held],
    known: Callable[[int], Known],
    *,
    address: str | None,
    at: int,
) -> Match:
    """Decide which asset a sighting with these identifiers is of.

    `held(key)` gives the holders of an identifier as an index keeps them; `known(asset)` what is
    held of one, asked only where a match has to be weighed.
    """
    if found and found[0].kind in STRONG:
        # The common case: one asset holds all of them, so nothing speaks against it.
        only = held(found[0].key)
        if only.__class__ is int:
            for identifier in found:
                if held(identifier.key) != only:
                    break
            else:
                return Match("same", only, None, (), found)

    def holders(key: str) -> tuple[int, ...]:
        have = held(key)
        return () if have is None else (have,) if isinstance(have, int) else have

    reasons: list[str] = []
    twins: list[int] = []
    for tier in TIERS:
        mine = [i for i in found if i.kind == tier]
        owners: dict[int, list[Identifier]] = {}
        for identifier in mine:
            have = set(holders(identifier.key))
            if len(have) > 1 and tier != "tarn":
                reasons.append(f"{_say(identifier)} is shared by {len(have)} assets, so it tells nothing")
            else:
                for asset in have:
                    owners.setdefault(asset, []).append(identifier)
        owners = {a: i for a, i in owners.items() if a not in twins}
        if not owners:
            continue
        if len(owners) > 1:
            reasons.append(f"several assets answer to its {SAYS[tier]}es")
            return Match("undecided", None, reasons, sorted(owners))
        asset, by = next(iter(owners.items()))
        verdict, why = _weigh(tier, by, found, asset, holders, known, address, at)
        if why:
            reasons.append(why)
        if verdict == "same":
            agree = [i for i in found if i.kind != tier and asset in holders(i.key)]
            reasons.append("matched by " + _listed([*by, *agree]))
            absorbs = _bridged(found, asset, {a for i in found for a in holders(i.key)} - {asset, *twins}, known)
            if absorbs:
                reasons.append(f"it joins {len(absorbs)} more that were known by a part of its identifiers only")
            return Match("same", asset, reasons, absorbs=absorbs)
        if verdict == "undecided":
            return Match("undecided", None, reasons, [asset])
        twins.append(asset)
    return Match("new", None, reasons or ["nothing held matches its identifiers"])


_TELLING_APART = ("serial", "bare", "uuid", "mac")
"""Kinds of which two different values speak for two devices."""


def _bridged(
    found: list[Identifier], asset: int, others: Collection[int], known: Callable[[int], Known]
) -> tuple[int, ...]:
    """Return the assets that one sighting shows to be the same device as `asset`.

    Such an asset holds some of its identifiers, has no other name, and nothing by which two devices are told apart
    speaks against it: neither beside the sighting nor beside the asset. What another system knows under a name of its
    own ("Ines's phone") joins likewise, where all its hardware addresses are among the sighting's.
    """
    if not others:
        return ()
    name = next((i.value for i in found if i.kind == "short"), "")
    mine = {i.key for i in found} | set(known(asset).held)
    out = []
    for other in sorted(others):
        facts = known(other)
        theirs = set(facts.held)
        if not name or (facts.name != name and not _recorded_by_address(theirs, mine)):
            continue
        if all(_agree(kind, mine, theirs) for kind in _TELLING_APART):
            out.append(other)
    return tuple(out)


def _recorded_by_address(theirs: set[str], mine: set[str]) -> bool:
    macs = {k for k in theirs if k.startswith("mac:")}
    return bool(macs) and macs <= mine and any(k.startswith("instance:") for k in theirs)


def _agree(kind: str, mine: set[str], theirs: set[str]) -> bool:
    a, b = ({k for k in keys if k.startswith(kind + ":")} for keys in (mine, theirs))
    return not a or not b or bool(a & b)


def _listed(found: Sequence[Identifier]) -> str:
    """Say identifiers in a row: of many of one kind only how many; a bare serial number says nothing beside a whole."""
    kinds: dict[str, list[Identifier]] = {}
    for identifier in found:
        kinds.setdefault(identifier.kind, []).append(identifier)
    for whole, part in (("serial", "bare"), ("name", "short")):
        if whole in kinds:
            kinds.pop(part, None)
    parts: list[str] = []
    for kind, several in kinds.items():
        parts += [f"{len(several)} {SAYS[kind]}es"] if len(several) > 2 else [_say(i) for i in several]
    return ", ".join(parts)


def _say(identifier: Identifier) -> str:
    value = identifier.value.partition("|")[0]
    return f"{SAYS[identifier.kind]} {value}"


def _weigh(
    tier: str,
    by: list[Identifier],
    found: list[Identifier],
    asset: int,
    holders: Callable[[str], Collection[int]],
    known: Callable[[int], Known],
    address: str | None,
    at: int,
) -> tuple[Literal["same", "other", "undecided"], str]:
    """Judge a single candidate: the same device, another one, or not to be decided here."""
    if tier in ("tarn", "instance"):
        return "same", ""
    place = TIERS.index(tier)
    stronger = [i for i in found if TIERS.index(i.kind) < place or (tier == "uuid" and i.kind == "bare")]
    weaker = [i for i in found if TIERS.index(i.kind) > place]
    if tier in ("name", "short") or stronger:
        facts = known(asset)
        if tier in ("name", "short") and facts.name != by[0].value.partition("|")[0]:
            return "other", f"the asset once called {by[0].value.partition('|')[0]} has another name now"
        if tier == "short" and (told := _domains(found)) and (theirs := _domains_held(facts)) and not told & theirs:
            return "other", f"the device called {by[0].value} belongs to another domain"
        for identifier in stronger:
            own = [k for k in facts.held if k.startswith(identifier.kind + ":")]
            if own and identifier.key not in own and identifier.kind in ("serial", "uuid", "bare"):
                if tier == "mac" and _same_but_for_the_board(found, facts):
                    return "same", "its board was exchanged: name and all hardware addresses are as they were"
                return "other", f"its {SAYS[identifier.kind]} differs from that of the asset with the {SAYS[tier]}"
        if tier in ("key", "name", "short") and any(i.kind == "mac" for i in found):
            own = [k for k in facts.held if k.startswith("mac:")]
            if own and not any(i.key in own for i in found):
                if tier == "key":
                    return "other", "the presented key was copied: every hardware address is another"
                if address and facts.address != address and abs(at - facts.last_seen) < CLONE_WINDOW:
                    return "other", "another device of that name was seen at nearly the same time elsewhere"
                return "undecided", "the name agrees, but every hardware address is another"
    if tier in ("serial", "uuid", "bare") and len({i.kind for i in weaker} - {"bare", "name"}) >= 2:
        # A copied machine has its original's keys too, so only name and hardware addresses speak for one.
        if not any(asset in holders(i.key) for i in weaker if i.kind not in ("key", "bare")):
            facts = known(asset)
            comparable = {k.split(":")[0] for k in facts.held} & {i.kind for i in weaker}
            if {"mac", "short"} <= comparable:
                if facts.address != address and abs(at - facts.last_seen) < CLONE_WINDOW:
                    return "other", f"two devices with the {_say(by[0])} were seen at nearly the same time"
                return "undecided", f"the {SAYS[tier]} agrees, but name and hardware addresses all differ"
    return "same", ""


def _domains(found: list[Identifier]) -> set[str]:
    return {i.value.partition("|")[2] for i in found if i.kind == "name"}


def _domains_held(facts: Known) -> set[str]:
    beginning = f"name:{facts.name}|"
    return {k[len(beginning) :] for k in facts.held if k.startswith(beginning)}


def _same_but_for_the_board(found: list[Identifier], facts: Known) -> bool:
    """Whether a device with another serial number or UUID has the asset's name and exactly its hardware addresses.

    A board exchanged in repair brings numbers of its own; a dock or a name given on brings only one of the two.
    """
    macs = {i.key for i in found if i.kind == "mac"}
    named = any(i.kind == "short" and i.value == facts.name for i in found)
    return named and macs == {k for k in facts.held if k.startswith("mac:")}
