"""Where blocks go inside a walk: chains of processors, meters, writers, and threads between them."""

import queue
import threading
from collections.abc import Callable, Sequence
from typing import Any, Protocol

from ripe_press.core.blocks import Meter, Processor, Samples
from ripe_press.core.formats.writing._file import NewFile

QUEUE_BLOCKS = 4


class Sink(Protocol):
    """Takes blocks in order, then either ``end`` and ``wait``, or ``abort``, once."""

    def put(self, samples: Samples) -> None:
        """Takes the next block."""
        ...

    def end(self) -> None:
        """No more blocks will come: begin to complete the work, here or on a thread."""
        ...

    def wait(self) -> None:
        """Waits until the work is complete."""
        ...

    def abort(self) -> None:
        """No more blocks will come: leave nothing behind."""
        ...


class Branches:
    """Hands every block to several sinks."""

    def __init__(self, sinks: Sequence[Sink]) -> None:
        self._sinks = sinks

    def put(self, samples: Samples) -> None:
        """Takes the next block."""
        for sink in self._sinks:
            sink.put(samples)

    def end(self) -> None:
        """Lets every branch complete its work, side by side."""
        for sink in self._sinks:
            sink.end()

    def wait(self) -> None:
        """Waits for every branch."""
        for sink in self._sinks:
            sink.wait()

    def abort(self) -> None:
        """Ends every branch."""
        for sink in self._sinks:
            sink.abort()


class ProcessedSink:
    """A processor in front of a sink; empty blocks go no further."""

    def __init__(self, processor: Processor, sink: Sink) -> None:
        self._processor = processor
        self._sink = sink

    def put(self, samples: Samples) -> None:
        """Takes the next block."""
        self._pass_on(self._processor.process(samples))  # type: ignore[arg-type]

    def end(self) -> None:
        """Flushes the processor, then completes the sink."""
        self._pass_on(self._processor.flush())
        self._sink.end()

    def wait(self) -> None:
        """Waits for the sink."""
        self._sink.wait()

    def abort(self) -> None:
        """Ends the sink."""
        self._sink.abort()

    def _pass_on(self, samples: Samples) -> None:
        if len(samples):
            self._sink.put(samples)


class Metered:
    """A meter as a leaf."""

    def __init__(self, meter: Meter) -> None:
        self._meter = meter
        self.result: Any = None

    def put(self, samples: Samples) -> None:
        """Takes the next block."""
        self._meter.process(samples)  # type: ignore[arg-type]

    def end(self) -> None:
        """Keeps the result."""
        self.result = self._meter.result()

    def wait(self) -> None:
        """There is nothing to wait for."""

    def abort(self) -> None:
        """Nothing to leave behind."""


class NullSink:
    """In the place of a file that could not be opened."""

    def put(self, samples: Samples) -> None:
        """Takes nothing."""

    def end(self) -> None:
        """Completes nothing."""

    def wait(self) -> None:
        """There is nothing to wait for."""

    def abort(self) -> None:
        """Nothing to leave behind."""


class Written:
    """A file as a leaf."""

    def __init__(self, writer: NewFile) -> None:
        self._writer = writer

    def put(self, samples: Samples) -> None:
        """Takes the next block."""
        self._writer.write(samples)

    def end(self) -> None:
        """Closes and syncs the file."""
        self._writer.close()

    def wait(self) -> None:
        """There is nothing to wait for."""

    def abort(self) -> None:
        """Removes the file."""
        self._writer.abandon()


class Threaded:
    """A sink on a thread of its own behind a short queue; the queue is the back-pressure.

    An error of the sink is raised at the next `put` or at `finish`. After an error the thread keeps emptying its queue,
    so that no producer blocks forever.
    """

    _END = object()
    _ABORT = object()

    def __init__(self, sink: Sink, name: str) -> None:
        self._sink = sink
        self._error: BaseException | None = None
        self._queue: queue.Queue[Any] = queue.Queue(QUEUE_BLOCKS)
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)
        self._thread.start()

    def put(self, samples: Samples) -> None:
        """Queues the next block; waits while the queue is full."""
        self._raise()
        self._queue.put(samples)

    def end(self) -> None:
        """Queues the end."""
        self._queue.put(self._END)

    def wait(self) -> None:
        """Waits until the sink has completed its work."""
        self._thread.join()
        self._raise()

    def abort(self) -> None:
        """Waits until the sink has let go."""
        if self._thread.is_alive():
            self._queue.put(self._ABORT)
            self._thread.join()

    def _raise(self) -> None:
        if self._error is not None:
            raise self._error

    def _run(self) -> None:
        while True:
            item = self._queue.get()
            if item is self._ABORT or (item is self._END and self._error is not None):
                self._sink.abort()
                return
            if self._error is not None:
                continue
            try:
                if item is self._END:
                    self._sink.end()
                    self._sink.wait()
                    return
                self._sink.put(item)
            except BaseException as error:
                self._error = error
                if item is self._END:
                    self._sink.abort()
                    return


class GuardedSink:
    """A branch that fails alone: its fault is reported for its paths, and the other branches continue."""

    def __init__(self, sink: Sink, paths: Sequence[int], faults: dict[int, Exception]) -> None:
        self._sink = sink
        self._paths = paths
        self._faults = faults
        self._ended = False

    def put(self, samples: Samples) -> None:
        """Takes the next block, as long as the branch lives."""
        self._guard(lambda: self._sink.put(samples))

    def end(self) -> None:
        """Completes the branch."""
        self._guard(self._sink.end)

    def wait(self) -> None:
        """Waits for the branch."""
        self._guard(self._sink.wait)

    def abort(self) -> None:
        """Ends the branch."""
        if not self._ended:
            self._sink.abort()

    def _guard(self, work: Callable[[], None]) -> None:
        if self._ended:
            return
        try:
            work()
        except Exception as error:
            self._ended = True
            for path in self._paths:
                self._faults.setdefault(path, error)
            self._sink.abort()
