"""Folders as they travel."""

from typing import Annotated

from pydantic import Field

from ripe_press.api.briefs.views import Schema


class NewFolder(Schema):
    """A folder to be created in another."""

    path: Annotated[str, Field(max_length=1000)]
    name: Annotated[str, Field(min_length=1, max_length=200)]
    mix_id: int | None = None
    order_id: int | None = None


class UsualFolder(Schema):
    """The folder to be the usual one; empty for the one beside each mix."""

    path: Annotated[str, Field(max_length=1000)]
    mix_id: int | None = None
    order_id: int | None = None


class Here(Schema):
    """Abilities of this machine for the caller."""

    opens_folders: bool
