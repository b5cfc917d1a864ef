"""Everyday words: everything that they lead to exists, and each leads to what does it."""

import click
import pytest
from click.testing import CliRunner

from ripe_press.cli.app import app, press
from ripe_press.cli.topics import topics
from ripe_press.core.requests.everyday import EVERYDAY, typed_for

MEANT = {
    "normalise": "--level", "louder": "--level", "limiter": "--level", "fade": "--fade-in", "fade out": "--fade-out",
    "trim": "--from", "crop": "--from", "export": "--out", "bounce": "press", "save": "press", "folder": "--out",
    "mono": "--channels", "split": "--channels", "dither": "--dither", "silence": "--silence-before",
    "tempo": "--tempo", "bars": "--bars", "loop": "--end", "mp3": "--format", "aac": "--format", "burn": "disc",
    "upload": "send", "email": "send", "compare": "serve", "metadata": "--tag", "cover": "--cover",
    "file name": "--name", "overwrite": "--clash", "sample rate": "--rate", "bit depth": "--depth", "kbps": "--kbps",
    "preset": "--set", "stems": "stems", "marker": "--markers", "verify": "check", "history": "history",
    "album": "--group", "loudness": "--level", "tail": "--end", "smaller": "--kbps", "clipping": "measure",
    "import": "serve",
}  # fmt: skip


def test_everything_of_the_table_exists() -> None:
    options = {name for one in press.params if isinstance(one, click.Option) for name in one.opts}
    known = options | set(app.commands) | set(topics())
    assert {typed for one in EVERYDAY.values() for typed in one.typed.split()} - known == set()


def test_forty_everyday_words_lead_to_what_does_it() -> None:
    assert len(MEANT) >= 40
    assert {word: typed_for(word) for word, meant in MEANT.items() if meant not in typed_for(word)} == {}


@pytest.mark.parametrize(
    ("words", "lines"),
    [
        (("normalise",), ("Found for “normalise”", "press --level", "help levels")),
        (("fade", "out"), ("press --fade-out", "Time and curve at the end.")),
        (("burn",), ("disc", "Make, check and burn audio CD images.")),
        (("bit", "depth"), ("press --depth",)),
        (("dither",), ("press --dither",)),
    ],
)
def test_help_finds_by_everyday_words(words: tuple[str, ...], lines: tuple[str, ...]) -> None:
    said = CliRunner().invoke(app, ["help", *words]).output
    assert [line for line in lines if line not in said] == []
