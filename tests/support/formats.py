"""Files of every format, written by the application's own writers."""

from dataclasses import replace
from pathlib import Path

import numpy as np

from ripe_press.core.blocks import Samples
from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, Container, Encoding, is_float
from ripe_press.core.formats.coding import Coding, settle_coding
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.formats.writing.writers import open_writer
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.tags.cover import still_picture
from ripe_press.core.tags.sheet import FileTags, in_order
from ripe_press.core.tags.write import write_tags
from ripe_press.core.timeline import Marker

LOUDNESS = SignalResult(-0.1, 0.3, -9.3, 6.4, -7.5, -8.25)

SHEET = in_order(
    {
        "title": "Mühle – Eel's race", "version": "Radio edit", "artist": "The Sluicekeepers",
        "album_artist": "Weir & Lantern", "album": "Nine Weirs", "track": "3/12", "disc": "1/2", "date": "2026-09-18",
        "genre": "Folk", "tempo": "84", "key": "F#m", "composer": "A. Lock", "publisher": "Weir & Lantern",
        "copyright": "2026 Weir & Lantern", "isrc": "QZ-WLT-26-00001", "barcode": "6291041500213", "language": "eng",
        "comment": "Recorded by the water", "lyrics": "One weir\nand another", "contact_name": "Penn Stock",
        "contact_phone": "+00 1 234", "contact_email": "hello@weir.example", "web": "https://weir.example/nine",
    }
)  # fmt: skip


def samples_for(encoding: Encoding, frames: int, channels: int, seed: int = 3) -> Samples:
    """Noise at a tenth of full scale, as the writer of an encoding takes it."""
    noise = np.random.default_rng(seed).standard_normal((frames, channels)) * 0.1
    if is_float(encoding) or encoding == "lossy":
        return noise.astype(np.float32).astype(np.float64)
    bits = BITS[encoding]
    return (np.round(noise * 2 ** (bits - 1)).astype(np.int64) << (32 - bits)).astype(np.int32)


def first_rate(container: Container) -> int:
    return 48_000 if CAPABILITIES[container].takes_rate(48_000) else CAPABILITIES[container].rates_hz[0]


def write_file(
    path: Path,
    container: Container,
    samples: Samples,
    encoding: Encoding | None = None,
    rate_hz: int = 0,
    coding: Coding | None = None,
    tags: FileTags | None = None,
) -> Path:
    """A file as the press makes it, with its tags."""
    can = CAPABILITIES[container]
    encoding = encoding or ("s24" if "s24" in can.encodings else can.encodings[0])
    rate = rate_hz or first_rate(container)
    channels = samples.shape[1]
    coding = coding or settle_coding(container, rate, channels, None, None, None)
    chapters = tags.markers if tags and can.markers == "chapters" else ()
    picture = still_picture(tags.cover if tags else "") if container == "video" else None
    writer = open_writer(path, container, encoding, rate, channels, len(samples), coding, chapters, picture)
    for start in range(0, len(samples), 5_000):
        writer.write(samples[start : start + 5_000])
    writer.close()
    if tags:
        write_tags(path, container, encoding, rate, channels, tags, LOUDNESS)
    return path


def read_file(path: Path) -> np.ndarray:
    """All samples of a file, through the application's reader."""
    with SourceReader(path) as reader:
        return np.concatenate(list(reader.blocks()))


def full_tags(cover: str = "", **more: object) -> FileTags:
    """Everything that a file can carry."""
    markers = (Marker(0, "Intro"), Marker(9_600, "Refrain é"))
    return replace(FileTags(SHEET, cover, markers=markers, gain_tags=True, coding_history="A=PCM,F=48000\r\n"), **more)  # type: ignore[arg-type]
