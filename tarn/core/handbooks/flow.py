"""A handbook as it is written out: its document as a row of pieces, blocks filled and variables put in, whatever the
format."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from tarn.core.handbooks.live import Filled


@dataclass(frozen=True, slots=True)
class Run:
    """Some text within a line, with how it looks. `note`: the number of a footnote that stands here."""

    text: str
    bold: bool = False
    italic: bool = False
    code: bool = False
    link: str = ""
    note: int = 0


Runs = tuple[Run, ...]
PieceKind = Literal["heading", "paragraph", "item", "quote", "table", "break", "live", "picture"]


@dataclass(frozen=True)
class Piece:
    """One piece. `level`: of a heading, or how deep an item lies; `mark`: what stands before an item; `rows` of a table
    hold their cells' runs, the first row its heads where `head`."""

    kind: PieceKind
    runs: Runs = ()
    level: int = 0
    mark: str = ""
    rows: tuple[tuple[Runs, ...], ...] = ()
    head: bool = False
    filled: Filled | None = None
    paper: int = 0


@dataclass
class Flow:
    """A handbook to be written: its pieces, and its footnotes in their order."""

    title: str
    pieces: list[Piece] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


def flow_of(
    title: str, document: Mapping[str, Any], filled: Mapping[str, Filled], variables: Mapping[str, str]
) -> Flow:
    """Return a document as pieces. Parts of other handbooks have to be put in before (`with_parts`)."""
    made = Flow(title)
    writer = _Writer(made, filled, variables)
    for node in document.get("content", ()):
        made.pieces += writer.pieces(node)
    return made


class _Writer:
    def __init__(self, flow: Flow, filled: Mapping[str, Filled], variables: Mapping[str, str]) -> None:
        self._flow, self._filled, self._variables = flow, filled, variables

    def pieces(self, node: Mapping[str, Any], depth: int = 0) -> Iterator[Piece]:
        kind, attrs = node["type"], node.get("attrs", {})
        if kind == "heading":
            yield Piece("heading", self.runs(node), attrs["level"])
        elif kind == "paragraph":
            yield Piece("paragraph", self.runs(node))
        elif kind in ("bulletList", "orderedList"):
            yield from self._items(node, depth)
        elif kind == "blockquote":
            for child in node.get("content", ()):
                for piece in self.pieces(child, depth):
                    yield Piece("quote", piece.runs) if piece.kind == "paragraph" else piece
        elif kind == "table":
            rows = node.get("content", ())
            head = bool(rows) and all(c["type"] == "tableHeader" for c in rows[0].get("content", ()))
            yield Piece("table", rows=tuple(tuple(map(self._cell, row.get("content", ()))) for row in rows), head=head)
        elif kind == "pageBreak":
            yield Piece("break")
        elif kind == "live":
            yield Piece("live", filled=self._filled.get(attrs["key"]))
        elif kind == "picture":
            yield Piece("picture", (Run(attrs.get("words", "")),), paper=attrs["paper"])

    def _items(self, node: Mapping[str, Any], depth: int) -> Iterator[Piece]:
        number = node.get("attrs", {}).get("start", 1)
        for item in node.get("content", ()):
            mark = f"{number}." if node["type"] == "orderedList" else "•"
            for place, child in enumerate(item.get("content", ())):
                if child["type"] == "paragraph":
                    yield Piece("item", self.runs(child), depth, mark if place == 0 else "")
                else:
                    yield from self._items(child, depth + 1)
            number += 1

    def _cell(self, node: Mapping[str, Any]) -> Runs:
        lines = [piece for child in node.get("content", ()) for piece in self.pieces(child)]
        out: list[Run] = []
        for number, line in enumerate(lines):
            out += [Run("\n")] if number else []
            out += [Run(f"{line.mark} ")] if line.mark else []
            out += line.runs
        return tuple(out)

    def runs(self, node: Mapping[str, Any]) -> Runs:
        out = []
        for child in node.get("content", ()):
            if child["type"] == "text":
                marks = {m["type"]: m.get("attrs", {}) for m in child.get("marks", ())}
                link = marks.get("link", {}).get("href", "")
                out.append(Run(child["text"], "bold" in marks, "italic" in marks, "code" in marks, link))
            elif child["type"] == "hardBreak":
                out.append(Run("\n"))
            elif child["type"] == "variable":
                out.append(Run(self._variables.get(child["attrs"]["name"], "")))
            elif child["type"] == "footnote":
                self._flow.notes.append(child["attrs"]["text"])
                out.append(Run("", note=len(self._flow.notes)))
        return tuple(out)


def words(runs: Runs) -> str:
    """Return the text of runs."""
    return "".join(run.text or (f"[{run.note}]" if run.note else "") for run in runs)
