"""The state of a background job, as it travels."""

from typing import Any

from ripe_press.api.briefs.views import Schema
from ripe_press.core.words import JobStateName
from ripe_press.studio.jobs import JobState


class JobView(Schema):
    """The state of a job: ``done`` of ``total``, in whatever unit, its step, and a sentence where it failed."""

    state: JobStateName
    done: int
    total: int
    doing: str
    sentence: str


def job_view(state: JobState[Any]) -> dict[str, Any]:
    """The fields of `JobView`."""
    return {name: getattr(state, name) for name in JobView.model_fields}
