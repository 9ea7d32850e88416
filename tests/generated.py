"""A generated estate seen by five sources, with the disturbances of real ones at set rates; the truth is known."""

import random
from collections import Counter, defaultdict
from dataclasses import dataclass

from tarn.core.identifiers import Identifier, identifiers
from tarn.core.identity import match
from tarn.core.sections import Identity
from tarn.core.signs import KnownAsset
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
        self.called: dict[int, dict[str, tuple[int, str]]] = defaultdict(dict)
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
        if seen.identity.name and seen.at >= self.called[asset].get(seen.kind, (0, ""))[0]:
            self.called[asset][seen.kind] = (seen.at, fold(seen.identity.name).partition(".")[0])
        if seen.at >= self.now.get(asset, ("", "", 0))[2]:
            self.now[asset] = (name.partition(".")[0], seen.address, seen.at)
        return asset

    def _add(self, key: str, asset: int) -> None:
        if key in self.keys[asset]:
            return
        self.keys[asset].add(key)
        before = self.held.get(key)
        self.held[key] = asset if before is None else (before, asset) if isinstance(before, int) else (*before, asset)

    def _absorb(self, other: int, asset: int) -> None:
        self.became[other] = asset
        for kind, told in self.called.pop(other, {}).items():
            self.called[asset][kind] = max(told, self.called[asset].get(kind, (0, "")))
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

    def known(self, asset: int) -> KnownAsset:
        """Return what is held of an asset."""
        also = frozenset(name for _, name in self.called[asset].values())
        return KnownAsset(self.keys[asset], *self.now[asset], also)


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


SPELLINGS = {
    "Halberd": (
        "Halberd",
        "HALBERD",
        "Halberd Inc.",
        "Halberd, Inc",
        "HALBERD COMPUTER CORP",
        "Hal Berd",
        "Halberd Ltd",
    ),
    "Orrin": ("Orrin", "Orrin GmbH", "ORRIN SYSTEMS", "Orrin Systems Inc.", "Systems Orrin"),
    "Fathom Marine": ("Fathom Marine", "Marine Fathom", "FathomMarine", "Fathom Marine Electronics Co., Ltd."),
}


def hostile(devices: int, seed: int = 1) -> list[Seen]:
    """Sightings as unfriendly sources tell them: makers spelt at will or not at all, signs missing, numbers shared.

    Five sources, some seen twice; docks, clones, boards exchanged, machines re-named, names given on to a successor,
    a serial number a maker printed on a whole batch, private addresses, names with and without domain and in capitals.
    """
    chance = random.Random(seed)
    out: list[Seen] = []
    for n in range(devices):
        maker = list(SPELLINGS)[n % 3]
        hit = {
            "batch": n % 97 == 0, "placeholder": chance.random() < 0.03, "clone": n % 61 < 2, "dock": n % 23 == 0,
            "board": chance.random() < 0.01, "renamed": chance.random() < 0.04, "successor": n % 41 == 1,
        }  # fmt: skip
        serial = "BATCH-0001" if hit["batch"] else f"{maker[:2].upper()}{n:06d}"
        serial = "Default string" if hit["placeholder"] else serial
        uuid = f"5a17c10e-0000-4000-b000-{n // 61:012x}" if hit["clone"] else f"5a17c10e-0000-4000-a000-{n:012x}"
        mac = f"7c:1e:b0:{n >> 16 & 255:02x}:{n >> 8 & 255:02x}:{n & 255:02x}"
        macs = (mac, f"18:f9:5e:00:00:{n % 3:02x}") if hit["dock"] else (mac,)
        name = f"pc-{n - 1 if hit['successor'] else n:06d}"
        start = (30 * DAY if hit["successor"] else 0) + n % 7200
        for source in ("sweep", "directory", "inventory", "device management", "file", "sweep", "inventory"):
            if chance.random() > 0.75:
                continue
            later = source != "directory" and chance.random() < 0.5
            called = f"{name}-new" if hit["renamed"] and later else name
            told_serial, told_uuid = serial, uuid
            if hit["board"] and later and source == "sweep":
                told_serial, told_uuid = f"BD{n:06d}", f"5a17c10e-0000-4000-c000-{n:012x}"
            spelt = chance.choice((*SPELLINGS[maker], None))
            facts: dict[str, object] = {
                "sweep": {"serial": told_serial, "manufacturer": spelt, "uuid": told_uuid, "macs": macs, "name": called,
                          "domain": "s.example"},
                "directory": {"name": called.upper(), "domain": "s.example", "instance": f"dir-{n}"},
                "inventory": {"serial": told_serial, "uuid": told_uuid, "name": called.upper(), "manufacturer": spelt,
                              "instance": f"epm-{n}"},
                "device management": {"serial": told_serial, "manufacturer": spelt, "macs": ("02:00:00:00:00:01",),
                                      "name": f"device {n}", "instance": f"mdm-{n}"},
                "file": {"serial": told_serial, "manufacturer": spelt, "name": f"{called}.s.example"},
            }[source]  # fmt: skip
            for sign in ("serial", "uuid", "macs"):
                if sign in facts and chance.random() < 0.15:
                    del facts[sign]
            of_two = hit["successor"] or n % 41 == 0
            if of_two and not facts.get("serial") and not facts.get("macs"):
                continue  # a name that two machines have had, and nothing else: nobody could say whose
            at = start + (20 * DAY if later else 0) + chance.randrange(5 * DAY)
            address = f"10.{60 + (n >> 16)}.{n >> 8 & 255}.{n & 255}"
            out.append(Seen(n, not any(hit.values()), source, at, address, Identity(**facts)))  # type: ignore[arg-type]
    return sorted(out, key=lambda s: s.at)


def reachable(seen: list[Seen]) -> int:
    """Return the pairs of sightings of one device that any shared sign links, whoever tells it: what can be joined."""
    groups: dict[int, list[Seen]] = defaultdict(list)
    for s in seen:
        groups[s.device].append(s)
    pairs = 0
    for several in groups.values():
        keys = [{i.key for i in identifiers(s.identity)} for s in several]
        parts: list[set[int]] = []
        for i, own in enumerate(keys):
            linked = [p for p in parts if any(keys[j] & own for j in p)]
            parts = [p for p in parts if p not in linked] + [{i}.union(*linked)]
        pairs += sum(len(p) * (len(p) - 1) // 2 for p in parts)
    return pairs
