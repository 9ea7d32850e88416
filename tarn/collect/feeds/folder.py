"""A folder of files on this machine, read through each time: what is there already costs a comparison."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from tarn.collect.feeds.kind import FeedKind, Fetching, Opened
from tarn.collect.problems import Problem
from tarn.collect.sources.kind import Setting, SettingError


@dataclass(frozen=True, slots=True)
class FolderSettings:
    """`path`: a folder, or one file, on the machine Tarn runs on."""

    path: str


def read_folder(settings: FolderSettings, fetching: Fetching) -> Iterator[Opened]:
    """Yield the files that were changed since they were last read. Raises Problem."""
    top = Path(settings.path)
    seen: dict[str, list[int]] = fetching.state.setdefault("files", {})
    if not top.exists():
        raise Problem("failed", section="the folder", detail=f"there is no {top}")
    files = [top] if top.is_file() else sorted(p for p in top.rglob("*") if p.is_file() and not p.name.startswith("."))
    for path in files:
        name = str(path.relative_to(top)) if top.is_dir() else path.name
        try:
            mark = [path.stat().st_mtime_ns, path.stat().st_size]
            if seen.get(name) == mark:
                continue
            with path.open("rb") as stream:
                yield name, stream
        except OSError as error:
            raise Problem("failed", section=name, detail=str(error.strerror)) from None
        seen[name] = mark


def _check(settings: FolderSettings) -> None:
    if not Path(settings.path).is_absolute():
        raise SettingError("path", "Say the whole path, from the root on, such as /srv/advisories.")


KINDS = (
    FeedKind(
        "folder",
        "files on this machine: a folder that something else fills, or one file",
        FolderSettings,
        (Setting("path", "Folder or file", needed="Say where the files lie, such as /srv/advisories."),),
        read_folder,
        _check,
    ),
)
