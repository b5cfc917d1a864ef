"""What each container can hold: the one list that writers, rules, briefs and the interface read."""

from dataclasses import dataclass
from typing import Literal, get_args

from ripe_press.core.errors import Unsupported
from ripe_press.core.formats.encoders import (
    AAC_MASKED,
    AAC_SWITCHES,
    MP3_MASKED,
    OPUS_MASKED,
    VORBIS_MASKED,
    Masked,
    Switches,
)
from ripe_press.core.units import print_rate

Container = Literal[
    "wav", "bwf", "rf64", "caf", "aiff", "flac", "wavpack", "alac", "mp3", "aac", "vorbis", "opus", "video"
]
Encoding = Literal["u8", "s16", "s20", "s24", "s32", "f32", "f64", "lossy"]
"""How samples are held; *lossy* codecs have no depth of their own."""

Mode = Literal["constant", "average", "variable"]
Knob = Literal["kbps", "quality"]
TagForm = Literal["riff", "broadcast", "aiff", "caf", "comments", "ape", "mp4", "id3"]
MarkerForm = Literal["", "cue", "chunk", "comments", "chapters", "frames"]
"""How markers are kept: not at all, ``cue`` (RIFF), ``MARK`` (AIFF), chapter comments, MP4 chapters, ID3 frames."""

MAX_32 = 0xFFFF_FFFF
BEST_QUALITY = 10


@dataclass(frozen=True, slots=True)
class Capability:
    """The limits of a container: its ending, encodings, rates in Hz, channels, bit rates, and what it says of itself.

    ``rates_hz`` empty means every rate between the two ends. ``kbps`` are the bit rates in kbit/s that are offered;
    with ``kbps_listed`` no others exist in constant mode. ``knobs`` say what each mode is set by.
    """

    container: Container
    title: str
    suffix: str
    encodings: tuple[Encoding, ...]
    tag_form: TagForm
    media_type: str
    codec: str = ""
    """As the reader names it; empty for plain samples."""
    min_rate_hz: int = 8_000
    max_rate_hz: int = 384_000
    rates_hz: tuple[int, ...] = ()
    max_channels: int = 2
    compressed: bool = False
    """Whether the size depends on the sound."""
    knobs: tuple[tuple[Mode, Knob], ...] = ()
    kbps: tuple[int, ...] = ()
    kbps_listed: bool = False
    kbps_first: int = 0
    quality_first: int = 0
    switches: tuple[Switches, ...] = ()
    """How the encoder is set inside, by bit rate; empty leaves it as it comes."""
    masked: Masked = ()
    """(kbit/s or quality, noise-to-mask ratio in dB), as `Switches` has it: for saying which codec is the better."""
    markers: MarkerForm = ""
    loop: bool = False
    pictures: bool = False
    gain_tags: Literal["", "replaygain", "r128"] = ""
    max_bytes: int | None = None
    """Past this size the container's own fields overflow; None where they do not, or WAV turns into RF64."""

    @property
    def lossy(self) -> bool:
        """Whether what comes back is not what went in."""
        return self.encodings == ("lossy",)

    @property
    def modes(self) -> tuple[Mode, ...]:
        """The bit rate modes there are; none for what is lossless."""
        return tuple(mode for mode, _ in self.knobs)

    def takes_rate(self, rate_hz: int) -> bool:
        """Whether the codec exists at this rate."""
        return rate_hz in self.rates_hz if self.rates_hz else self.min_rate_hz <= rate_hz <= self.max_rate_hz

    @property
    def offered_rates_hz(self) -> tuple[int, ...]:
        """The rates to choose from: all of them where they are few, otherwise the usual ones among them."""
        return self.rates_hz or tuple(one for one in _USUAL_RATES if self.takes_rate(one))

    def print_rates(self) -> str:
        """The rates in words: ``44.1 or 48 kHz``, ``8 to 384 kHz``."""
        if not self.rates_hz:
            return f"{self.min_rate_hz / 1000:g} to {print_rate(self.max_rate_hz)}"
        *others, last = self.rates_hz
        first = ", ".join(f"{rate / 1000:g}" for rate in others)
        return f"{first} or {print_rate(last)}" if first else print_rate(last)


