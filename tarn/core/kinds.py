"""Kinds of device, and the guess at a device's kind with how sure it is and why."""

import re
from dataclasses import dataclass
from typing import Any

from tarn.core.text import fold

KINDS = (
    "server",
    "workstation",
    "laptop",
    "kiosk",
    "till",
    "hypervisor",
    "switch",
    "router",
    "firewall",
    "access point",
    "printer",
    "camera",
    "recorder",
    "desk phone",
    "scanner",
    "tablet",
    "phone",
    "power supply",
    "power distributor",
    "storage",
    "device",
)
"""`device` is what answers but shows nothing more."""

IN_USE = "in use"
"""Where a device of the register stands unless somebody says otherwise."""

STATES = (
    *("planned", "ordered", "in stock", "in use", "on loan", "in repair", "missing"),
    *("lost or stolen", "retired", "disposed"),
)
"""`missing` is what a system of record says of a device that has gone from it; people say `lost or stolen`."""

PLATFORMS = ("Linux", "Windows", "macOS", "Android", "iOS", "firmware")

_SYSTEMS = (
    (re.compile(r"\bandroid\b"), "Android"),
    (re.compile(r"\b(ios|ipados)\b"), "iOS"),
    (re.compile(r"\b(mac ?os|os x)\b"), "macOS"),
    (re.compile(r"\bwindows\b"), "Windows"),
    (re.compile(r"\blinux\b"), "Linux"),
    (re.compile(r"\bfirmware\b"), "firmware"),
)


def platform_of(system: str) -> str | None:
    """Return the family an operating system's name tells of; None where it tells none."""
    said = system.lower()
    return next((platform for words, platform in _SYSTEMS if words.search(said)), None)


@dataclass(frozen=True, slots=True)
class Guess:
    """What a device is taken for; `sure` in percent, `reasons` in words."""

    kind: str
    sure: int
    reasons: list[str]


_WORDS: list[tuple[re.Pattern[str], str, int]] = [
    (re.compile(r"\bkiosk\b"), "kiosk", 45),
    (re.compile(r"\b(till|point of sale|pos)\b"), "till", 45),
    (re.compile(r"\b(multi-?layer|layer [23]|ethernet)?\s*switch\b"), "switch", 60),
    (re.compile(r"\brouter\b"), "router", 60),
    (re.compile(r"\bfirewall\b"), "firewall", 60),
    (re.compile(r"\b(access point|wireless bridge)\b"), "access point", 60),
    (re.compile(r"\b(printer|multifunction|laserprint)\b"), "printer", 60),
    (re.compile(r"\bcamera\b"), "camera", 60),
    (re.compile(r"\b(video )?recorder\b"), "recorder", 60),
    (re.compile(r"\b(ups|uninterruptible)\b"), "power supply", 60),
    (re.compile(r"\b(pdu|power distribution)\b"), "power distributor", 60),
    (re.compile(r"\b(desk ?phone|voip phone|sip phone)\b"), "desk phone", 60),
    (re.compile(r"\b(hypervisor|virtual host)\b"), "hypervisor", 55),
    (re.compile(r"\b(laptop|notebook|portable)\b"), "laptop", 55),
    (re.compile(r"\b(rack|server)\b"), "server", 35),
    (re.compile(r"\b(workstation|desktop|minitower)\b"), "workstation", 45),
]
_NAMES: list[tuple[re.Pattern[str], str, int]] = [
    (re.compile(r"-(sw|switch)-?\d"), "switch", 25),
    (re.compile(r"-(rt|gw|router)-?\d"), "router", 25),
    (re.compile(r"-fw-?\d"), "firewall", 25),
    (re.compile(r"-ap-?\d"), "access point", 25),
    (re.compile(r"-(prn|print)-?\d"), "printer", 20),
    (re.compile(r"-cam-?\d"), "camera", 20),
    (re.compile(r"-kiosk-?\d"), "kiosk", 40),
    (re.compile(r"-(till|pos)-?\d"), "till", 40),
    (re.compile(r"-(ws|pc)-?\d"), "workstation", 35),
    (re.compile(r"-(lt|nb)-?\d"), "laptop", 35),
    (re.compile(r"-tel-?\d"), "desk phone", 25),
    (re.compile(r"-ups-?\d"), "power supply", 25),
    (re.compile(r"-pdu-?\d"), "power distributor", 25),
    (re.compile(r"-hv-?\d"), "hypervisor", 35),
]
_PORTS: list[tuple[frozenset[int], str, int, str]] = [
    (frozenset({9100}), "printer", 35, "listens for print jobs"),
    (frozenset({515, 631}), "printer", 15, "answers a printing protocol"),
    (frozenset({554}), "camera", 30, "offers a video stream"),
    (frozenset({5060}), "desk phone", 30, "speaks SIP"),
    (frozenset({5432, 3306, 389, 25, 143, 2049}), "server", 30, "offers a service to others"),
    (frozenset({16509}), "hypervisor", 40, "offers remote management of guests"),
]
_DESKTOPS = frozenset({"xorg", "wayland", "gdm", "lightdm", "desktop-session"})


