"""How two issues of a handbook differ: in prose paragraph by paragraph, in blocks row by row."""

from collections.abc import Mapping
from difflib import SequenceMatcher
from typing import Any, Literal

from typing_extensions import TypedDict

from tarn.core.handbooks.document import plain
from tarn.core.handbooks.live import Filled


class Difference(TypedDict):
    """One difference: in prose under a heading, or in a block. Of what came or went one side is empty."""

    where: str
    what: Literal["prose", "row", "figure", "block"]
    before: str
    after: str


_SAID = ("heading", "paragraph", "tableRow")


def differences(
    before: Mapping[str, Any], after: Mapping[str, Any], filled_before: Mapping[str, Filled],
    filled_after: Mapping[str, Filled],
) -> list[Difference]:  # fmt: skip
    """Return what differs between two issues, in the order of the later one."""
    return [*_prose(_lines(before), _lines(after)), *_blocks(filled_before, filled_after)]


def _lines(document: Mapping[str, Any]) -> list[tuple[str, str]]:
    """Return the lines of prose, each with the heading it stands under."""
    out: list[tuple[str, str]] = []
    under = ""

    def go(node: Mapping[str, Any]) -> None:
        nonlocal under
        if node["type"] == "heading":
            under = plain(node)
        if node["type"] in _SAID:
            inner = node.get("content", ())
            text = " | ".join(map(plain, inner)) if node["type"] == "tableRow" else plain(node)
            if text.strip():
                out.append((under, text.strip()))
            return
        for child in node.get("content", ()):
            go(child)

    go(document)
    return out


def _prose(before: list[tuple[str, str]], after: list[tuple[str, str]]) -> list[Difference]:
    out: list[Difference] = []
    match = SequenceMatcher(None, [t for _, t in before], [t for _, t in after], autojunk=False)
    for tag, a, b, c, d in match.get_opcodes():
        if tag == "equal":
            continue
        old, new = before[a:b], after[c:d]
        for number in range(max(len(old), len(new))):
            was = old[number] if number < len(old) else ("", "")
            now = new[number] if number < len(new) else ("", "")
            out.append({"where": now[0] or was[0], "what": "prose", "before": was[1], "after": now[1]})
    return out


def _blocks(before: Mapping[str, Filled], after: Mapping[str, Filled]) -> list[Difference]:
    out: list[Difference] = []
    for key in dict.fromkeys([*after, *before]):
        was, now = before.get(key), after.get(key)
        if was is None or now is None:
            there = now or was
            assert there is not None
            words = there["title"] or "a block"
            out.append({"where": words, "what": "block", "before": "" if now else words, "after": words if now else ""})
        else:
            out += _block(was, now)
    return out


def _block(was: Filled, now: Filled) -> list[Difference]:
    where = now["title"] or was["title"]
    if was["figure"] != now["figure"]:
        return [{"where": where, "what": "figure", "before": was["figure"], "after": now["figure"]}]
    # A row is known by its first cell where that tells all of them apart, by all of it where it does not.
    firsts = [r[0] if r else "" for r in (*was["rows"], *now["rows"])]
    apart = len(set(firsts[: len(was["rows"])])) == len(was["rows"])
    apart = apart and len(set(firsts[len(was["rows"]) :])) == len(now["rows"])

    def key(row: list[str]) -> str:
        return row[0] if apart and row else " | ".join(row)

    old, new = {key(r): r for r in was["rows"]}, {key(r): r for r in now["rows"]}
    out: list[Difference] = []
    for name in dict.fromkeys([*new, *old]):
        a, b = old.get(name), new.get(name)
        if a != b:
            out.append(
                {
                    "where": where,
                    "what": "row",
                    "before": " | ".join(a) if a else "",
                    "after": " | ".join(b) if b else "",
                }
            )
    return out
