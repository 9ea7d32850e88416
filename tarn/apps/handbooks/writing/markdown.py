"""A handbook as Markdown (CommonMark, with tables and footnotes as GFM has them)."""

import re

from tarn.apps.handbooks.writing.common import Written, note_of
from tarn.core.handbooks.flow import Piece, Run, Runs
from tarn.core.handbooks.live import Filled

_SIGNS = re.compile(r"([\\`*_\[\]<>#|~])")


def as_markdown(made: Written) -> bytes:
    """Return an issue as Markdown."""
    out = [_piece(piece) for piece in made.flow.pieces]
    notes = [f"[^{n}]: {_plain(text)}" for n, text in enumerate(made.flow.notes, 1)]
    return ("\n\n".join([*out, *notes, f"---\n\n{_plain(made.under)}"]) + "\n").encode()


def _plain(text: str) -> str:
    return _SIGNS.sub(r"\\\1", text)


def _piece(piece: Piece) -> str:
    text = _runs(piece.runs)
    if piece.kind == "heading":
        return f"{'#' * piece.level} {text}"
    if piece.kind == "item":
        mark = "-" if piece.mark == "•" else piece.mark or " "
        return f"{'   ' * piece.level}{mark} {text}"
    if piece.kind == "quote":
        return f"> {text}"
    if piece.kind == "break":
        return "---"
    if piece.kind == "table":
        rows = [[_runs(cell).replace("\n", " ") for cell in row] for row in piece.rows]
        heads = rows.pop(0) if piece.head else [""] * max(map(len, rows))
        return _table(heads, rows)
    if piece.kind == "live":
        return _live(piece.filled)
    if piece.kind == "picture":
        return f"*Picture: {text}*"
    return text


def _table(heads: list[str], rows: list[list[str]]) -> str:
    lines = [heads, ["---"] * len(heads), *rows]
    return "\n".join("| " + " | ".join(line) + " |" for line in lines)


def _runs(runs: Runs) -> str:
    return "".join(map(_run, runs))


def _run(run: Run) -> str:
    if run.note:
        return f"[^{run.note}]"
    text = f"`{run.text}`" if run.code and "`" not in run.text else _plain(run.text).replace("\n", "  \n")
    if text.strip():
        # Marks hug the words: “** so **” is no mark.
        core = text.strip()
        before, after = text[: len(text) - len(text.lstrip())], text[len(text.rstrip()) :]
        core = f"*{core}*" if run.italic else core
        core = f"**{core}**" if run.bold else core
        core = f"[{core}](<{run.link}>)" if run.link else core
        text = before + core + after
    return text


def _live(filled: Filled | None) -> str:
    if filled is None:
        return "*This block was not filled.*"
    head = f"**{_plain(filled['title'])}** ({_plain(note_of(filled))})"
    if filled["trouble"]:
        return f"{head}\n\n*{_plain(filled['trouble'])}*"
    rows = [[_plain(cell).replace("\n", " ") for cell in row] for row in filled["rows"]]
    if filled["shape"] == "figure":
        return f"{head}\n\n**{filled['figure']}** {rows[0][0]}"
    if filled["shape"] == "table":
        return f"{head}\n\n" + (_table([_plain(c) for c in filled["columns"]], rows) if rows else "None.")
    if filled["shape"] == "facts":
        return f"{head}\n\n" + _table(["", ""], rows)
    return "\n\n".join([head, *(" ".join(row) for row in rows)])