def telling_package(name: str) -> bool:
    """Whether a package's coming or going can change what a device is taken for."""
    lower = name.lower()
    return "kiosk" in lower or "till" in lower or lower in _DESKTOPS


def article(kind: str) -> str:
    """Return a kind with its indefinite article."""
    return f"{'an' if kind[0] in 'aeiou' else 'a'} {kind}"


def guess(facts: dict[str, Any], ports: set[int], packages: set[str], *, virtual: bool = False) -> Guess:
    """Guess the kind of a device from its facts, the ports it answers on and its packages' names.

    `virtual`: told of by what holds virtual machines.

    Evidence adds up per kind; the kind with the most wins, and how sure it is grows with
    its lead over the next. Nothing known gives `device`, 20 % sure.
    """
    score: dict[str, int] = {}
    reasons: dict[str, list[str]] = {}

    def add(kind: str, points: int, why: str) -> None:
        score[kind] = score.get(kind, 0) + points
        reasons.setdefault(kind, []).append(why)

    says = fold(" ".join(str(facts.get(k) or "") for k in ("description", "model")))
    for pattern, kind, points in _WORDS:
        if hit := pattern.search(says):
            add(kind, points, f"it describes itself with “{hit[0].strip()}”")
    name = fold(str(facts.get("name") or ""))
    for pattern, kind, points in _NAMES:
        if pattern.search(name):
            add(kind, points, f"it is named like {article(kind)} ({name})")
    for some, kind, points, why in _PORTS:
        if hits := sorted(some & ports):
            add(kind, points, f"{why} (port {', '.join(map(str, hits))})")
    if virtual:
        add("server", 20, "it is a virtual machine")
    listed = "\n".join(packages).lower()
    if not _DESKTOPS.isdisjoint(listed.split("\n")):
        add("workstation", 25, "a desktop session is installed")
    elif facts.get("platform") in ("Linux", "Windows") and packages:
        add("server", 20, "an operating system without a desktop session")
    if "kiosk" in listed:
        add("kiosk", 40, "kiosk software is installed")
    if "till" in listed:
        add("till", 25, "till software is installed")
    if not score:
        return Guess("device", 20, ["it answers, but nothing it says tells what it is"])
    order = sorted(score, key=lambda k: -score[k])
    best, rest = order[0], score[order[1]] if len(order) > 1 else 0
    sure = max(25, min(98, 40 + score[best] - rest // 2))
    return Guess(best, sure, reasons[best])


IMPORTANCE = ("high", "usual")
"""How much hangs on an asset, as people and fill rules say."""
MUCH_SAID, MUCH_BY_SERVICES = "importance = high", "importance.services = high"
"""Filters for assets on which much hangs: by what people and fill rules say, and by the services that stand on them."""
