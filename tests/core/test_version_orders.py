"""Each order of versions against the ecosystem's own program, over some thousands of pairs made by a fixed seed."""

import json
import random
import shutil
import subprocess
from pathlib import Path

import pytest
from packaging.version import Version

from tarn.core.versions import ORDERS, VersionError, compare, version_key

PAIRS = 3000


def _pairs(parts, joints, seed, begin=("", "0", "1", "2", "10")):
    """Return pairs of texts of which many differ in little."""
    draw = random.Random(seed)

    def made():
        text = draw.choice(begin)
        for _ in range(draw.randint(0, 4)):
            text += draw.choice(joints) + draw.choice(parts)
        return text

    texts = [t for t in (made() for _ in range(PAIRS)) if t]
    near = [t[:-1] + draw.choice(parts) for t in texts]
    return [(t, draw.choice((n, draw.choice(texts)))) for t, n in zip(texts, near, strict=True)]


def _wrong(order, pairs, judged):
    return [(a, b, j) for (a, b), j in zip(pairs, judged, strict=True) if compare(order, a, b) != j][:10]


def test_a_debian_package_stands_where_dpkg_puts_it():
    """One process asks for all: a shell function says -1, 0 or 1 of each line."""
    pairs = _pairs(
        ["0", "1", "9", "10", "007", "a", "rc", "~", "~rc1", "+b1", "+deb12u1", "git", "."],
        [".", "", "-", "~", "+"],
        1,
        begin=("0", "1", "1:1", "2:0", "10"),
    )[:1200]
    script = (
        "while read a b; do if dpkg --compare-versions $a lt $b; then echo -1;"
        " elif dpkg --compare-versions $a eq $b; then echo 0; else echo 1; fi; done"
    )
    pairs = [(a, b) for a, b in pairs if b and not {a[-1], b[-1]} & set("-:")]
    lines = "".join(f"{a} {b}\n" for a, b in pairs)
    said = subprocess.run(["sh", "-c", script], input=lines, capture_output=True, text=True, check=True)
    assert _wrong("deb", pairs, [int(n) for n in said.stdout.split()]) == []


def test_a_package_of_rpm_stands_where_rpm_puts_it():
    parts = ["0", "1", "9", "10", "007", "a", "rc", "~rc1", "^git2", "el9", "_1", "."]
    pairs = _pairs(parts, [".", "", "-", "~", "^", "_"], 2, begin=("0", "1", "1:1", "2:0", "10"))
    pairs = [(a, b) for a, b in pairs if all(v and v.count("-") <= 1 and v[-1] not in "-:" for v in (a, b))]
    table = ",".join(f'{{"{a}","{b}"}}' for a, b in pairs)
    macro = f"%{{lua:for _, p in ipairs({{{table}}}) do print(rpm.vercmp(p[1], p[2]) .. ' ') end}}"
    said = subprocess.run(["rpm", "--eval", macro], capture_output=True, text=True, check=True)
    assert _wrong("rpm", pairs, [int(n) for n in said.stdout.split()]) == []


def test_a_package_of_npm_stands_where_its_own_library_puts_it():
    node = shutil.which("node")
    library = Path(__file__).parents[2] / "web/node_modules/semver"
    parts = ["0", "1", "9", "10", "01", "alpha", "beta.2", "rc-1", "x", "v", "+b1"]
    begin = ("1.0.0-0", "1.0.0-rc", "1.0.0-1.x", "1.2", "v2.0.1-a", "v1.0.0-1", "0.0.0")
    pairs = _pairs(parts, [".", ".", "-", "+", ""], 3, begin=begin)
    script = (
        "const s = require(process.argv[1]);"
        "const pairs = JSON.parse(require('fs').readFileSync(0));"
        "console.log(JSON.stringify(pairs.map(([a, b]) => s.valid(a) && s.valid(b) ? s.compare(a, b) : null)))"
    )
    said = subprocess.run(
        [node, "-e", script, str(library)], input=json.dumps(pairs), capture_output=True, text=True, check=True
    )
    judged = json.loads(said.stdout)
    sound = [(pair, j) for pair, j in zip(pairs, judged, strict=True) if j is not None]
    assert len(sound) > 1000
    assert _wrong("npm", [pair for pair, _ in sound], [j for _, j in sound]) == []
    for pair, told in zip(pairs, judged, strict=True):
        if told is None:
            with pytest.raises(VersionError):
                compare("npm", *pair)


def test_a_package_of_python_stands_where_packaging_puts_it():
    parts = ["0", "1", "9", "10", "a1", "b2", "rc", "post1", "dev3", "dev", "local"]
    pairs = _pairs(parts, [".", ".", "", "+"], 4, begin=("1", "0", "1!0", "v1"))
    sound = []
    for one, other in pairs:
        try:
            left, right = Version(one), Version(other)
        except ValueError:
            continue
        sound.append(((one, other), (left > right) - (left < right)))
    assert len(sound) > 500
    assert _wrong("pypi", [pair for pair, _ in sound], [j for _, j in sound]) == []


@pytest.mark.parametrize(
    "ascending",
    [
        # the examples of Maven's POM reference, "Version Order Specification", and of its ComparableVersion
        ["1-alpha-1", "1-alpha2", "1-beta", "1-milestone", "1-rc", "1-snapshot", "1", "1-sp", "1-abc", "1-1", "1.1"],
        ["1.0-alpha10-snapshot", "1.0-alpha10", "1.0-b1", "1.0-cr1", "1.0.0.Final", "1.0.1", "1.9", "1.10"],
        ["2.0-1", "2.0-1.a", "2.0-2", "2.0.1-klm", "2.0.1-lmn", "2.0.1-1", "2.0.1-123", "2.0.2"],
    ],
)
def test_maven_orders_as_its_reference_says(ascending):
    keys = [version_key(v, "maven") for v in ascending]
    assert sorted(keys) == keys
    assert len(set(keys)) == len(keys)


@pytest.mark.parametrize(
    ("order", "one", "same"),
    [
        ("maven", "1.0.0.RELEASE", "1"),
        ("maven", "1-ga", "1.0"),
        ("maven", "1.0-a1", "1-alpha-1"),
        ("maven", "1.0-cr2", "1-rc-2"),
        ("windows", "10.0", "10.0.0.0"),
        ("npm", " v1.2.3+build", "1.2.3"),
        ("pypi", "1.0c1", "1.0rc1"),
        ("rpm", "1.0.", "1_0"),
        ("deb", "1.0", "0:1.0-0"),
        ("plain", "2026.01", "2026.1"),
    ],
)
def test_what_is_the_same_is_the_same(order, one, same):
    assert compare(order, one, same) == 0


def test_builds_of_windows_stand_by_their_numbers():
    ascending = ["6.1.7601", "10.0.19045.3803", "10.0.19045.10000", "10.0.22631", "10.0.22631.4460"]
    assert sorted(ascending, key=lambda v: version_key(v, "windows")) == ascending


@pytest.mark.parametrize(
    ("order", "text"),
    [
        ("semver", "1.2"),
        ("semver", "01.2.3"),
        ("npm", "9" * 300),
        ("pypi", "one"),
        ("windows", "10 Pro"),
        ("windows", ""),
    ],
)
def test_what_is_no_version_is_named(order, text):
    with pytest.raises(VersionError, match=f"“{text[:40]}"):
        version_key(text, order)


def test_numbers_of_any_length_stand_by_their_value():
    for order in set(ORDERS) - {"npm"}:
        dotted = ".0.0" if order == "semver" else ""
        assert compare(order, "9" * 998 + dotted, "1" + "0" * 998 + dotted) == -1, order
