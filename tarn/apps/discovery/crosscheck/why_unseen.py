"""Why a source does not see a device that it should see: the most likely reason, computed, and the remedy."""

from collections import defaultdict
from ipaddress import ip_address
from typing import Any

from tarn.apps.discovery.crosscheck.results import UnseenOut
from tarn.apps.discovery.models import Network, Run, RunAddress, Source, Sweep
from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.register.crosscheck import facts_of, members
from tarn.apps.people.scope import visible
from tarn.core.ranges import AddressRange, parse_ranges

CARRIED = frozenset({"phone", "tablet", "scanner"})
_LOOKED_AT = 5
"""Runs of a sweep looked back on."""


def unseen(asked: Question, wanted: int | None, most: int = 200) -> list[UnseenOut]:
    """Return devices of one combination of sources (None: all that some source should see and does not), each with
    who knows it, who should and does not, why most likely, and what to do."""
    assets, bits, expected, who = members(asked, wanted, most)
    facts = facts_of(assets, asked.at)
    reasons = _Reasons([f["address"] for f in facts.values() if f.get("address")])
    out: list[UnseenOut] = []
    for asset, mask, should in zip(assets, bits, expected, strict=True):
        about = facts.get(asset, {})
        missing = [i for i in range(len(who.names)) if should >> i & 1 and not mask >> i & 1]
        out.append(
            {
                "asset": asset,
                "name": about.get("name") or about.get("number") or "",
                "kind": about.get("kind"),
                "place": about.get("place"),
                "known_to": [
                    {"name": who.names[i], "kind": who.kinds[i]} for i in range(len(who.names)) if mask >> i & 1
                ],
                "unseen_by": [
                    {"name": name, "kind": kind, "reason": reason, "remedy": remedy, "where": where}
                    for name, kind in ((who.names[i], who.kinds[i]) for i in missing)
                    for reason, remedy, where in [reasons.why(kind, name, about)]
                ],
            }
        )
    return out


class _Reasons:
    """Everything the reasons are worked out from, read once."""

    def __init__(self, addresses: list[str]) -> None:
        self.never = [r for n in visible(Network).filter(never_probe=True) for r in parse_ranges([n.range], most=2**33)]
        self.sweeps = [(s, parse_ranges(s.ranges), parse_ranges(s.exclusions, most=2**33)) for s in visible(Sweep)]
        self.sources = {s.name: s for s in visible(Source)}
        latest: dict[int, list[int]] = defaultdict(list)
        for run, sweep in visible(Run).filter(state="done").order_by("-id").values_list("pk", "sweep")[:200]:
            if len(latest[sweep]) < _LOOKED_AT:
                latest[sweep].append(run)
        self.outcomes: dict[str, list[RunAddress]] = defaultdict(list)
        runs = [r for several in latest.values() for r in several]
        for row in RunAddress.objects.filter(run__in=runs, address__in=addresses).order_by("-run"):
            self.outcomes[row.address].append(row)

    def why(self, kind: str, name: str, about: dict[str, Any]) -> tuple[str, str, str]:
        """Return the reason, the remedy and where it is done."""
        if kind == "sweep":
            reason, remedy, where = self._sweep(about)
        elif kind == "directory":
            reason, remedy, where = self._directory(name, about)
        elif kind == "file":
            reason, remedy, where = f"“{name}” has no row for it", "Add it to the list", ""
        elif kind == "reporter":
            reason, remedy, where = "no reporter is installed on it", "Install the reporter", ""
        else:
            reason, remedy, where = self._enrolled(name, about)
        return reason, remedy, where

    def _sweep(self, about: dict[str, Any]) -> tuple[str, str, str]:
        address = about.get("address")
        if not address:
            if about.get("kind") in CARRIED:
                return "it has no address of its own: carried, on Wi-Fi only", "Leave it to device management", ""
            return "no source knows an address for it", "Give it a name in the name service, or an address", ""
        parsed = ip_address(address)
        if held := _holding(parsed, self.never):
            return f"{held} must never be probed", "Ask whoever set that", "/discovery"
        covering = [(s, without) for s, ranges, without in self.sweeps if _holding(parsed, ranges)]
        if not covering:
            net = address.rsplit(".", 1)[0] + ".0/24" if "." in address else address
            return f"no range covers {net}", "Add the range", "/discovery"
        for sweep, without in covering:
            if held := _holding(parsed, without):
                return f"“{sweep.name}” leaves out {held}", "Change its exclusions", "/discovery"
        rows = self.outcomes.get(address, [])
        if not rows:
            return f"“{covering[0][0].name}” has not run of late", "Start it", "/discovery"
        where = f"/discovery/runs/{rows[0].run_id}"
        silent = sum(1 for r in rows if r.outcome == "no answer")
        if silent == len(rows):
            return f"silent at the last {silent} sweeps of {address}", "Look whether it is switched on", where
        return f"{address} answered, but: {rows[0].reason}", rows[0].remedy or "Look at the run", where

    def _directory(self, name: str, about: dict[str, Any]) -> tuple[str, str, str]:
        where = f"/discovery/sources/{self.sources[name].pk}" if name in self.sources else ""
        if about.get("disabled"):
            return "its account is disabled there", "Set it aside, or enable the account", where
        if about.get("platform") not in ("Windows", None):
            return f"it runs {about['platform']}, which is not joined to this directory", "Nothing to do", ""
        return "no account of its name: never joined, or re-imaged and not joined again", "Join it again", where

    def _enrolled(self, name: str, about: dict[str, Any]) -> tuple[str, str, str]:
        source = self.sources.get(name)
        where = f"/discovery/sources/{source.pk}" if source else ""
        last = source.sync_set.first() if source else None
        if last is not None and last.state == "failed":
            return f"the last sync failed: {last.message}", "Look at the sync", where
        return "it is not enrolled there, though most of its kind are", "Enrol it", where


def _holding(address: Any, ranges: list[AddressRange]) -> str:
    return next((r.text for r in ranges if address in r), "")
