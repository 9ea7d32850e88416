"""Reports: the script made ready for download, and a report read as the readings of a sighting."""

import json
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from tarn.collect.ssh import linux
from tarn.collect.ssh.client import Output
from tarn.collect.ssh.parsing import MARK, answers
from tarn.collect.ssh.read import read_step
from tarn.collect.winrm import windows
from tarn.collect.winrm.script import SOFTWARE, SYSTEM, script
from tarn.core.sightings import SightingError

VERSION = 2
"""What a script is of: since 2 its lines mark the end of each command."""
_SCRIPT = Path(__file__).with_name("script.py")
_POWERSHELL = Path(__file__).with_name("script.ps1")


class ReporterAnswer(BaseModel):
    """What one line of shell printed."""

    model_config = ConfigDict(extra="forbid")
    out: str
    err: str = ""
    code: int | None = None


class Report(BaseModel):
    """What a reporter sends: outputs by section, and the sections that are as they were."""

    model_config = ConfigDict(extra="forbid")
    schema_: Literal["tarn.report/1"] = Field(alias="schema")
    version: Annotated[int, Field(ge=1)]
    at: int
    host: str = ""
    outputs: dict[str, ReporterAnswer]
    unchanged: list[str] = []


def read_report(body: bytes) -> Report:
    """Check a report. Raises SightingError naming each fault and its place."""
    try:
        return Report.model_validate_json(body)
    except ValidationError as error:
        places = [(".".join(map(str, e["loc"])) or "report", e["msg"]) for e in error.errors()]
        raise SightingError(places) from None


def posix(url: str, token: str) -> str:
    """Return the script for systems with Python 3, the address and the token in it."""
    questions = {step.section: step.line for step in linux.STEPS}
    text = _SCRIPT.read_text().replace("@URL@", url).replace("@TOKEN@", token)
    return text.replace("@QUESTIONS@", json.dumps(questions))


def powershell(url: str, token: str) -> str:
    """Return the script for Windows, the address and the token in it."""
    text = _POWERSHELL.read_text().replace("@URL@", url).replace("@TOKEN@", token)
    return text.replace("@QUESTIONS@", script({**SYSTEM, **SOFTWARE}).rsplit("\r\n", 1)[0])


def readings(report: Report) -> tuple[list[Any], list[str]]:
    """Return what a report's outputs come to, and what could not be read, in words."""
    made: list[Any] = []
    unread: list[str] = []
    if "windows" in report.outputs:
        answer = windows.answer_of(report.outputs["windows"].out, "the report")
        read, problems = windows.read_answer(answer)
        return [_ours(r) for r in read], [p.says for p in problems]
    steps = {step.section: step for step in linux.STEPS}
    if report.version < VERSION and not any(MARK in a.out for a in report.outputs.values()):
        unread.append(f"the reporter is of version {report.version}; fetch the script anew for version {VERSION}")
        return [], unread
    for name, answer_ in report.outputs.items():
        if name not in steps:
            unread.append(f"a section called “{name}” is not known")
            continue
        read, problem = read_step(steps[name], answers(Output(answer_.out, answer_.err, answer_.code)))
        made += read
        if problem is not None:
            unread.append(f"{name}: {problem.met['detail']}")
    return [_ours(r) for r in made], unread


def _ours(reading: Any) -> Any:
    return reading.model_copy(update={"collector": f"reporter.{reading.collector.rpartition('.')[2]}"})
