"""A sweep from the command line: no worker, no web server, the same engine and the same door."""

import asyncio
import json
import re
import sys
import time
from typing import Any

from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.models import Credential as Stored
from tarn.apps.discovery.models import Network
from tarn.apps.discovery.networks.places import Places
from tarn.apps.estate.door.entrance import take_in_batch
from tarn.apps.estate.register.decide import adopt_found
from tarn.collect.credentials import Credential, SnmpCredential, SshCredential
from tarn.collect.look import LookSettings
from tarn.collect.looked import Look
from tarn.collect.reach import PORTS
from tarn.collect.routes import ROUTES
from tarn.collect.sweep import sweep
from tarn.core.ranges import RangeError, expand, parse_ranges
from tarn.site.output import write_table

SOURCE = ("sweep", "command line")


class BadOption(ValueError):
    """An option that cannot be read; the message names it."""


_SSH = re.compile(r"^(?P<user>[^:]+):(?P<password>.*)@(?P<port>\d+)$")
_SNMP = re.compile(r"^v2c:(?P<community>.+)@(?P<port>\d+)$")


def _credentials(names: list[str], ssh: list[str], snmp: list[str]) -> list[Credential]:
    out: list[Credential] = []
    for name in names:
        stored = Stored.objects.filter(name=name).first()
        if stored is None:
            known = ", ".join(Stored.objects.values_list("name", flat=True)) or "none is stored"
            raise BadOption(f"there is no credential “{name}” ({known}).")
        out.append(opened(stored))
    for text in snmp:
        if not (match := _SNMP.match(text)):
            raise BadOption(f"--snmp {text}: write it as v2c:COMMUNITY@PORT.")
        out.append(SnmpCredential("--snmp", "v2c", community=match["community"], port=int(match["port"])))
    for text in ssh:
        if not (match := _SSH.match(text)):
            raise BadOption("--ssh: write it as USER:PASSWORD@PORT.")
        out.append(SshCredential("--ssh", match["user"], match["password"], port=int(match["port"])))
    return out


def sweep_now(
    ranges: list[str],
    route: str,
    names: list[str],
    ssh: list[str],
    snmp: list[str],
    *,
    adopt: bool,
    patience: float,
    format: str,
) -> None:
    """Sweep, hand in, adopt, and print one row an address that answered. Raises BadOption."""
    if route not in ROUTES:
        raise BadOption(f"“{route}” is no route; one of: {', '.join(ROUTES)}.")
    never = list(Network.objects.filter(never_probe=True).values_list("range", flat=True))
    try:
        probe, left = expand(parse_ranges(ranges), parse_ranges(never, most=2**33))
    except RangeError as error:
        raise BadOption(str(error)) from None
    if not probe:
        raise BadOption("nothing to probe: every address named is left out (network edges, or “never probe”).")
    credentials = _credentials(names, ssh, snmp)
    ports = tuple(dict.fromkeys([*PORTS, *(c.port for c in credentials if isinstance(c, SshCredential))]))
    settings = LookSettings(ROUTES[route], tuple(credentials), patience=patience, ports=ports)
    places = Places.load()
    looks = asyncio.run(_look(probe, settings, places))
    rows = []
    assets: list[int] = []
    handed = [(k, s) for k in looks if (s := k.sighting(SOURCE, places.place(k.address))) is not None]
    taken = {t.document: t for t in take_in_batch([s for _, s in handed])} if handed else {}
    by_address = {k.address: taken[s.id] for k, s in handed}
    for look in sorted(looks, key=lambda k: tuple(map(int, re.findall(r"\d+", k.address)))):
        if look.outcome == "no answer":
            continue
        result = by_address.get(look.address)
        if result is not None and result.asset is not None:
            assets.append(result.asset)
        rows.append(_row(look, result))
    if adopt and assets:
        adopt_found(sorted(set(assets)), "command line")
    if format == "json":
        print(
            json.dumps(
                {"probed": len(probe), "left_out": len(left), "adopted": adopt, "found": rows},
                indent=1,
                ensure_ascii=False,
            )
        )
    else:
        columns = ["address", "outcome", "name", "asset", "reason"]
        write_table([[str(r[c] if r[c] is not None else "–") for c in columns] for r in rows], columns)
        print(f"{len(probe)} addresses probed, {len(rows)} answered, {len(left)} left out.")


async def _look(probe: list[str], settings: LookSettings, places: Places) -> list[Look]:
    began = time.monotonic()
    looks = []
    async for found in sweep(probe, settings, at_once=256, pace=places.pace):
        looks.append(found)
        if sys.stderr.isatty():
            print(f"\r{len(looks)} of {len(probe)}, {time.monotonic() - began:.0f} s", end="", file=sys.stderr)
    if sys.stderr.isatty():
        print(file=sys.stderr)
    return looks


def _row(found: Look, taken: Any) -> dict[str, Any]:
    from tarn.apps.estate.models import Asset

    number = Asset.objects.filter(pk=taken.asset).values_list("number", flat=True).first() if taken else None
    return {
        "address": found.address,
        "outcome": found.outcome,
        "code": found.code,
        "reason": found.reason,
        "remedy": found.remedy,
        "name": found.taken_for or None,
        "asset": number,
        "verdict": taken.verdict if taken else None,
        "credential": found.credential or None,
        "ports": found.ports,
        "took_ms": found.took_ms,
    }
