"""The order of Python's packages: PEP 440, read by the library `packaging`."""

from packaging.version import InvalidVersion, Version

from tarn.core.versions.keys import END, LETTERS, VersionError, number

_LEAST, _MOST = "1", "9"


def key(text: str) -> str:
    """Return the key of a version: epoch, release without trailing noughts, pre, post, dev and local parts, in the
    order of PEP 440's “Summary of permitted suffixes and relative ordering”. Raises VersionError."""
    try:
        version = Version(text)
    except InvalidVersion:
        raise VersionError(f"“{text}” is no version by PEP 440, such as 1.4.0 or 2.0rc1.") from None
    release = list(version.release)
    while len(release) > 1 and release[-1] == 0:
        release.pop()
    only_dev = version.pre is None and version.post is None and version.dev is not None
    pre = _MOST if version.pre is None else f"{LETTERS}{version.pre[0]}!{number(str(version.pre[1]))}"
    return "".join(
        (
            number(str(version.epoch)),
            *(number(str(n)) for n in release),
            END,
            _LEAST if only_dev else pre,
            _LEAST if version.post is None else number(str(version.post)),
            _MOST if version.dev is None else number(str(version.dev)),
            _local(version.local),
        )
    )


def _local(text: str | None) -> str:
    if text is None:
        return _LEAST
    return "".join(number(p) if p.isdigit() else f"{LETTERS}{p}!" for p in text.split(".")) + END
