"""What happens, pushed to the page: it polls nothing."""

import asyncio
from collections.abc import AsyncIterable
from contextlib import suppress

from fastapi import APIRouter
from fastapi.sse import EventSourceResponse, ServerSentEvent

from ripe_press.api.deps import TheStudio
from ripe_press.studio.bell import Topic

router = APIRouter(prefix="/api", tags=["events"])
_SECONDS_BETWEEN = 0.25
"""Changes are told together, so often at most; what is under way tells how far it is as often."""


@router.get("/events", response_class=EventSourceResponse)
async def read_events(studio: TheStudio) -> AsyncIterable[ServerSentEvent]:
    """A stream of *shelf*, *pressings*, *ladders* and *desks*: that topic is not as it was; it is to be asked for anew.

    The first event, *here*, says that the stream is open.
    """
    loop, changed = asyncio.get_running_loop(), set[Topic]()
    woken = asyncio.Event()

    def note(topic: Topic) -> None:
        changed.add(topic)
        woken.set()

    def rung(topic: Topic) -> None:
        # On its way out the loop may be closed already.
        with suppress(RuntimeError):
            loop.call_soon_threadsafe(note, topic)

    with studio.bell.heard_by(rung):
        yield ServerSentEvent(event="here", data=None, raw_data="")
        while True:
            busy = studio.under_way()
            try:
                await asyncio.wait_for(woken.wait(), _SECONDS_BETWEEN if busy else None)
            except TimeoutError:
                changed.update(busy)
            woken.clear()
            topics = sorted(changed)
            changed.clear()
            for topic in topics:
                yield ServerSentEvent(event=topic, raw_data="changed")
            await asyncio.sleep(_SECONDS_BETWEEN)
