"""A generated estate seen by five sources, with the disturbances of real ones at set rates; the truth is known."""

import random
from collections import Counter, defaultdict
from dataclasses import dataclass

from tarn.core.identity import Identifier, Known, identifiers, match
from tarn.core.sections import Identity
from tarn.core.text import fold
from tarn.core.truth import RANKS

RATES = {
    "placeholder serial": 0.02,
    "cloned uuid": 0.01,
    "shared dock": 0.01,
    "renamed": 0.02,
    "board exchanged": 0.005,
    "private address": 0.05,
}
DOCK = "18:f9:5e:00:00:01"
DAY = 86_400


@dataclass(frozen=True, slots=True)
class Seen:
    """One sighting's identity: of which real device, whether any disturbance touches it, when and where."""

    device: int
    sound: bool
    kind: str
    at: int
    address: str
    identity: Identity


def sightings(devices: int, seed: int = 1, rounds: int = 2) -> list[Seen]:
    """Return sightings in order of time. Sources: sweep, directory, endpoint and device management, a list."""
    chance = random.Random(seed)
    out: list[Seen] = []
    for n in range(devices):
        hit = {d for d, rate in RATES.items() if chance.random() < rate}
        for round_ in range(rounds):
            out += [s for s in _of(n, round_, hit, chance) if chance.random() < 0.8]
    return sorted(out, key=lambda s: s.at)


def _of(n: int, round_: int, hit: set[str], chance: random.Random) -> list[Seen]:
    later = round_ > 0
    maker = "Halberd" if n % 3 else "Orrin"
    serial = "To be filled by O.E.M." if "placeholder serial" in hit else f"SN{n:07d}"
    number = n
    if "board exchanged" in hit and later:
        serial, number = f"SN{n + 5_000_000:07d}", n + 5_000_000
    uuid = f"5a17c10e-0000-4000-a000-{number:012x}"
    if "cloned uuid" in hit:
        uuid = f"5a17c10e-0000-4000-b000-{n // 50:012x}"
    mac = f"7c:1e:b0:{n >> 16 & 255:02x}:{n >> 8 & 255:02x}:{n & 255:02x}"
    macs = (mac, DOCK) if "shared dock" in hit else (mac,)
    name = f"pc-{n:06d}" + ("-new" if "renamed" in hit and later else "")
    private = (
        f"02:{chance.randrange(256):02x}:00:00:{n >> 8 & 255:02x}:{n & 255:02x}" if "private address" in hit else mac
    )
    address = f"10.{60 + (n >> 16)}.{n >> 8 & 255}.{n & 255}"
    base = round_ * 10 * DAY + n % 7200

    def seen(kind: str, offset: int, **facts: object) -> Seen:
        return Seen(n, not hit, kind, base + offset, address, Identity(**facts))  # type: ignore[arg-type]

    whole = {"serial": serial, "manufacturer": maker, "uuid": uuid, "macs": macs, "name": name, "domain": "s.example"}
    return [
        seen("sweep", 0, **whole),
        seen("directory", 2 * DAY, name=name, domain="s.example", instance=f"dir-{n}"),
        seen("inventory", 3 * DAY, serial=serial, uuid=uuid, name=name.upper(), instance=f"epm-{n}"),
        seen(
            "device management",
            4 * DAY,
            serial=serial,
            manufacturer=maker,
            macs=(private,),
            name=f"device {n}",
            instance=f"mdm-{n}",
        ),
        seen("file", 5 * DAY, serial=serial, manufacturer=maker, name=name),
    ]


class Register:
    """The register's identity in memory: what the door does, without tables."""

    def __init__(self) -> None:
        self.held: dict[str, int | tuple[int, ...]] = {}
        self.keys: dict[int, set[str]] = defaultdict(set)
        self.now: dict[int, tuple[str, str, int]] = {}
        self.names: dict[int, tuple[int, str]] = {}
        self.became: dict[int, int] = {}

    def take(self, seen: Seen, found: list[Identifier]) -> int | None:
        """Return the asset a sighting is held to be of, or None where a person must decide."""
        result = match(found, self.held.get, self.known, address=seen.address, at=seen.at)
        if result.verdict == "undecided":
            return None
        asset = result.asset if result.asset is not None else len(self.now) + 1
        for other in result.absorbs:
            self._absorb(other, asset)
        for identifier in found:
            self._add(identifier.key, asset)
        rank, name = self.names.get(asset, (99, ""))
        if seen.identity.name and RANKS[seen.kind] <= rank:  # whose word counts, as the door has it
            rank, name = RANKS[seen.kind], fold(seen.identity.name)
            self.names[asset] = (rank, name)
        self.now[asset] = (name, seen.address, seen.at)
        return asset

    def _add(self, key: str, asset: int) -> None:
        if key in self.keys[asset]:
            return
        self.keys[asset].add(key)
        before = self.held.get(key)
        self.held[key] = asset if before is None else (before, asset) if isinstance(before, int) else (*before, asset)

    def _absorb(self, other: int, asset: int) -> None:
        self.became[other] = asset
        for key in self.keys.pop(other):
            before = self.held[key]
            rest = {a for a in ((before,) if isinstance(before, int) else before) if a != other} | {asset}
            self.held[key] = next(iter(rest)) if len(rest) == 1 else tuple(sorted(rest))
            self.keys[asset].add(key)

    def finally_of(self, asset: int | None) -> int | None:
        """Return which asset one has become, through all it was joined with."""
        while asset in self.became:
            asset = self.became[asset]
        return asset

    def known(self, asset: int) -> Known:
        """Return what is held of an asset."""
        return Known(self.keys[asset], *self.now[asset])


@dataclass(frozen=True)
class Score:
    """How well sightings were joined: pairs wrongly joined, wrongly kept apart, and the share of both."""

    wrongly_joined: int
    kept_apart: int
    right: int
    undecided: int
    wrong_in_sound: int

    @property
    def f1(self) -> float:
        """Return the harmonic mean of precision and recall over pairs of sightings."""
        return 2 * self.right / (2 * self.right + self.wrongly_joined + self.kept_apart)


def _pairs(counts: Counter[object]) -> int:
    return sum(c * (c - 1) // 2 for c in counts.values())


def score(seen: list[Seen], assets: list[int | None]) -> Score:
    """Score assets against the truth; an undecided sighting stands alone. Real devices joined in the sound part
    are counted apart: an asset that holds sound sightings of two devices."""
    labels = [a if a is not None else -i for i, a in enumerate(assets, start=1)]
    right = _pairs(Counter(zip((s.device for s in seen), labels, strict=True)))
    joined, truly = _pairs(Counter(labels)), _pairs(Counter(s.device for s in seen))
    sound: dict[int, set[int]] = defaultdict(set)
    for s, label in zip(seen, labels, strict=True):
        if s.sound:
            sound[label].add(s.device)
    wrong = sum(1 for devices in sound.values() if len(devices) > 1)
    return Score(joined - right, truly - right, right, sum(a is None for a in assets), wrong)


def parsed(seen: list[Seen]) -> list[list[Identifier]]:
    """Return each sighting's identifiers."""
    return [identifiers(s.identity) for s in seen]
