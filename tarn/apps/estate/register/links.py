"""What network gear has told of others: who was seen where."""

from tarn.apps.estate.store.database import raw_connection

Where = dict[str, tuple[str, str]]


def learnt_since(second: int, organisation: str = "") -> tuple[Where, Where]:
    """Return what routers and switches confirmed since a moment; of an organisation, only what its own told.

    First by address the hardware address and the router's name, then by hardware address the switch and its port.
    """
    db = raw_connection()
    fresh = (
        "JOIN estate_sectionstate c ON c.asset_id = i.asset_id AND c.source_id = i.source_id AND c.section = ? "
        "LEFT JOIN estate_assetspan s ON s.asset_id = i.asset_id AND s.valid_to IS NULL "
        "WHERE i.valid_to IS NULL AND c.confirmed >= ?"
    )
    values: list[object] = [second]
    if organisation:
        fresh += " AND s.organisation_id = (SELECT id FROM estate_term WHERE field = 'organisation' AND text = ?)"
        values.append(organisation)
    macs = db.execute(f"SELECT i.address, i.mac, s.name FROM estate_arpspan i {fresh}", ["arp", *values])
    ports = db.execute(f"SELECT i.mac, s.name, i.port FROM estate_forwardingspan i {fresh}", ["forwarding", *values])
    return {a: (m, name or "") for a, m, name in macs}, {m: (name or "", port) for m, name, port in ports}
