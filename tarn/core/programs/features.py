"""What a process looks like: its program, what that program was told to run, its options, ports and account."""

import re
from dataclasses import dataclass
from functools import lru_cache

INTERPRETERS = frozenset(
    (
        "java",
        "javaw",
        "python",
        "pythonw",
        "node",
        "nodejs",
        "perl",
        "ruby",
        "php",
        "dotnet",
        "mono",
        "sh",
        "bash",
        "dash",
        "ksh",
        "zsh",
        "cmd",
        "powershell",
        "pwsh",
        "wscript",
        "cscript",
        "Rscript",
        "lua",
        "erl",
        "beam",
        "deno",
        "bun",
    )
)
"""Programs that run what they are told to: what tells them apart is that, and not themselves."""
_SAYS_NOTHING = frozenset(("main", "index", "app", "server", "serve", "run", "start", "manage", "cli", "service"))
"""Names of scripts that tell nothing: where they lie tells more."""
_MODULE = {"python": "-m", "pythonw": "-m", "perl": "-M"}
_TAKES_VALUE = frozenset(("-cp", "-classpath", "--class-path", "-p", "--module-path", "-r", "--require"))
_SCRIPT = re.compile(r"\.(jar|war|py|pyz|js|mjs|cjs|ts|pl|rb|php|sh|dll|ps1|bat|lua)$", re.IGNORECASE)
_VERSION = re.compile(r"[-_.]?v?\d+(?:\.\d+)*$")
_RELEASED = re.compile(r"[-_]v?\d+(?:\.\d+)+")
_SYSTEM = re.compile(
    r"^(?:/usr)?/(?:s?bin|lib(?:exec)?|lib64|libexec)/|^/System/|^/Library/|^[A-Z]:\\Windows\\|^\(sd-pam\)|^\[",
    re.IGNORECASE,
)
_KERNEL = frozenset(("System", "System Idle Process", "Registry", "Memory Compression", "Secure System", "launchd"))
"""What a system runs without a command of its own."""


@dataclass(frozen=True, slots=True)
class Seen:
    """A process as it was seen somewhere: the distinct look of it, whichever devices it runs on."""

    command: str
    name: str = ""
    account: str = ""
    listens: str = ""
    unit: str = ""

    @property
    def ports(self) -> tuple[int, ...]:
        """The ports it listens on."""
        return tuple(int(p) for p in self.listens.split() if p.isdigit())


@dataclass(frozen=True, slots=True)
class Look:
    """What a process looks like: the stem of its program, of what the program runs (empty where it runs nothing but
    itself), its features with how much each tells, and whether it is of the operating system."""

    program: str
    runs: str
    features: tuple[tuple[str, float], ...]
    of_system: bool

    @property
    def stem(self) -> str:
        """The name that tells it from others: what is run, or the program itself."""
        return self.runs or self.program


@lru_cache(maxsize=250_000)
def look(seen: Seen) -> Look:
    """Return what a process looks like. Only what is the same on each start counts: options without their values."""
    words = parted(seen.command)
    first = words[0] if words else seen.name
    program = _stem(_base(first)) or _stem(seen.name) or "?"
    plain = program.rstrip("0123456789.") or program
    runs = _told_to_run(plain, words[1:]) if plain in INTERPRETERS else ""
    weighed: dict[str, float] = {f"program {program}": 2.0}
    if runs:
        weighed[f"runs {runs}"] = 4.0
    for word in words[1:]:
        if word.startswith("-") and len(word) > 1:
            option = re.split(r"[=:\d]", word, maxsplit=1)[0]
            if len(option.strip("-")) > 0:
                weighed[f"option {option}"] = 1.0
    for port in seen.ports:
        weighed[f"port {port}"] = 1.0
    if seen.account:
        weighed[f"account {seen.account}"] = 0.5
    system = (bool(_SYSTEM.match(first)) or seen.command in _KERNEL) and not runs
    return _shared(Look(program, runs, tuple(sorted(weighed.items())), system))


@lru_cache(maxsize=50_000)
def _shared(one: Look) -> Look:
    """Return one object for all that look the same: a program runs on thousands of devices in as many spellings."""
    return one


def parted(command: str) -> list[str]:
    """Return a command's words; a quoted one is one word, whatever is within."""
    return [a or b for a, b in re.findall(r'"([^"]*)"|(\S+)', command)]


def _told_to_run(interpreter: str, words: list[str]) -> str:
    module = _MODULE.get(interpreter)
    for n, word in enumerate(words):
        if word == module and n + 1 < len(words):
            return words[n + 1]
        if n and words[n - 1] in _TAKES_VALUE:
            continue
        if not word.startswith("-"):
            base = _base(word)
            stem = _stem(_SCRIPT.sub("", base)) or base
            above = _base(word[: -len(base)]) if len(word) > len(base) else ""
            return f"{above}/{stem}" if stem.lower() in _SAYS_NOTHING and above else stem
    return ""


def _base(path: str) -> str:
    return re.split(r"[\\/]", path.rstrip("\\/:"))[-1]


def _stem(name: str) -> str:
    """Return a name without what tells its release: `rota-feed-2.4` and `python3.11` are rota-feed and python."""
    name = re.sub(r"\.(exe|bin|run)$", "", name.strip(), flags=re.IGNORECASE)
    name = _RELEASED.sub("", name)
    return _VERSION.sub("", name) or name


@lru_cache(maxsize=50_000)
def _weights(one: Look) -> dict[str, float]:
    return dict(one.features)


def likeness(one: Look, other: Look) -> float:
    """Return how alike two looks are, from 0 to 1: what both have over what either has, each by how much it tells."""
    mine, theirs = _weights(one), _weights(other)
    both = sum(min(w, theirs[f]) for f, w in mine.items() if f in theirs)
    either = sum(max(mine.get(f, 0.0), theirs.get(f, 0.0)) for f in mine.keys() | theirs.keys())
    return both / either if either else 1.0
