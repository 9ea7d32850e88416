"""What a device has to do with that is no device: services, programs, networks, names, certificates, shares, people."""

from collections.abc import Iterator
from ipaddress import ip_interface

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.kept.health import Standing, asking_for_members, standing
from tarn.apps.services.results import StandingBeside
from tarn.apps.services.standing.impact import seen
from tarn.apps.services.standing.plates import plates
from tarn.core.filters.tree import quote
from tarn.core.standing.graph import Graph


def beside(asset: int, at: int | None) -> list[StandingBeside]:
    """Return what an asset has to do with that is no device, in a fixed order; nothing for one that is not to be
    seen."""
    if asset not in seen(at)[1]:
        return []
    stood = standing(at)
    return [
        {"kind": kind, "name": name, "over": over, "service": service, "program": program, "filter": filter}
        for kind, name, over, service, program, filter in (
            *_services(asset, stood),
            *_programs(asset, stood.full),
            *_networks(asset, at),
            *_names(asset, at),
            *_certificates(asset, at),
            *_shares(asset, at),
            *_people(asset, at),
        )
    ]


Row = tuple[str, str, str, int | None, str | None, str | None]


def _services(asset: int, stood: Standing) -> Iterator[Row]:
    for number, service in sorted(stood.services.items(), key=lambda s: s[1].name):
        parts = [name for name, held in stood.members[number].parts.items() if asset in held]
        if parts:
            yield "member of", service.name, ", ".join(parts), number, None, asking_for_members(service)


def _programs(asset: int, there: Graph) -> Iterator[Row]:
    for node in sorted(there.programs.get(asset, ()), key=lambda n: there.names[n]):
        ports = sorted({e.over for e in there.under.get(node)}, key=lambda p: (len(p), p))
        yield "runs", there.names[node], ", ".join(ports), None, there.names[node], None


def _networks(asset: int, at: int | None) -> Iterator[Row]:
    met: dict[str, list[str]] = {}
    for address, bits in _rows("SELECT x.address, x.prefix FROM estate_addressesspan x", asset, at):
        network = ip_interface(f"{address}/{bits}").network if bits else None
        if network is not None and 0 < network.prefixlen < network.max_prefixlen and not network.is_link_local:
            met.setdefault(str(network), []).append(address)
    for name, addresses in met.items():
        yield "in", name, ", ".join(addresses), None, None, f"addresses[address in {name}]"


def _names(asset: int, at: int | None) -> Iterator[Row]:
    for name, address in _rows("SELECT x.name, x.address FROM estate_dns_namesspan x", asset, at):
        yield "named by", name, address, None, None, f"dns_names[name = {quote(name)}]"


def _certificates(asset: int, at: int | None) -> Iterator[Row]:
    for subject, port, print_ in _rows(
        "SELECT x.subject, x.port, x.fingerprint FROM estate_certificatesspan x", asset, at
    ):
        filter = f"certificates[fingerprint = {quote(print_)}]" if print_ else None
        yield "secured by", subject or "a certificate without a subject", str(port), None, None, filter


def _shares(asset: int, at: int | None) -> Iterator[Row]:
    for name, sort in _rows("SELECT x.name, x.sort FROM estate_sharesspan x", asset, at):
        yield "offers", name, sort or "", None, None, None


def _people(asset: int, at: int | None) -> Iterator[Row]:
    plate = plates([asset], at).get(asset)
    if plate is not None and plate["person"]:
        yield "looked after by", plate["person"], "", None, None, f"person = {quote(plate['person'])}"


def _rows(statement: str, asset: int, at: int | None) -> list[tuple[str, ...]]:
    then = holds("x", at)
    cursor = raw_connection().execute(
        f"{statement} WHERE x.asset_id = ? AND {then.text} ORDER BY 1, 2", [asset, *then.values]
    )
    return [tuple(row) for row in cursor.fetchall()]
