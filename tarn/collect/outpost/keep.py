"""What an outpost has found and not yet handed over: files in a folder, the oldest first.

A hand-in is a file from the moment it is made until Tarn has said that it has it, so that neither a
link that drops nor a power cut loses anything.
"""

import os
from pathlib import Path


class Keep:
    """The folder of hand-ins; those Tarn refused are set aside in `refused/`, never thrown away."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.aside = folder, folder / "refused"
        self.aside.mkdir(parents=True, exist_ok=True, mode=0o700)
        for part in folder.glob("*.part"):  # a power cut while writing: never whole, never promised
            part.unlink()
        self._last = max((int(p.name.split("-")[0]) for p in self.waiting()), default=0)

    def waiting(self) -> list[Path]:
        """Return what waits, the oldest first."""
        return sorted(self.folder.glob("*.json"))

    def leases(self) -> list[str]:
        """Return the leases of what waits: they are not over before it is handed over."""
        return list(dict.fromkeys(p.stem.partition("-")[2] for p in self.waiting()))

    def put(self, lease: str, body: bytes) -> None:
        """Keep a hand-in."""
        self._last += 1
        path = self.folder / f"{self._last:012d}-{lease}.json"
        part = path.with_suffix(".part")
        with part.open("wb") as file:
            file.write(body)
            file.flush()
            os.fsync(file.fileno())
        part.rename(path)

    def drop(self, path: Path) -> None:
        """Forget a hand-in that Tarn has."""
        path.unlink()

    def set_aside(self, path: Path, why: str) -> None:
        """Set a hand-in aside that Tarn refused, with the reason beside it."""
        path.rename(self.aside / path.name)
        (self.aside / path.name).with_suffix(".txt").write_text(why + "\n", encoding="utf-8")
