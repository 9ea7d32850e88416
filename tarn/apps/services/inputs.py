"""What people say of services; the API reads it, actions take it."""

from ninja import Schema


class NoiseIn(Schema):
    """Talk that is noise: of a process, over a port, or both; and why."""

    process: str = ""
    port: int | None = None
    why: str
