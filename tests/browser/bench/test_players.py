"""A browser as a player: what it decodes of our files is what went in, to the sample."""

import base64
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page

from ripe_press.core.formats.capabilities import CAPABILITIES, Container
from support.formats import full_tags, write_file

DECODE = """async (text) => {
  const bytes = Uint8Array.from(atob(text), (one) => one.charCodeAt(0));
  const sound = await new OfflineAudioContext(2, 48000, 48000).decodeAudioData(bytes.buffer);
  const loud = [];
  sound.getChannelData(0).forEach((value, at) => Math.abs(value) > 0.35 && loud.push(at));
  return [sound.length, loud];
}"""
SHORT_BY: dict[Container, int] = {"vorbis": 128}
"""It drops up to half a short block at the end of any Vorbis file, those of Xiph's own encoder too (measured)."""


@pytest.mark.parametrize("container", ["wav", "bwf", "rf64", "flac", "mp3", "aac", "vorbis", "opus", "video"])
@pytest.mark.parametrize("frames", [48_000, 100_001])
def test_browser_decodes_the_exact_length(page: Page, tmp_path: Path, container: Container, frames: int) -> None:
    places = [1_200, frames // 2, frames - 700]
    samples = np.zeros((frames, 2))
    samples[places] = 0.7
    if not CAPABILITIES[container].lossy:
        samples = (np.round(samples * 2**23).astype(np.int64) << 8).astype(np.int32)
    path = write_file(tmp_path / "file", container, samples, tags=full_tags())
    length, loud = page.evaluate(DECODE, base64.b64encode(path.read_bytes()).decode())
    assert frames - SHORT_BY.get(container, 0) <= length <= frames
    assert loud == places
