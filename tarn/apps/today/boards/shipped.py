"""The cards and boards that ship. They are never changed or lost: who lays one out anew gets a board of their own."""

from dataclasses import dataclass

from tarn.core.cards import Card

_OPEN = "vulnerability[accepted = no]"
_COMPUTERS = "kind in (workstation, laptop, server)"

CARDS: dict[str, Card] = {
    card.key: card
    for card in (
        Card(key="contact", title="Last in contact", shown="bars", by="last_seen"),
        Card(
            key="contact-kinds",
            title="Last in contact, by kind",
            shown="stacked",
            by="kind",
            and_by="last_seen",
            wide=2,
        ),
        Card(key="seen-by", title="Who sees what", shown="heat", by="place", and_by="evidence", wide=2),
        Card(
            key="hosts",
            title="What virtual hosts carry",
            shown="map",
            filter="kind = hypervisor",
            wide=4,
            high=2,
        ),
        Card(key="kinds", title="The estate by kind", shown="bars", by="kind"),
        Card(key="systems", title="Operating systems", shown="ring", by="platform"),
        Card(
            key="protected",
            title="Protected",
            shown="ring",
            filter="platform = Windows and protections[on = yes]",
            whole="platform = Windows",
        ),
        Card(
            key="encrypted",
            title="Encrypted, of what is carried",
            shown="ring",
            filter="kind in (laptop, phone, tablet) and encrypted = yes",
            whole="kind in (laptop, phone, tablet)",
        ),
        Card(key="open", title="What is open, 90 days", shown="line", filter=_OPEN),
        Card(key="grades", title="How grave it is", shown="bars", filter=_OPEN, by="exposure"),
        Card(
            key="late", title="Open past its day", shown="figure", filter="vulnerability[late = yes and accepted = no]"
        ),
        Card(key="barred", title="Barred software", of="report", report="barred", shown="bars", by="product"),
        Card(key="unruled", title="Without a ruling", of="report", report="unruled", shown="list"),
        Card(
            key="new-week",
            title="New this week",
            of="report",
            report="new-week",
            shown="list",
            columns=["name", "kind", "place", "first_seen"],
            wide=2,
        ),
        Card(
            key="runs",
            title="Sweeps of the last nights",
            of="report",
            report="runs-week",
            shown="list",
            columns=["sweep", "started", "state", "read"],
            wide=2,
        ),
        Card(
            key="promises",
            title="Promises kept, 90 days",
            of="report",
            report="promises",
            shown="list",
            columns=["grade", "kept", "broken", "open_late"],
        ),
        Card(key="at-intake", title="Waiting at intake", of="report", report="at-intake", shown="figure"),
        Card(
            key="changes-week", title="Changes of the week", of="report", report="changes-week", shown="bars", by="verb"
        ),
        Card(
            key="toner",
            title="Supplies running low",
            of="report",
            report="supplies-low",
            shown="list",
            columns=["asset.name", "name", "level"],
        ),
        Card(
            key="disks",
            title="Disks nearly full",
            of="report",
            report="disks-full",
            shown="list",
            columns=["asset.name", "mount", "full"],
        ),
        Card(
            key="certificates",
            title="Certificates that run out",
            of="report",
            report="certificates",
            shown="list",
            columns=["subject", "asset.name", "ends"],
        ),
        Card(
            key="notices",
            title="Notices to give",
            of="report",
            report="notices",
            shown="list",
            columns=["name", "ends", "notice_by"],
        ),
        Card(
            key="coverages",
            title="Coverages that end",
            of="report",
            report="coverages",
            shown="list",
            columns=["asset.name", "name", "ends"],
        ),
        Card(key="in-hands", title="Handed over", of="report", report="in-hands", shown="figure"),
        Card(key="cost", title="Cost a month, all in", of="report", report="worth", shown="figure", sum="month"),
        Card(key="worth", title="What it is worth", of="report", report="worth", shown="figure", sum="book"),
        Card(
            key="short",
            title="Short of licences",
            of="report",
            report="short",
            shown="list",
            columns=["name", "needed", "short"],
        ),
        Card(
            key="idle",
            title="Licences that lie idle",
            of="report",
            report="idle",
            shown="list",
            columns=["product", "person", "worth"],
        ),
        Card(key="replace", title="Replace rather than mend", of="report", report="replace", shown="list"),
        Card(key="computers", title="Computers over the year", shown="line", filter=_COMPUTERS, days=365),
        Card(key="missing", title="Missing", shown="figure", filter="state = missing"),
    )
}


@dataclass(frozen=True, slots=True)
class ShippedBoard:
    """A board that ships: `key` names it in addresses."""

    key: str
    name: str
    cards: tuple[str, ...]


BOARDS: dict[str, ShippedBoard] = {
    board.key: board
    for board in (
        ShippedBoard(
            "morning", "The morning", ("contact", "open", "protected", "seen-by", "toner", "new-week", "cost")
        ),
        ShippedBoard(
            "safety",
            "What is open",
            ("open", "grades", "late", "promises", "protected", "encrypted", "barred", "certificates"),
        ),
        ShippedBoard("money", "Money and terms", ("cost", "worth", "notices", "short", "idle", "coverages", "replace")),
        ShippedBoard(
            "estate",
            "The estate",
            ("kinds", "systems", "runs", "contact-kinds", "computers", "seen-by", "disks", "changes-week"),
        ),
    )
}
FIRST = "morning"
"""The board of whoever has chosen none, and whose role has none."""
