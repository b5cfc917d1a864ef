"""Files of the formats that only the FFmpeg libraries write, for tests of opening them."""

from pathlib import Path

import av
import numpy as np


def encode(path: Path, codes: np.ndarray, rate_hz: int, codec: str, container: str, sample_format: str) -> Path:
    """Writes 16-bit codes ``(frames, 2)`` with a codec; float formats get them as fractions of full scale."""
    options = {"movie_timescale": str(rate_hz)} if container in ("ipod", "mp4") else {}
    with av.open(str(path), "w", format=container, container_options=options) as file:
        stream = file.add_stream(codec, rate=rate_hz, layout="stereo")
        stream.codec_context.format = sample_format
        if codec == "aac":
            stream.codec_context.bit_rate = 256_000
        samples = codes.T if sample_format != "fltp" else (codes.T / 32768).astype(np.float32)
        for start in range(0, samples.shape[1], 1024):
            part = np.ascontiguousarray(samples[:, start : start + 1024])
            frame = av.AudioFrame.from_ndarray(part, format=sample_format, layout="stereo")
            frame.sample_rate = rate_hz
            frame.pts = start
            file.mux(stream.encode(frame))
        file.mux(stream.encode(None))
    return path
