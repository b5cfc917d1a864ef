"""The one copy of a recording that a music library gets."""

from typing import Any

import pytest

from ripe_press.core.sending.library import fitness, recording

WAV = {"container": "wav", "codec": "pcm", "channels": 2, "bytes": 30_000_000, "frames": 96_000 * 60,
       "sample_rate_hz": 96_000}  # fmt: skip
FLAC = WAV | {"container": "flac", "bytes": 18_000_000}
CD_FLAC = FLAC | {"bytes": 6_000_000, "frames": 44_100 * 60, "sample_rate_hz": 44_100}
MONO = FLAC | {"channels": 1, "bytes": 19_000_000}
MP3 = {"container": "mp3", "codec": "mp3", "channels": 2, "bytes": 2_400_000, "frames": 44_100 * 60 + 1105,
       "sample_rate_hz": 44_100}  # fmt: skip
SMALL = MP3 | {"bytes": 900_000}
TAGS = {"title": "Millrace", "artist": "The Sluicekeepers", "album": "Nine Weirs"}


@pytest.mark.parametrize(
    ("better", "worse"), [(FLAC, WAV), (FLAC, CD_FLAC), (CD_FLAC, MP3), (WAV, MP3), (MP3, SMALL), (FLAC, MONO)]
)
def test_lossless_with_a_cover_comes_first(better: dict[str, Any], worse: dict[str, Any]) -> None:
    assert fitness(better, True) > fitness(worse, True)
    assert fitness(worse, True) > fitness(better, False), "a file without findings comes before all others"


def test_copies_of_one_recording_share_tags_and_length() -> None:
    assert recording(TAGS, WAV) == recording(TAGS, MP3) == recording(TAGS, CD_FLAC)
    assert recording(TAGS, WAV) != recording(TAGS | {"version": "radio edit"}, WAV)
    assert recording(TAGS, WAV) != recording(TAGS, WAV | {"frames": 96_000 * 58})
