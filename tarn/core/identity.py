"""Identity: which asset a sighting is of.

Every asset that holds one of its identifiers is weighed by all signs for and against (`signs.py`). An identifier
that several assets hold tells nothing and loses its weight by itself. A match that all other evidence contradicts is
not taken: it is a clone where both were seen at nearly the same time, and otherwise waits for a person. Assets that
one sighting shows to be one device are joined. An address alone never identifies anything.
"""

from collections.abc import Callable, Sequence
from typing import Literal

from tarn.core.identifiers import SAYS, STRONG, Identifier
from tarn.core.signs import CLEAR, KnownAsset, Told, Weighed, one_device, weigh

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


def match(
    found: list[Identifier],
    held: Callable[[str], Held],
    known: Callable[[int], KnownAsset],
    *,
    address: str | None,
    at: int,
    by_name: bool = True,
) -> Match:
    """Decide which asset a sighting with these identifiers is of.

    `held(key)` gives the holders of an identifier as an index keeps them; `known(asset)` what is
    held of one, asked only where a match has to be weighed. `by_name`: whether a name that agrees is enough to
    consider an asset at all; it counts for one considered in either case.
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
    reasons: list[str] = []
    agreeing: dict[int, list[Identifier]] = {}
    for identifier in found:
        if not by_name and identifier.kind in ("name", "short"):
            continue
        have = held(identifier.key)
        holders = () if have is None else (have,) if isinstance(have, int) else have
        if len(holders) > 1 and identifier.kind != "tarn":
            reasons.append(f"{_say(identifier)} is shared by {len(holders)} assets, so it tells nothing")
            continue
        for asset in holders:
            agreeing.setdefault(asset, []).append(identifier)
    if not agreeing:
        return Match("new", None, reasons or ["nothing held matches its identifiers"])
    told = Told(found, address, at)
    weighed = {asset: weigh(told, by, known(asset)) for asset, by in agreeing.items()}
    # The one with most for it first; of two alike the older.
    ranked = sorted(weighed, key=lambda a: (-weighed[a].score, a))
    same = [a for a in ranked if weighed[a].verdict == "same"]
    reasons += [w.why for w in weighed.values() if w.why and (w.verdict != "same" or not w.usual)]
    if not same:
        waits = sorted(a for a in ranked if weighed[a].verdict == "undecided")
        if waits:
            return Match("undecided", None, reasons, waits)
        return Match("new", None, reasons)
    best = same[0]
    absorbs, rivals = _joined(told, best, same[1:], weighed, known)
    if rivals:
        reasons.append(f"several assets answer to its {_kinds(agreeing, [best, *rivals])}")
        return Match("undecided", None, reasons, sorted([best, *rivals]))
    reasons.append("matched by " + _listed(agreeing[best]))
    if absorbs:
        reasons.append(f"it joins {len(absorbs)} more that were known by a part of its identifiers only")
    return Match("same", best, reasons, absorbs=absorbs)


def _joined(
    told: Told, best: int, others: Sequence[int], weighed: dict[int, Weighed], known: Callable[[int], KnownAsset]
) -> tuple[tuple[int, ...], list[int]]:
    """Return the assets that one sighting shows to be the same device as `best`, and those it may as well be of.

    An asset joins where nothing by which two devices are told apart speaks against it, beside the sighting and beside
    all that was joined before. One that does not join is a rival, unless far less speaks for it.
    """
    absorbs: list[int] = []
    rivals: list[int] = []
    whole = told.with_keys(known(best).held)
    for other in sorted(others):
        facts = known(other)
        if one_device(told, whole, facts):
            absorbs.append(other)
            whole = whole.with_keys(facts.held)
        elif weighed[best].score - weighed[other].score < CLEAR:
            rivals.append(other)
    return tuple(absorbs), rivals


def _kinds(agreeing: dict[int, list[Identifier]], assets: Sequence[int]) -> str:
    names = dict.fromkeys(SAYS[i.kind] for a in assets for i in agreeing[a] if i.kind not in ("bare", "short"))
    return " and ".join(names) or "signs"


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
