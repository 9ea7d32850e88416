"""What a handbook's document is made of: the nodes of an editor's tree (ProseMirror's JSON), checked when it is kept.

A node is `{"type": …, "attrs": {…}, "content": […]}`; text is `{"type": "text", "text": …, "marks": […]}`.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from tarn.core.handbooks.live import LIVE, LiveError, checked_settings

BLOCK = frozenset(
    ("heading", "paragraph", "bulletList", "orderedList", "blockquote", "table", "pageBreak", "live", "part", "picture")
)
INLINE = frozenset(("text", "hardBreak", "footnote", "variable"))
MARKS = ("bold", "italic", "code", "link")
VARIABLES = {
    "company": "the company’s name",
    "place": "the place the handbook is about",
    "date": "the day it was issued",
    "number": "the number of the issue",
    "approved": "who approved it",
    "asked": "who asked for it",
}
"""What is filled in within a line when a handbook is issued."""
MOST_NODES, DEEPEST = 20_000, 12
MOST_TEXT = 100_000


@dataclass(frozen=True)
class NodeKind:
    """A kind of node: what may stand in it, what is known of it, whether it may be empty."""

    holds: frozenset[str] = frozenset()
    attrs: Mapping[str, type] = field(default_factory=dict)
    may_be_empty: bool = True


NODES: dict[str, NodeKind] = {
    "doc": NodeKind(BLOCK),
    "heading": NodeKind(INLINE, {"level": int}),
    "paragraph": NodeKind(INLINE),
    "bulletList": NodeKind(frozenset(("listItem",)), may_be_empty=False),
    "orderedList": NodeKind(frozenset(("listItem",)), {"start": int}, may_be_empty=False),
    "listItem": NodeKind(frozenset(("paragraph", "bulletList", "orderedList")), may_be_empty=False),
    "blockquote": NodeKind(frozenset(("paragraph", "bulletList", "orderedList"))),
    "table": NodeKind(frozenset(("tableRow",)), may_be_empty=False),
    "tableRow": NodeKind(frozenset(("tableCell", "tableHeader")), may_be_empty=False),
    "tableCell": NodeKind(frozenset(("paragraph", "bulletList", "orderedList")), {"colspan": int, "rowspan": int}),
    "tableHeader": NodeKind(frozenset(("paragraph", "bulletList", "orderedList")), {"colspan": int, "rowspan": int}),
    "pageBreak": NodeKind(),
    "live": NodeKind(attrs={"key": str, "kind": str, "settings": dict}),
    "part": NodeKind(attrs={"handbook": int}),
    "picture": NodeKind(attrs={"paper": int, "words": str}),
    "hardBreak": NodeKind(),
    "footnote": NodeKind(attrs={"text": str}),
    "variable": NodeKind(attrs={"name": str}),
}
"""The nodes of a document. `part`: another handbook's document in this place; `picture`: a file kept with it."""

_LEFT_OUT = ("colwidth", "type", "tight")
"""What editors keep of their own in a node, and nothing is made of."""


class HandbookError(ValueError):
    """A document that is none; `place` says where, as a path of its nodes."""

    def __init__(self, place: str, message: str) -> None:
        self.place = place
        super().__init__(f"{place}: {message}")


def check(document: Any) -> dict[str, Any]:
    """Return a document with what is known of its nodes only. Raises HandbookError naming the place and what is wrong
    there."""
    if not isinstance(document, dict) or document.get("type") != "doc":
        raise HandbookError("document", "the outermost node has to be “doc”")
    count = [0]
    made = _checked(document, "document", 0, count)
    keys: set[str] = set()
    for _, node in walk(made):
        if node["type"] == "live":
            key = node["attrs"]["key"]
            if key in keys:
                raise HandbookError("document", f"two live blocks have the key “{key}”")
            keys.add(key)
    return made


