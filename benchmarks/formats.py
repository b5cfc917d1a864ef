"""The writers against the bare libraries below them, as ratios; and an RF64 file past 4 GiB, written and read back.

Each pair codes the same samples in one process, in turn, and the best of three runs of each counts. The long file is
sparse: its middle is skipped, not written, so that it takes moments and no room.
"""

import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
import numpy as np
import soundfile

from ripe_press.core.formats.capabilities import Container, Encoding
from ripe_press.core.formats.coding import Coding, settle_coding
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.formats.writing.writers import open_writer
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.tags.write import write_tags
from ripe_press.core.timeline import Marker

RATE, SECONDS, BLOCK = 48_000, 60, 131_072


def best(work: Callable[[], None]) -> float:
    """Seconds of the fastest of three runs."""
    times = []
    for _ in range(3):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return min(times)


def bare_soundfile(path: Path, samples: Any, **options: Any) -> None:
    """The shortest way through libsndfile."""
    with soundfile.SoundFile(path, "w", RATE, 2, **options) as file:
        for start in range(0, len(samples), 4096):
            file.write(samples[start : start + 4096])


def bare_av(
    path: Path, samples: Any, codec: str, form: str, kind: str, bit_rate: int = 0, options: dict[str, str] | None = None
) -> None:
    """The shortest way through the FFmpeg libraries."""
    with av.open(str(path), "w", format=form) as file:
        stream: Any = file.add_stream(codec, rate=RATE, layout="stereo")
        stream.codec_context.format = kind
        stream.options = options or {}
        if bit_rate:
            stream.codec_context.bit_rate = bit_rate
        for start in range(0, len(samples), 4096):
            part = samples[start : start + 4096]
            packed = part.reshape(1, -1) if kind == "flt" else part.T
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(packed), format=kind, layout="stereo")
            frame.sample_rate, frame.pts = RATE, start
            file.mux(stream.encode(frame))
        file.mux(stream.encode(None))


def compare(folder: Path) -> None:
    """Prints how much longer our writers take than the libraries alone."""
    noise = np.random.default_rng(7).standard_normal((RATE * SECONDS, 2)) * 0.1
    codes = (np.round(noise * 2**23).astype(np.int64) << 8).astype(np.int32)
    single = noise.astype(np.float32)
    cases: tuple[tuple[Container, Encoding, Coding | None, Any, Callable[[Path], None]], ...] = (
        ("wav", "s24", None, codes, lambda path: bare_soundfile(path, codes, format="WAV", subtype="PCM_24")),
        ("aiff", "s24", None, codes, lambda path: bare_soundfile(path, codes, format="AIFF", subtype="PCM_24")),
        ("caf", "s24", None, codes, lambda path: bare_soundfile(path, codes, format="CAF", subtype="PCM_24")),
        ("flac", "s24", None, codes, lambda path: bare_soundfile(path, codes, format="FLAC", subtype="PCM_24")),
        ("alac", "s24", None, codes, lambda path: bare_av(path, codes, "alac", "ipod", "s32p")),
        (
            "wavpack", "s24", None, codes,
            lambda path: bare_av(path, codes, "wavpack", "wv", "s32p", options={"compression_level": "2"}),
        ),
        (
            "mp3", "lossy", Coding("constant", 320), noise,
            lambda path: bare_soundfile(
                path, noise, format="MP3", subtype="MPEG_LAYER_III", bitrate_mode="CONSTANT", compression_level=0.0
            ),
        ),
        (
            "vorbis", "lossy", Coding("variable", quality=7), noise,
            lambda path: bare_soundfile(path, noise, format="OGG", subtype="VORBIS", compression_level=0.3),
        ),
        (
            "aac", "lossy", Coding("average", 256), noise,
            lambda path: bare_av(path, single, "aac", "ipod", "fltp", 256_000),
        ),
        (
            "opus", "lossy", Coding("variable", 160), noise,
            lambda path: bare_av(path, single, "libopus", "opus", "flt", 160_000),
        ),
    )  # fmt: skip

    for container, encoding, coding, samples, bare in cases:
        target = folder / container

        def ours(
            target: Path = target,
            container: Container = container,
            encoding: Encoding = encoding,
            coding: Coding | None = coding,
            samples: Any = samples,
        ) -> None:
            target.unlink(missing_ok=True)
            settled = coding or settle_coding(container, RATE, 2, None, None, None)
            writer = open_writer(target, container, encoding, RATE, 2, len(samples), settled)
            for start in range(0, len(samples), BLOCK):
                writer.write(samples[start : start + BLOCK])
            writer.close()

        def theirs(bare: Callable[[Path], None] = bare, container: Container = container) -> None:
            (folder / f"{container}-bare").unlink(missing_ok=True)
            bare(folder / f"{container}-bare")

        own, other = best(ours), best(theirs)
        print(f"{container:8} {SECONDS / own:6.0f} times real time; over the bare library {own / other:.2f}")


class SparseWav(WavWriter):
    """A WAV writer that can leave out silence: the disk keeps a hole."""

    def skip(self, frames: int) -> None:
        """Goes on behind so many frames of silence."""
        self._file.seek(self.data_bytes(frames), 1)
        self.frames += frames


def past_four_gib(folder: Path) -> None:
    """Writes 4.5 GiB of sparse RF64 with tags and markers, and reads its ends with three readers."""
    began = time.perf_counter()
    path = folder / "long.wav"
    ends = np.random.default_rng(8).standard_normal((RATE, 2))
    frames = (4 << 30) // 16 + 30_000_000
    with SparseWav(path, "f64", 96_000, 2) as writer:
        writer.write(ends)
        writer.skip(frames - 2 * len(ends))
        writer.write(ends)
    marker = Marker(frames - 96_000, "Close")
    write_tags(path, "wav", "f64", 96_000, 2, FileTags((("title", "Long Pound"),), markers=(marker,)))
    with path.open("rb") as file:
        assert file.read(4) == b"RF64"
    with SourceReader(path) as reader:
        assert reader.facts.frames == frames
        for start in (0, frames - RATE):
            assert np.array_equal(np.concatenate(list(reader.blocks(start, start + RATE))), ends)
        assert not next(reader.blocks(frames // 2, frames // 2 + 10)).any()
    assert soundfile.info(path).frames == frames
    with av.open(str(path)) as container:
        stream = container.streams.audio[0]
        assert stream.duration == frames
        container.seek(frames - RATE, stream=stream)
        assert next(container.decode(stream)).pts >= frames - 2 * RATE
    found = read_embedded(path, 96_000, frames)
    assert dict(found.tags) == {"title": "Long Pound"}
    assert found.markers == (marker,)
    size = path.stat()
    print(
        f"RF64 of {size.st_size / 2**30:.2f} GiB ({size.st_blocks * 512 / 1e6:.1f} MB on the disk), written, tagged, "
        f"read at both ends by three readers: {time.perf_counter() - began:.1f} s"
    )


def main() -> None:
    """Prints everything."""
    with tempfile.TemporaryDirectory() as folder:
        compare(Path(folder))
        past_four_gib(Path(folder))


if __name__ == "__main__":
    main()
