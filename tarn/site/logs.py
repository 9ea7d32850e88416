"""How a line of the log is written: in UTC, and on one line whatever a device, a file or a person had it say.

Every line names the request or the job it comes from. With TARN_LOG_FORMAT=json each line is an object, for whoever
gathers logs.
"""

import logging
import time
from typing import Any

import structlog


def _bound() -> dict[str, Any]:
    """The request or job this is about."""
    return structlog.contextvars.get_contextvars()


class Line(logging.Formatter):
    """`2026-11-29T16:40:12.345Z LEVEL name: message request=…`; control characters are written out (CWE-117)."""

    converter = staticmethod(time.gmtime)
    default_time_format = "%Y-%m-%dT%H:%M:%S"
    default_msec_format = "%s.%03dZ"

    def formatMessage(self, record: logging.LogRecord) -> str:
        """Return the line without the trace of an exception, which comes on lines of its own."""
        record.message = "".join(c if c.isprintable() else f"\\x{ord(c):02x}" for c in record.message)
        line = super().formatMessage(record)
        return " ".join([line, *(f"{name}={value}" for name, value in _bound().items())])


def _named(logger: Any, method: str, event: structlog.typing.EventDict) -> structlog.typing.EventDict:
    """Put the message where gatherers of logs look for it."""
    event["message"] = event.pop("event")
    return event


class Json(structlog.stdlib.ProcessorFormatter):
    """An object a line: time (RFC 3339, UTC), level, logger, message, request or job, and the trace of an exception."""

    def __init__(self, **given: Any) -> None:
        before: list[structlog.typing.Processor] = [
            structlog.contextvars.merge_contextvars,
            structlog.stdlib.add_log_level,
            structlog.stdlib.add_logger_name,
            structlog.processors.TimeStamper(fmt="iso", utc=True, key="time"),
        ]
        super().__init__(
            foreign_pre_chain=before,
            processors=[
                structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                structlog.processors.format_exc_info,
                _named,
                structlog.processors.JSONRenderer(ensure_ascii=False),
            ],
        )
