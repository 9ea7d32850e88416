"""How a line of the log is written: in UTC, and on one line whatever a device, a file or a person had it say."""

import logging
import time


class Line(logging.Formatter):
    """`2026-11-29T16:40:12.345Z LEVEL name: message`; control characters of a message are written out (CWE-117)."""

    converter = staticmethod(time.gmtime)
    default_time_format = "%Y-%m-%dT%H:%M:%S"
    default_msec_format = "%s.%03dZ"

    def formatMessage(self, record: logging.LogRecord) -> str:
        """Return the line without the trace of an exception, which comes on lines of its own."""
        record.message = "".join(c if c.isprintable() else f"\\x{ord(c):02x}" for c in record.message)
        return super().formatMessage(record)
