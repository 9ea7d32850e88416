"""Whatever goes wrong with a command, nothing that was known is closed: every command of every reader, broken."""

import asyncio
import datetime as dt
import re
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.collect.ssh import linux, macos, read
from tarn.collect.ssh.client import Output
from tarn.collect.ssh.parsing import MARK, answers
from tarn.collect.winrm import windows
from tarn.core.sections import FACTS, rows, seen_through
from tarn.core.sightings import compose, effective
from tarn.core.spans import timeline
from tarn.lab import powershell, shell
from tarn.lab.timeline import World
from tests.collect.test_workings import MAC_ANSWERS

NOW = dt.datetime(2026, 11, 1, tzinfo=dt.UTC)
DEVICES = {d.name: d for d in World().on(400)}
HOST = next(d for d in DEVICES.values() if d.kind == "hypervisor")
BROKEN = {
    "missing": ("", 127),
    "not executable": ("", 126),
    "refused": ("", 1),
    "another error": ("", 2),
    "something else": ("This account is not for you.\nPlease ring 7100.\n", 0),
    "something else, failed": ("Segmentation fault\n", 139),
    "nothing": ("", 0),
}


def lab_line(step, device):
    out, err, code = shell.run(device, step.line, NOW)
    return Output(out, err, code)


def mac_line(step):
    text = "".join(f"{MAC_ANSWERS[a.name]}\n{MARK} {a.name} 0\n" for a in step.asks)
    return Output(text, "", 0)


def parted(output):
    """The output's pieces: text, name, code, by turns."""
    return [list(p) for p in re.findall(rf"(.*?)\n{MARK} (\w+) (\d+)\n", output.out, re.S)]


def joined(pieces):
    return Output("".join(f"{text}\n{MARK} {name} {code}\n" for text, name, code in pieces), "", 0)


def sighted(readings, at):
    return effective(compose(("sweep", "s"), dt.datetime.fromtimestamp(at, dt.UTC), readings)) if readings else {}


def closed(good, bad):
    """What a broken reading would close of a good one, section by section."""
    first, second = sighted(good, 1_790_000_000), sighted(bad, 1_790_086_400)
    out = []
    for section, before in first.items():
        after = second.get(section)
        if after is None:
            continue
        if section in FACTS:
            held, told = ({k: v for k, v in r.facts.model_dump().items() if v} for r in (before, after))
            told |= {k: v for k, v in held.items() if k in after.unseen}
        else:
            held = rows(section, before.items)
            told = seen_through(section, rows(section, after.items), held, after.unseen)
        spans = timeline([(1, held, before.complete), (2, told, after.complete)])
        out += [(section, s.key, s.value) for s in spans if s.end is not None]
    return out


FILES = DEVICES["salt-file-01"]
SEEN_ON = {
    **dict.fromkeys(("guests", "data_stores", "cluster_parts"), HOST),
    **dict.fromkeys(("shares", "share_users"), FILES),
    "databases": DEVICES["salt-db-01"],
}
LINUX = [(s, SEEN_ON.get(s.section, DEVICES["salt-mon-01"])) for s in linux.STEPS]
CASES = [
    pytest.param(step, lab_line(step, device), ask, how, id=f"linux {step.section}: {ask} {how}")
    for step, device in LINUX
    for ask in dict.fromkeys(n for _, n, _ in parted(lab_line(step, device)))
    for how in BROKEN
] + [
    pytest.param(step, mac_line(step), ask.name, how, id=f"mac {step.section}: {ask.name} {how}")
    for step in macos.STEPS
    for ask in step.asks
    for how in BROKEN
]


@pytest.mark.parametrize(("step", "output", "ask", "how"), CASES)
def test_no_command_that_fails_closes_anything(step, output, ask, how):
    good, problem = read.read_step(step, answers(output))
    assert good, problem
    text, code = BROKEN[how]
    pieces = [(text, n, code) if n in (ask, f"{ask}_as_root") else (t, n, c) for t, n, c in parted(output)]
    bad, _ = read.read_step(step, answers(joined(pieces)))
    if how == "missing" and ask in ("exports", "testparm"):
        return  # a computer without a file service offers no shares
    if how == "nothing" and ask.removesuffix("_as_root") in EMPTY_IS_WHOLE:
        return
    assert closed(good, bad) == []


