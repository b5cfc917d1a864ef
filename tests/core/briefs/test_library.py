from importlib.resources import files

import pytest
from pydantic import TypeAdapter

from ripe_press.core.briefs.library import Brief, brief_of, built_in_briefs
from ripe_press.core.errors import NotFound

FILES = [entry for entry in files("ripe_press.core.briefs").iterdir() if entry.name.endswith(".json")]


@pytest.mark.parametrize("entry", FILES, ids=lambda entry: entry.name)
def test_every_brief_that_ships_is_valid(entry: object) -> None:
    brief = TypeAdapter(Brief).validate_json(entry.read_bytes())  # type: ignore[attr-defined]
    assert built_in_briefs()[brief.id] == brief
    assert entry.name == f"{brief.id}.json"  # type: ignore[attr-defined]
    assert brief.sentence.endswith(".")


def test_a_brief_that_is_not_there_is_named_with_those_that_are() -> None:
    with pytest.raises(NotFound, match="audio-cd"):
        brief_of("wax-cylinder")
