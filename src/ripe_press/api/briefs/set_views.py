"""What travels of sets."""

from typing import Annotated, Literal

from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.core.requests.bench import Bench

Name = Annotated[str, Field(min_length=1, max_length=80)]


class SetView(Schema):
    """A set: its name, where it comes from, the titles of its briefs, and whether a new mix opens with it."""

    name: str
    kind: Literal["last", "built-in", "saved"]
    briefs: list[str]
    default: bool


class NewSet(Schema):
    """Deliveries to save under a name."""

    name: Annotated[str, Field(max_length=200)]
    bench: Bench


class SetName(Schema):
    """The name of a set."""

    name: Name


class SetOnBench(SetName):
    """A set for a bench."""

    bench: Bench