_USUAL_RATES = (
    8_000, 11_025, 16_000, 22_050, 32_000, 44_100, 48_000, 88_200, 96_000, 176_400, 192_000, 352_800, 384_000,
)  # fmt: skip
_PCM: tuple[Encoding, ...] = ("u8", "s16", "s20", "s24", "s32", "f32", "f64")
_LOSSY: tuple[Encoding, ...] = ("lossy",)
# Below 64 kbit/s, and below 16 kHz, the encoder leaves out what a player needs to return the exact length.
_MP3_RATES = (16_000, 22_050, 24_000, 32_000, 44_100, 48_000)
_MP3_KBPS = (64, 80, 96, 112, 128, 160, 192, 224, 256, 320)
_MP3_KBPS_BELOW_32K = (64, 80, 96, 112, 128, 144, 160)
_AAC_RATES = (8_000, 11_025, 12_000, 16_000, 22_050, 24_000, 32_000, 44_100, 48_000, 64_000, 88_200, 96_000)
_AAC_KBPS = (64, 96, 128, 160, 192, 256, 320)

CAPABILITIES: dict[Container, Capability] = {
    one.container: one
    for one in (
        Capability("wav", "WAV", ".wav", _PCM, "riff", "audio/wav", markers="cue", loop=True, pictures=True),
        Capability(
            "bwf", "Broadcast WAV", ".wav", _PCM, "broadcast", "audio/wav", markers="cue", loop=True, pictures=True
        ),
        Capability("rf64", "RF64", ".wav", _PCM, "riff", "audio/wav", markers="cue", loop=True, pictures=True),
        Capability("caf", "CAF", ".caf", _PCM, "caf", "audio/x-caf"),
        Capability(
            "aiff",
            "AIFF",
            ".aif",
            _PCM,
            "aiff",
            "audio/aiff",
            markers="chunk",
            loop=True,
            pictures=True,
            max_bytes=MAX_32,
        ),
        Capability(
            "flac",
            "FLAC",
            ".flac",
            ("s16", "s20", "s24"),
            "comments",
            "audio/flac",
            "pcm",
            compressed=True,
            markers="comments",
            pictures=True,
            gain_tags="replaygain",
        ),
        Capability(
            "wavpack",
            "WavPack",
            ".wv",
            ("s16", "s20", "s24", "s32", "f32"),
            "ape",
            "audio/x-wavpack",
            "pcm",
            compressed=True,
            pictures=True,
            gain_tags="replaygain",
            max_bytes=MAX_32,
        ),
        Capability(
            "alac",
            "ALAC in MP4",
            ".m4a",
            ("s16", "s20", "s24"),
            "mp4",
            "audio/mp4",
            "pcm",
            compressed=True,
            markers="chapters",
            pictures=True,
            gain_tags="replaygain",
        ),
        Capability(
            "mp3",
            "MP3",
            ".mp3",
            _LOSSY,
            "id3",
            "audio/mpeg",
            "mp3",
            rates_hz=_MP3_RATES,
            max_rate_hz=48_000,
            compressed=True,
            knobs=(("constant", "kbps"), ("average", "kbps"), ("variable", "quality")),
            kbps=_MP3_KBPS,
            kbps_listed=True,
            kbps_first=320,
            quality_first=10,
            masked=MP3_MASKED,
            markers="frames",
            pictures=True,
            gain_tags="replaygain",
        ),
        Capability(
            "aac",
            "AAC in MP4",
            ".m4a",
            _LOSSY,
            "mp4",
            "audio/mp4",
            "aac",
            rates_hz=_AAC_RATES,
            max_rate_hz=96_000,
            compressed=True,
            knobs=(("average", "kbps"),),
            kbps=_AAC_KBPS,
            kbps_first=256,
            switches=AAC_SWITCHES,
            masked=AAC_MASKED,
            markers="chapters",
            pictures=True,
            gain_tags="replaygain",
        ),
        Capability(
            "vorbis",
            "Ogg Vorbis",
            ".ogg",
            _LOSSY,
            "comments",
            "audio/ogg",
            "vorbis",
            max_rate_hz=192_000,
            compressed=True,
            knobs=(("variable", "quality"),),
            quality_first=7,
            masked=VORBIS_MASKED,
            markers="comments",
            pictures=True,
            gain_tags="replaygain",
        ),
        Capability(
            "opus",
            "Ogg Opus",
            ".opus",
            _LOSSY,
            "comments",
            "audio/ogg",
            "opus",
            rates_hz=(48_000,),
            max_rate_hz=48_000,
            compressed=True,
            knobs=(("variable", "kbps"), ("average", "kbps"), ("constant", "kbps")),
            kbps=(32, 48, 64, 96, 128, 160, 192, 256, 320, 450),
            kbps_first=160,
            masked=OPUS_MASKED,
            markers="comments",
            pictures=True,
            gain_tags="r128",
        ),
        Capability(
            "video",
            "MP4 video, still picture",
            ".mp4",
            _LOSSY,
            "mp4",
            "video/mp4",
            "aac",
            rates_hz=(44_100, 48_000),
            min_rate_hz=44_100,
            max_rate_hz=48_000,
            compressed=True,
            knobs=(("average", "kbps"),),
            kbps=_AAC_KBPS,
            kbps_first=320,
            switches=AAC_SWITCHES,
            masked=AAC_MASKED,
            markers="chapters",
            pictures=True,
        ),
    )
}

