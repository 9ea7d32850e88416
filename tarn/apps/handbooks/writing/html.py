"""A handbook as one HTML page with nothing outside it."""

import base64
from html import escape

from tarn.apps.handbooks.writing.common import Written, note_of, picture
from tarn.core.handbooks.flow import Piece, Run, Runs
from tarn.core.handbooks.live import Filled

_STYLE = (
    "body{font:15px/1.5 'Atkinson Hyperlegible Next',system-ui,sans-serif;margin:2em auto;max-width:52em;color:#15252c;"
    "padding:0 1em}"
    "h1{font-size:1.8em}table{border-collapse:collapse;width:100%;font-size:13px}th,td{text-align:left;"
    "padding:4px 8px;border-bottom:1px solid #dcdcd3;vertical-align:top}th,code{background:#f4f3ee}"
    ".live{border-left:4px solid #1b5c66;background:#f7f9f8;padding:.6em 1em;margin:1em 0}.live>p{margin:0 0 .4em}"
    ".note{color:#46585f;font-size:13px;float:right}.bad{color:#8a2c1a}.big{font-size:1.7em;font-weight:700}"
    "padding:4px 8px;border-bottom:1px solid #dcdcd3;vertical-align:top}th{background:#f4f3ee}"
    "footer{border-top:1px solid #dcdcd3;margin-top:2em;color:#46585f;font-size:13px}"
)


def as_html(made: Written) -> bytes:
    """Return an issue as HTML."""
    body = "\n".join(map(_piece, made.flow.pieces))
    notes = "".join(f'<li id="n{n}">{escape(text)}</li>' for n, text in enumerate(made.flow.notes, 1))
    notes = f"<h2>Notes</h2><ol>{notes}</ol>" if notes else ""
    title = escape(made.flow.title)
    return (
        f'<!doctype html><html lang="en"><meta charset="utf-8"><title>{title}</title><style>{_STYLE}</style>'
        f"<body>{body}{notes}<footer><p>{escape(made.under)}</p></footer></body></html>"
    ).encode()


def _piece(piece: Piece) -> str:
    if piece.kind == "heading":
        return f"<h{piece.level}>{runs(piece.runs)}</h{piece.level}>"
    if piece.kind == "item":
        return f'<p style="margin:.2em 0 .2em {1 + 1.6 * piece.level}em">{escape(piece.mark)} {runs(piece.runs)}</p>'
    if piece.kind == "quote":
        return f"<blockquote>{runs(piece.runs)}</blockquote>"
    if piece.kind == "break":
        return '<div class="break"></div>'
    if piece.kind == "table":
        rows = []
        for number, row in enumerate(piece.rows):
            tag = "th" if piece.head and number == 0 else "td"
            rows.append("<tr>" + "".join(f"<{tag}>{runs(cell)}</{tag}>" for cell in row) + "</tr>")
        return f"<table>{''.join(rows)}</table>"
    if piece.kind == "live":
        return _live(piece.filled)
    if piece.kind == "picture":
        path = picture(piece.paper)
        said = runs(piece.runs)
        if path is None:
            return f'<p class="bad">The picture {piece.paper} is not there any more. {said}</p>'
        data = base64.b64encode(path.read_bytes()).decode()
        return f'<figure><img alt="{said}" src="data:image;base64,{data}"><figcaption>{said}</figcaption></figure>'
    return f"<p>{runs(piece.runs)}</p>"


def runs(several: Runs) -> str:
    """Return runs as HTML."""
    return "".join(map(_run, several))


def _run(run: Run) -> str:
    if run.note:
        return f'<sup><a href="#n{run.note}">{run.note}</a></sup>'
    text = escape(run.text).replace("\n", "<br>")
    for on, tag in ((run.code, "code"), (run.italic, "em"), (run.bold, "strong")):
        text = f"<{tag}>{text}</{tag}>" if on else text
    return f'<a href="{escape(run.link)}">{text}</a>' if run.link else text


def _live(filled: Filled | None) -> str:
    if filled is None:
        return '<p class="bad">This block was not filled.</p>'
    head = f'<p><span class="note">{escape(note_of(filled))}</span><strong>{escape(filled["title"])}</strong></p>'
    if filled["trouble"]:
        inner = f'<p class="bad">{escape(filled["trouble"])}</p>'
    elif filled["shape"] == "figure":
        inner = f'<p><span class="big">{escape(filled["figure"])}</span> {escape(filled["rows"][0][0])}</p>'
    elif filled["shape"] == "table":
        heads = "".join(f"<th>{escape(c)}</th>" for c in filled["columns"])
        rows = "".join("<tr>" + "".join(f"<td>{escape(v)}</td>" for v in r) + "</tr>" for r in filled["rows"])
        inner = f"<table><thead><tr>{heads}</tr></thead>{rows}</table>" if filled["rows"] else "<p>None.</p>"
    elif filled["shape"] == "facts":
        inner = "<table>" + "".join(f"<tr><th>{escape(a)}</th><td>{escape(b)}</td></tr>" for a, b in filled["rows"])
        inner += "</table>"
    else:
        inner = "".join(f"<p>{escape(' '.join(row))}</p>" for row in filled["rows"])
    return f'<section class="live">{head}{inner}</section>'
