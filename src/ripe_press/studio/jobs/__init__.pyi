from .cluster import Cluster as Cluster
from .events import Events as Events, Topic as Topic
from .folder import JobFolder as JobFolder, JobProgress as JobProgress
from .job import Jobs as Jobs, JobState as JobState, Work as Work, running as running
from .queue import PressQueue as PressQueue
from .time_left import TimeLeft as TimeLeft, effort_of as effort_of, foretold_seconds as foretold_seconds
from .watch import Watch as Watch
from .workers import (
    WorkerPool as WorkerPool,
    begin as begin,
    end_all_workers as end_all_workers,
    server_is_gone as server_is_gone,
)
