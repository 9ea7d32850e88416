"""What is written of power: on an outlet whom it feeds, and of a device what feeds it."""

from collections.abc import Container


def fed(written: str, names: Container[str]) -> str | None:
    """Return the name, folded, of whom an outlet feeds by what is written on it: the whole of it, or the word it begins
    with, as in “salt-db-01 plug 2”. None where it names nobody."""
    said = written.casefold().strip()
    if said in names:
        return said
    first = said.replace(",", " ").replace(":", " ").split(" ")[0]
    return first if first in names else None


def feeds(written: str) -> list[tuple[str, str]]:
    """Return what a device is fed by, as its word parted by commas has it: the name, folded, and which outlet there;
    “salt-pdu-01 outlet 3, salt-pdu-02” names two."""
    out = []
    for part in written.replace(";", ",").split(","):
        name, _, outlet = part.strip().partition(" ")
        if name:
            out.append((name.casefold(), outlet.strip()))
    return out
