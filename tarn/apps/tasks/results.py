"""What is told here: the reads return it, the API hands it on as it is."""

from ninja import Schema
from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class PlannedDeviceOut(TypedDict):
    asset: int
    number: str
    name: str
    address: str
    shown: str
    refused: str


class TaskPlanOut(TypedDict):
    thing: str
    runs: int
    needs_approval: bool
    devices: list[PlannedDeviceOut]


class TaskCountsOut(TypedDict):
    refused: int
    waiting: int
    worked: int
    failed: int
    stopped: int
    seen: int
    unseen: int


class TaskRowOut(TypedDict):
    id: int
    kind: str
    title: str
    filter: str
    why: Words
    state: str
    asked_by: str
    asked_at: int
    decided_by: str
    ended_at: int | None
    may_approve: bool
    counts: TaskCountsOut


class TaskDeviceOut(TypedDict):
    asset_id: int
    number: str
    name: str
    address: str
    shown: str
    state: str
    words: Words
    said: Words
    code: int | None
    credential: str
    began: int | None
    ended: int | None
    proof: str
    proof_words: str


class TaskOut(TaskRowOut):
    script: str
    devices: list[TaskDeviceOut]


class ScriptOut(Schema):
    id: int
    name: str
    platform: str
    text: str
    meaning: Words
    written_by: str
    written_at: int
    reviewed_by: str
    reviewed_at: int | None
    version: int
