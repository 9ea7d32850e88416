"""Ports of switches: how they are counted, and where a switch nobody reads is guessed."""

import re

FEWEST_BEHIND = 4
"""As many addresses at a port that is no way to another switch, an access point or a host are a switch nobody reads."""


def spoken(port: str) -> tuple[str, tuple[int, ...], str]:
    """Return a port's place among others: port 2 before port 10, and 1/0/9 before 1/0/10."""
    letters = re.sub(r"\d+", "", port)
    return letters, tuple(int(n) for n in re.findall(r"\d+", port)), port


def unmanaged(addresses: int, explained: bool) -> str:
    """Return what a port with several addresses is guessed to lead to, in words; empty where it is explained."""
    if explained or addresses < 2:
        return ""
    if addresses >= FEWEST_BEHIND:
        return f"an unmanaged switch, guessed: {addresses} addresses at one port"
    return ""
