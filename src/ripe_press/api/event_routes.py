"""What happens, pushed to the page: it polls nothing."""

import asyncio
from collections.abc import AsyncIterable, Iterator
from contextlib import contextmanager, suppress

from fastapi import APIRouter, Depends, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent
from starlette.datastructures import State

from ripe_press.api.deps import TheStudio
from ripe_press.core.errors import Interrupted
from ripe_press.studio.jobs import Topic

router = APIRouter(prefix="/api", tags=["events"])
_SECONDS_BETWEEN = 0.25
"""Minimum seconds between two reports of changes, and between two reports of progress."""


def _room_for_another(request: Request) -> None:
    state = request.app.state
    if state.streams >= state.most_streams:
        message = "Too many open pages. Close some."
        raise Interrupted("events.full", message)


@contextmanager
def _counted(state: State) -> Iterator[None]:
    state.streams += 1
    try:
        yield
    finally:
        state.streams -= 1


@router.get("/events", response_class=EventSourceResponse, dependencies=[Depends(_room_for_another)])
async def read_events(request: Request, studio: TheStudio) -> AsyncIterable[ServerSentEvent]:
    """A stream of topics that changed: Topics: ``shelf``, ``pressings``, ``ladders``, ``desks``. Request a changed
    topic again.

    The first event, *here*, confirms the stream. Beyond the limit of streams there is none.
    """
    state = request.app.state
    loop, changed = asyncio.get_running_loop(), set[Topic]()
    woken = asyncio.Event()

    def note(topic: Topic) -> None:
        changed.add(topic)
        woken.set()

    def rung(topic: Topic) -> None:
        # On its way out the loop may be closed already.
        with suppress(RuntimeError):
            loop.call_soon_threadsafe(note, topic)

    with studio.events.subscribed(rung), _counted(state):
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
