"""Reading a computer over a shell: the sections of its system, one after the other."""

import time
from collections.abc import Callable
from typing import Any

from tarn.collect.problems import Problem
from tarn.collect.ssh import linux, macos
from tarn.collect.ssh.client import Shell
from tarn.collect.ssh.parsing import Unread


async def read_all(shell: Shell, stages: Callable[[int], None] | None = None) -> tuple[list[Any], list[Problem]]:
    """Read every section; one that fails is a problem of its own and the rest goes on.

    A connection that is cut ends the reading: what came before is kept.
    """
    readings: list[Any] = []
    problems: list[Problem] = []
    kernel = await shell.run("uname -s", "system")
    for section, stage, line, reader in macos.STEPS if kernel.out.strip() == "Darwin" else linux.STEPS:
        if stages:
            stages(stage)
        began = time.perf_counter()
        output = await shell.run(line, section)
        if output.cut is not None:
            problems.append(output.cut)
        try:
            made = reader(output)
        except Unread as unread:
            if output.cut is None:
                problems.append(Problem("not-permitted", section=section, detail=output.err.strip()[:200] or unread))
            made = []
        except (ValueError, KeyError, TypeError) as error:
            problems.append(Problem("failed", section=section, detail=str(error).splitlines()[0][:200]))
            made = []
        took = int((time.perf_counter() - began) * 1000)
        if output.cut is not None and section != "packages":
            made = [r.model_copy(update={"complete": False, "note": output.cut.says}) for r in made]
        readings += [r.model_copy(update={"took_ms": took}) for r in made]
        if output.cut is not None and output.cut.code == "cut-off":
            break
    return readings, problems
