"""What travels of tag sheets."""

from pydantic import Field

from ripe_press.api.briefs.views import Schema

MOST_LINES = 40


class TagField(Schema):
    """A line of the tag sheet."""

    name: str
    title: str
    hint: str
    most: int


class Sheet(Schema):
    """A tag sheet as pairs of field and text."""

    values: list[tuple[str, str]] = Field(max_length=MOST_LINES)


class MixSheet(Sheet):
    """Fields to write to the tag sheet of a mix."""

    mix_id: int


class KeptSheet(Schema):
    """A mix and its tag sheet."""

    id: int
    title: str
    tags: list[tuple[str, str]]


class ReadSheet(Sheet):
    """A sheet out of a file, and the mix that it names."""

    mix: str


class SheetFile(Schema):
    """Tag sheets as a file holds them, CSV or JSON."""

    text: str = Field(max_length=8_000_000)


class TagProblem(Schema):
    """Something that is not written as it must be."""

    field: str
    sentence: str


class KeptCover(Schema):
    """A stored cover; ``note`` says how it was converted."""

    name: str
    width: int
    height: int
    bytes: int
    square: bool
    note: str
