"""Reading a computer over a shell: the sections of its system, one after the other."""

import time
from collections.abc import Callable
from typing import Any

from tarn.collect.credentials import SshCredential
from tarn.collect.problems import Problem
from tarn.collect.ssh import linux, macos
from tarn.collect.ssh.client import Shell, speechless
from tarn.collect.ssh.parsing import Answers, ReadingStep, Unread, answers

DEADLINE = 120.0
"""Seconds for all that is read of one device, however many of its commands stall."""
MOST_IN_ALL = 24 * 1024 * 1024
"""Characters of output taken from one device."""


async def read_all(
    shell: Shell,
    stages: Callable[[int], None] | None = None,
    *,
    deadline: float = DEADLINE,
    credential: SshCredential | None = None,
) -> tuple[list[Any], list[Problem]]:
    """Read every section; one that fails is a problem of its own and the rest goes on.

    Raises Problem where the account `credential` stands for may run nothing at all.

    A connection that is cut ends the reading, and so do a device that takes longer than `deadline` seconds in all or
    prints more than MOST_IN_ALL: what came before is kept.
    """
    readings: list[Any] = []
    problems: list[Problem] = []
    until = time.monotonic() + deadline
    kernel = await shell.run("uname -s", "system")
    if credential is not None and (problem := speechless(kernel, credential)):
        raise problem
    printed = 0
    for step in macos.STEPS if kernel.out.strip() == "Darwin" else linux.STEPS:
        if stages:
            stages(step.stage)
        left = until - time.monotonic()
        if left <= 0:
            problems.append(Problem("too-long", seconds=round(deadline), section=step.section))
            break
        if printed > MOST_IN_ALL:
            problems.append(Problem("too-much", size=MOST_IN_ALL >> 20, section=step.section))
            break
        began = time.perf_counter()
        output = await shell.run(step.line, step.section, most=left)
        printed += len(output.out)
        made, problem = read_step(step, answers(output))
        if output.cut is not None:
            problems.append(output.cut)
        elif problem is not None:
            problems.append(problem)
        took = int((time.perf_counter() - began) * 1000)
        readings += [r.model_copy(update={"took_ms": took}) for r in made]
        if output.cut is not None and output.cut.code == "cut-off":
            break
    return readings, problems


def read_step(step: ReadingStep, said: Answers) -> tuple[list[Any], Problem | None]:
    """Return the readings that the answers to one step come to, and what went wrong.

    Of a line that was cut short nothing counts as the whole.
    """
    try:
        made = step.reader(said)
    except Unread as unread:
        return [], Problem("not-permitted", section=step.section, detail=unread)
    except (ValueError, KeyError, TypeError, IndexError) as error:
        detail = (str(error).splitlines() or [type(error).__name__])[0][:200]
        return [], Problem("failed", section=step.section, detail=detail)
    if said.cut is not None:
        made = [r.model_copy(update={"complete": False, "note": r.note or said.cut.says}) for r in made]
    return made, None