EMPTY_IS_WHOLE = frozenset(
    {"list", "listening", "ports", "connections", "disks", "links", "docker", "podman", "snaps", "pools", "exports"}
)
"""Commands that end well with nothing to show where there is nothing: then what was there is gone."""


@pytest.mark.parametrize(("step", "device"), LINUX, ids=[s.section for s, _ in LINUX])
def test_a_shell_that_runs_nothing_and_a_line_cut_anywhere_close_nothing(step, device):
    output = lab_line(step, device)
    good, _ = read.read_step(step, answers(output))
    for text in ("This account is currently not available.\n", "", "Your password has expired.\n"):
        bad, problem = read.read_step(step, answers(Output(text, "", 1)))
        assert (bad, problem is not None or step.section in OPTIONAL) == ([], True)
    from tarn.collect.problems import Problem

    for share in range(0, 100, 7):
        cut = Output(output.out[: len(output.out) * share // 100], "", None, Problem("cut-off", protocol="SSH"))
        assert closed(good, read.read_step(step, answers(cut))[0]) == []


OPTIONAL = frozenset(
    {
        "guests",
        "installs",
        "containers",
        "services",
        "signins",
        "data_stores",
        "cluster_parts",
        "shares",
        "share_users",
        "databases",
    }
)


@given(st.data())
def test_an_ordinary_account_never_closes_what_root_saw_and_is_still_there(data):
    """A port that is open, and a connection that stands, keep the process that root saw behind them."""
    names = st.sampled_from(["nginx", "sshd", "tixline"])
    held = data.draw(st.dictionaries(st.tuples(st.just("tcp"), st.integers(1, 6)), names, min_size=1))
    stays = data.draw(st.sets(st.sampled_from(sorted(held))))
    before = {k: (v, "") for k, v in held.items()}
    read_ = dict.fromkeys(stays, ("", ""))
    after = seen_through("ports", read_, before, ("process",))
    assert after == {k: before[k] for k in stays}
    talks = {("out", p, f"10.0.0.{n}", 80): () for (_, n), p in held.items()}
    seen = {("out", "", f"10.0.0.{n}", 80): () for _, n in stays}
    told = seen_through("connections", seen, talks, ("process",))
    assert told == {k: () for k in talks if (k[0], "", *k[2:]) in seen}


def windows_answer(device, **gone):
    questions = {**windows.SYSTEM, **windows.SOFTWARE}
    answer = windows.answer_of(powershell.run(device, windows.script(questions), NOW)[0], "all")
    return {k: v for k, v in answer.items() if k not in gone}


WINDOWS = DEVICES["salt-pc-01"]


@pytest.mark.parametrize("question", [*windows.SYSTEM, *windows.SOFTWARE])
def test_no_question_of_windows_that_fails_closes_anything(question):
    good, _ = windows.read_answer(windows_answer(WINDOWS))
    bad, problems = windows.read_answer(windows_answer(WINDOWS, **{question: True}))
    assert closed(good, bad) == []
    needed = {q for _, _, _, readers in windows.STEPS for r in readers for q in r.needs}
    if question in needed - windows._EXPECTED_ABSENT:
        assert question in {p.met["section"] for p in problems}


def test_an_ordinary_account_of_windows_is_no_witness_of_what_is_gone():
    answer = windows_answer(WINDOWS)
    few = {**answer, "administrator": [False], "programs_users": [], "tasks": [], "printers": []}
    assert closed(windows.read_answer(answer)[0], windows.read_answer(few)[0]) == []


class _Stalling:
    """A device whose every command stalls until it is given up."""

    def __init__(self, seconds, printed=""):
        self.asked, self.seconds, self.printed = [], seconds, printed

    async def run(self, line, section, seconds=0, most=0):
        self.asked.append(section)
        await asyncio.sleep(min(self.seconds, most or self.seconds))
        return Output(self.printed, "", 0)


async def test_a_device_that_stalls_is_left_at_one_deadline():
    device = _Stalling(0.2)
    began = time.monotonic()
    _, problems = await read.read_all(device, deadline=0.5)
    assert time.monotonic() - began < 1.5
    assert problems[-1].code == "too-long"
    assert len(device.asked) < 8


async def test_output_without_end_is_bounded_over_the_whole_device(monkeypatch):
    monkeypatch.setattr(read, "MOST_IN_ALL", 1000)
    device = _Stalling(0, "x" * 400)
    _, problems = await read.read_all(device)
    assert problems[-1].code == "too-much"
    assert len(device.asked) == 4  # what system it is, then three sections