BITS: dict[Encoding, int] = {"u8": 8, "s16": 16, "s20": 20, "s24": 24, "s32": 32, "f32": 32, "f64": 64, "lossy": 0}
STORED_BITS: dict[Encoding, int] = {**BITS, "s20": 24}
"""Bits that a sample takes in the file: 20 bits lie in 24, the last four zero."""

DEPTH_WORDS: dict[Encoding, str] = {
    "u8": "8 bits", "s16": "16 bits", "s20": "20 bits", "s24": "24 bits", "s32": "32 bits", "f32": "32-bit float",
    "f64": "64-bit float", "lossy": "no depth",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Coding:
    """How a lossy encoder is set: by ``kbps``, or by ``quality`` from 0 (smallest) to 10 (best)."""

    mode: Mode
    kbps: int = 0
    quality: int = 0

    def __str__(self) -> str:
        """``320 kbit/s constant``, ``variable, quality 7``."""
        return f"{self.kbps} kbit/s {self.mode}" if self.kbps else f"{self.mode}, quality {self.quality}"


def switches_for(container: Container, kbps: int, channels: int) -> dict[str, str]:
    """How an encoder is set inside at a bit rate; one channel alone has twice the bits of each of two."""
    rows = CAPABILITIES[container].switches
    a_pair = kbps * 2 // channels
    row = next((one for one in rows if a_pair <= one.kbps), rows[-1] if rows else None)
    return dict(row.options) if row else {}


def is_float(encoding: Encoding) -> bool:
    """Whether samples are floating point."""
    return encoding in ("f32", "f64")


def is_pcm(container: Container) -> bool:
    """Whether a container holds plain samples, so that its size is known to the byte."""
    return not CAPABILITIES[container].codec


def codec_of(container: Container, encoding: Encoding) -> str:
    """The codec's name as the reader gives it: ``pcm`` (also inside FLAC), ``pcm-float``, ``mp3`` …"""
    return "pcm-float" if is_float(encoding) else CAPABILITIES[container].codec or "pcm"


def print_depths(encodings: tuple[Encoding, ...]) -> str:
    """Depths in words: ``16 bits, 24 bits or 32-bit float``."""
    *others, last = [DEPTH_WORDS[one] for one in encodings]
    return f"{', '.join(others)} or {last}" if others else last


def bit_rates(container: Container, rate_hz: int, channels: int) -> tuple[int, ...]:
    """The bit rates in kbit/s that are offered at a rate; below 32 kHz MP3 has others (MPEG-2 layer III)."""
    can = CAPABILITIES[container]
    if container == "mp3" and rate_hz < 32_000:
        return _MP3_KBPS_BELOW_32K
    # A packet of AAC has 1024 frames and at most 6144 bits a channel (ISO/IEC 14496-3, from memory); the encoder of
    # Opus takes 256 kbit/s a channel (measured).
    most = {"aac": 6 * rate_hz * channels // 1000, "opus": 256 * channels}.get(can.codec)
    if most is None:
        return can.kbps
    return tuple(one for one in can.kbps if one <= most) or (most,)


def check_capable(container: Container, encoding: Encoding, rate_hz: int, channels: int) -> Capability:
    """The capability, once the wish is known to fit it.

    Raises: Unsupported ``container.rate``, ``container.channels`` or ``container.encoding``.
    """
    can = CAPABILITIES[container]
    if encoding not in can.encodings:
        held = print_depths(can.encodings)
        message = f"{can.title} does not hold {DEPTH_WORDS[encoding]}. It holds {held}."
        if encoding == "lossy":
            message = f"{can.title} loses nothing, so it needs a depth: {held}."
        if can.lossy:
            message = f"{can.title} is lossy and has no bit depth. Leave the depth to it, or choose another format."
        raise Unsupported("container.encoding", message, encoding=encoding)
    if not can.takes_rate(rate_hz):
        message = f"{can.title} is written at {can.print_rates()}, not at {print_rate(rate_hz)}."
        raise Unsupported("container.rate", message, rate_hz=rate_hz)
    if not 1 <= channels <= can.max_channels:
        message = f"{can.title} is written with one or two channels, not {channels}."
        raise Unsupported("container.channels", message, channels=channels)
    return can


def settle_coding(
    container: Container, rate_hz: int, channels: int, mode: Mode | None, kbps: int | None, quality: int | None
) -> Coding | None:
    """How the encoder is set, with what is left open filled in; None for what is lossless.

    Raises: Unsupported ``container.mode``, ``container.kbps`` or ``container.quality``, with what there is.
    """
    can = CAPABILITIES[container]
    knobs = dict(can.knobs)
    if not knobs:
        if mode or kbps or quality is not None:
            message = f"{can.title} loses nothing, so it has no bit rate to choose."
            raise Unsupported("container.mode", message, container=container)
        return None
    if mode is None and quality is not None:
        mode = next((one for one, knob in can.knobs if knob == "quality"), None)
    settled = mode or can.knobs[0][0]
    if settled not in knobs:
        message = f"{can.title} has no {settled} bit rate. It has {' or '.join(knobs)}."
        raise Unsupported("container.mode", message, mode=settled)
    if knobs[settled] == "quality":
        if kbps:
            message = f"{can.title} with {settled} bit rate is set by its quality from 0 to 10, not by a bit rate."
            raise Unsupported("container.kbps", message, kbps=kbps)
        wanted = can.quality_first if quality is None else quality
        if not 0 <= wanted <= BEST_QUALITY:
            message = f"The quality of {can.title} goes from 0 (smallest) to {BEST_QUALITY} (best), not {wanted}."
            raise Unsupported("container.quality", message, quality=wanted)
        return Coding(settled, quality=wanted)
    if quality is not None:
        message = f"{can.title} with {settled} bit rate is set in kbit/s, not by a quality."
        raise Unsupported("container.quality", message, quality=quality)
    return Coding(settled, kbps=_checked_kbps(can, settled, rate_hz, channels, kbps))


def _checked_kbps(can: Capability, mode: Mode, rate_hz: int, channels: int, kbps: int | None) -> int:
    offered = bit_rates(can.container, rate_hz, channels)
    most = offered[-1]
    wanted = min(can.kbps_first, most) if kbps is None else kbps
    listed = can.kbps_listed and mode == "constant"
    if not offered[0] <= wanted <= most or (listed and wanted not in offered):
        allowed = ", ".join(str(one) for one in offered) if listed else f"{offered[0]} to {most}"
        message = f"{can.title} at {print_rate(rate_hz)} takes {allowed} kbit/s, not {wanted}."
        raise Unsupported("container.kbps", message, kbps=wanted)
    return wanted


CONTAINERS: tuple[Container, ...] = get_args(Container)
