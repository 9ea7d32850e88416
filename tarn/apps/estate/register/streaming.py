"""Long answers handed on piece by piece."""

from collections.abc import AsyncIterator, Iterator

from asgiref.sync import sync_to_async


async def stream(pieces: Iterator[str]) -> AsyncIterator[str]:
    """Hand pieces on one by one, so that memory stays flat however long the list is."""
    following = sync_to_async(lambda: next(pieces, None))
    while (piece := await following()) is not None:
        yield piece
