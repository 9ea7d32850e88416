"""Invented names: makers, products, people, packages. None is meant to be anyone's."""

MAKERS = {
    "halberd": ("Halberd", "7c:1e:b0"),
    "orrin": ("Orrin", "58:b0:3c"),
    "quarto": ("Quarto Imaging", "90:af:d2"),
    "brightwire": ("Brightwire", "c4:a6:f0"),
    "selkie": ("Selkie Networks", "18:f9:5e"),
    "tallow": ("Tallow Systems", "34:9f:7a"),
    "gannet": ("Gannet Power", "dc:11:44"),
}
"""Maker by key: its name and the beginning of its hardware addresses (none of them registered)."""

PEOPLE = (
    "Ines Kallas", "Tomas Vrell", "Maud Oskery", "Piet Harrowgate", "Runa Stell", "Idris Calloway", "Wren Tasker",
    "Oona Mereth", "Bram Sillery", "Tilde Aske", "Corwin Pell", "Signe Marrack", "Hollis Drane", "Yrsa Quill",
    "Fen Ardley", "Lotte Braithe", "Asa Windrow", "Merrin Coble", "Jory Thane", "Nell Stroma", "Odd Carrick",
    "Bettany Roke", "Silas Wray", "Una Skerry", "Magnus Tolland", "Petra Lisle", "Rafe Minton", "Elin Harbour",
    "Cass Yarrow", "Dov Lendrick", "Greer Halloway", "Sunniva Pike",
)  # fmt: skip

DEPARTMENTS = ("Fleet", "Harbour Desk", "Ticketing", "Galley and Retail", "Workshop", "Crewing", "Accounts", "IT")

_FIRST = (
    "marl", "skerry", "tidal", "keel", "bosun", "cairn", "fathom", "gimbal", "halyard", "kelp", "lantern", "moor",
    "nock", "oakum", "pintle", "quay", "rowlock", "sextant", "thole", "uphroe", "vang", "warp", "yaw", "zephyr",
)  # fmt: skip
_SECOND = ("core", "utils", "tools", "data", "net", "fs", "text", "locale")


def base_packages(number: int) -> list[tuple[str, str]]:
    """Return `number` invented base packages, each a name and a version, the same every time."""
    out = []
    for i in range(number):
        first, second = _FIRST[i % len(_FIRST)], _SECOND[i // len(_FIRST) % len(_SECOND)]
        name = f"lib{first}{i % 5 + 1}" if i % 3 == 0 else f"{first}-{second}"
        out.append((name if i < 192 else f"{name}-{i}", f"{i % 7 + 1}.{i % 11}.{i % 4}-{i % 3 + 1}"))
    return list(dict(out).items())


PRODUCTS: dict[str, tuple[str, list[tuple[int, str]]]] = {
    "quill-office": ("Northquill", [(0, "16.0.0"), (296, "16.0.1"), (352, "16.1.0"), (391, "16.1.1")]),
    "pellucid-reader": ("Pellucid", [(0, "11.0.1"), (310, "11.0.2"), (388, "11.0.3")]),
    "berthwright-planner": ("Callow Marine", [(0, "7.4.1"), (300, "7.4.2"), (372, "7.4.3")]),
    "tixline-server": ("Tixline", [(0, "3.8.0"), (330, "3.9.0"), (398, "3.9.1")]),
    "tixline-kiosk": ("Tixline", [(0, "2.2.0"), (320, "2.3.0"), (380, "2.3.1")]),
    "tillmaster": ("Galley Systems", [(0, "5.1"), (340, "5.2")]),
    "crewroster": ("Callow Marine", [(0, "4.0.3"), (358, "4.1.0")]),
    "storekeeper": ("Callow Marine", [(0, "2.9"), (366, "2.10")]),
    "merlin-mail": ("Northquill", [(0, "9.2.1"), (361, "9.2.2")]),
    "corvid-protect": ("Corvid", [(0, "6.1.0"), (305, "6.1.1"), (345, "6.2.0"), (385, "6.2.1"), (399, "6.2.2")]),
    "ostler-client": ("Ostler", [(0, "5.1.0")]),
    "heron-monitor": ("Heron", [(0, "1.14"), (375, "1.15")]),
    "grebe-database": ("Grebe", [(0, "14.9"), (333, "14.10"), (393, "14.11")]),
    "desktop-session": ("Tallow Systems", [(0, "43.1"), (348, "43.4")]),
    "secure-shell-server": ("Tallow Systems", [(0, "9.2p1-2"), (377, "9.2p1-3")]),
    "driftshare": ("Driftline", [(0, "2.9")]),
}
"""Products: publisher, and the lab's days on which releases came out."""
