"""What a shell is asked and what comes back: the commands of one line, each by its name and with its exit code.

A command that failed is told apart from one that had nothing to tell: after each, the shell prints a mark with the
command's name and exit code (POSIX.1-2017, Shell Command Language, 2.8.2: 126 not executable, 127 not found).
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from tarn.collect.problems import Problem
from tarn.collect.ssh.client import Output

MARK = "--tarn--"
_MARKED = re.compile(rf"\n?^{MARK} (\w+) (\d+)$\n?", re.M)
_PREFIX = "LC_ALL=C TZ=UTC PATH=$PATH:/usr/sbin:/sbin; export LC_ALL TZ PATH"
NOT_THERE = frozenset({126, 127})
"""Exit codes of a command that cannot be executed or is not found."""
_AS_ROOT = "_as_root"


class Unread(Exception):
    """A section that could not be read; the message says why."""


@dataclass(frozen=True, slots=True)
class Ask:
    """One command. `root`: it is run as root too, for what it prints depends on who runs it."""

    name: str
    line: str
    root: bool = False


def mark(name: str) -> str:
    """Return the shell words that mark the end of a command's output with its exit code."""
    return f"printf '\\n{MARK} %s %s\\n' {name} $?"


def line_of(asks: Sequence[Ask]) -> str:
    """Return the line of shell that asks all of this."""
    parts = [_PREFIX]
    for ask in asks:
        if ask.root:
            parts += [f"sudo -n {ask.line} 2>/dev/null", mark(ask.name + _AS_ROOT)]
        parts += [ask.line, mark(ask.name)]
    return "; ".join(parts)


@dataclass(frozen=True, slots=True)
class Part:
    """What one command printed, and its exit code; None where it did not come to its end."""

    name: str
    out: str
    code: int | None


@dataclass(slots=True)
class Answers:
    """What came back of a line, command by command."""

    parts: list[Part]
    err: str = ""
    cut: Problem | None = None
    _by_name: dict[str, Part] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        self._by_name = {p.name: p for p in self.parts}

    def code(self, name: str) -> int | None:
        """Return a command's exit code, or None where it did not come to its end."""
        part = self._by_name.get(name)
        return part.code if part else None

    def text(self, name: str) -> str:
        """Return what a command printed, however it ended."""
        part = self._by_name.get(name)
        return part.out if part else ""

    def ran(self, name: str) -> bool:
        """Whether a command ran to a good end."""
        return self.code(name) == 0

    def there(self, name: str) -> bool:
        """Whether the machine has the command at all, or that is not known."""
        return self.code(name) not in NOT_THERE

    def whole(self, name: str, command: str) -> str:
        """Return what a command printed that ran to a good end. Raises Unread saying how it ended otherwise."""
        if self.ran(name):
            return self.text(name)
        raise Unread(self.why_not(name, command))

    def why_not(self, name: str, command: str) -> str:
        """Say how a command ended that did not end well."""
        code = self.code(name)
        if code is None:
            said = next((p.out.strip() for p in self.parts if p.out.strip()), "") or self.err.strip()
            return f"`{command}` was not run{': ' + said[:120] if said else ''}"
        if code == 127:
            return f"`{command}` is not there"
        lines = self.err.strip().splitlines()
        return f"`{command}` ended with {code}{': ' + lines[-1][:120] if lines else ''}"

    @property
    def unfinished(self) -> str:
        """What the command printed that did not come to its end."""
        return self.text("")

    @property
    def is_root(self) -> bool:
        """Whether the account that asks is root itself (a line that needs to know asks `id -u` as "uid")."""
        return self.text("uid").strip() == "0"

    def as_root(self, name: str, command: str) -> tuple[str, bool]:
        """Return what a command printed and whether it ran as one who sees all. Raises Unread where neither ran."""
        if self.ran(name + _AS_ROOT):
            return self.text(name + _AS_ROOT), True
        return self.whole(name, command), self.is_root


_HOST_NAME = re.compile(r"\s*([A-Za-z0-9_]([A-Za-z0-9_.-]{0,252}))\s*")


def host_name(said: Answers, name: str) -> str:
    """Return the host name a command printed (RFC 1123, 2.1), or "" where it printed none, or something else."""
    match = _HOST_NAME.fullmatch(said.text(name)) if said.ran(name) else None
    return match[1] if match else ""


UID = Ask("uid", "id -u")

Reader = Callable[[Answers], list[Any]]


@dataclass(frozen=True, slots=True)
class ReadingStep:
    """A section, the stage of the sweep it is read in, what is asked for it, and its reader."""

    section: str
    stage: int
    asks: tuple[Ask, ...]
    reader: Reader

    @property
    def line(self) -> str:
        """The line of shell that is run."""
        return line_of(self.asks)


def answers(output: Output) -> Answers:
    """Part the output of a line by its marks. What follows the last mark belongs to a command that did not end."""
    pieces = _MARKED.split(output.out)
    parts = [Part(n, o, int(c)) for o, n, c in zip(pieces[::3], pieces[1::3], pieces[2::3], strict=False)]
    if pieces[-1]:
        parts.append(Part("", pieces[-1], None))
    return Answers(parts, output.err, output.cut)