def _checked(node: Any, place: str, depth: int, count: list[int]) -> dict[str, Any]:
    count[0] += 1
    if count[0] > MOST_NODES:
        raise HandbookError("document", f"it has more than {MOST_NODES:,} nodes; part it into several handbooks")
    if depth > DEEPEST:
        raise HandbookError(place, "nodes lie too deep within each other")
    if not isinstance(node, dict) or not isinstance(node.get("type"), str):
        raise HandbookError(place, "this is no node")
    name = node["type"]
    if name == "text":
        return _text(node, place)
    kind = NODES.get(name)
    if kind is None:
        raise HandbookError(place, f"“{name[:40]}” is no node of a handbook")
    content = node.get("content") or []
    if not isinstance(content, list):
        raise HandbookError(place, "its content has to be a list")
    if not content and not kind.may_be_empty:
        raise HandbookError(place, f"a {name} has to hold something")
    inner = []
    for number, child in enumerate(content):
        there = f"{place}.{name if depth else ''}[{number}]".replace(".[", "[")
        if not isinstance(child, dict) or child.get("type") not in kind.holds:
            what = child.get("type") if isinstance(child, dict) else child
            raise HandbookError(there, f"a {name} holds no “{str(what)[:40]}”")
        inner.append(_checked(child, there, depth + 1, count))
    made: dict[str, Any] = {"type": name}
    if attrs := _attributes(node.get("attrs") or {}, name, kind, place):
        made["attrs"] = attrs
    if inner:
        made["content"] = inner
    return made


def _attributes(said: Any, name: str, kind: NodeKind, place: str) -> dict[str, Any]:
    if not isinstance(said, dict):
        raise HandbookError(place, "what is known of it has to be an object")
    out: dict[str, Any] = {}
    for key, value in said.items():
        if key in _LEFT_OUT or value is None:
            continue
        wanted = kind.attrs.get(key)
        if wanted is None:
            raise HandbookError(place, f"a {name} has no “{str(key)[:40]}”")
        if not isinstance(value, wanted) or isinstance(value, bool):
            raise HandbookError(place, f"the “{key}” of a {name} cannot be {str(value)[:40]!r}")
        out[key] = value
    if name == "heading" and out.get("level") not in (1, 2, 3):
        raise HandbookError(place, "a heading is of level 1, 2 or 3")
    if name == "variable" and out.get("name") not in VARIABLES:
        raise HandbookError(place, f"“{out.get('name')}” is none of what is filled in; {', '.join(VARIABLES)} are")
    if name == "live":
        if out.get("kind") not in LIVE or not out.get("key"):
            raise HandbookError(place, f"“{out.get('kind')}” is no live block; {', '.join(LIVE)} are")
        try:
            out["settings"] = checked_settings(out["kind"], out.get("settings") or {})
        except LiveError as fault:
            raise HandbookError(f"{place}.{fault.field}", str(fault)) from None
    if name in ("part", "picture") and not out.get("handbook" if name == "part" else "paper"):
        raise HandbookError(place, f"say which {'handbook' if name == 'part' else 'picture'}")
    return out


def _text(node: Mapping[str, Any], place: str) -> dict[str, Any]:
    text = node.get("text")
    if not isinstance(text, str) or not text:
        raise HandbookError(place, "text has to hold something")
    if len(text) > MOST_TEXT:
        raise HandbookError(place, f"a paragraph may have {MOST_TEXT:,} characters")
    made: dict[str, Any] = {"type": "text", "text": text}
    marks = []
    for mark in node.get("marks") or []:
        name = mark.get("type") if isinstance(mark, dict) else None
        if name not in MARKS:
            raise HandbookError(place, f"text cannot be “{str(name)[:40]}”")
        if name == "link":
            href = (mark.get("attrs") or {}).get("href")
            if not isinstance(href, str) or not href.startswith(("http://", "https://", "mailto:", "tel:", "/")):
                raise HandbookError(place, "a link leads to http, https, mailto, tel, or a page here")
            marks.append({"type": "link", "attrs": {"href": href[:2_000]}})
        else:
            marks.append({"type": name})
    if marks:
        made["marks"] = marks
    return made


def walk(node: Mapping[str, Any], path: tuple[int, ...] = ()) -> Iterator[tuple[tuple[int, ...], dict[str, Any]]]:
    """Yield all nodes below one with the way to each, in their order."""
    for number, child in enumerate(node.get("content", ())):
        yield (*path, number), child
        yield from walk(child, (*path, number))


def headings(document: Mapping[str, Any]) -> list[tuple[int, str]]:
    """Return the headings of a document with their levels."""
    return [(node["attrs"]["level"], plain(node)) for _, node in walk(document) if node["type"] == "heading"]


def plain(node: Mapping[str, Any]) -> str:
    """Return the text of a node without its marks."""
    if node["type"] == "text":
        return str(node["text"])
    if node["type"] == "hardBreak":
        return "\n"
    if node["type"] == "variable":
        return f"{{{node['attrs']['name']}}}"
    if node["type"] == "footnote":
        return f" ({node['attrs']['text']})"
    return "".join(plain(child) for child in node.get("content", ()))
