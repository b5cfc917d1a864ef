"""What each container can hold: the one list that writers, rules, briefs and the interface read."""

from dataclasses import dataclass
from typing import Literal, get_args

from ripe_press.core.formats.writing.encoders import (
    AAC,
    AAC_MASKED,
    AAC_SWITCHES,
    ALAC,
    FLAC,
    MP3,
    MP3_MASKED,
    OPUS,
    OPUS_MASKED,
    VIDEO,
    VORBIS,
    VORBIS_MASKED,
    WAVPACK,
    Encoder,
    Masked,
    Switches,
)  # fmt: skip
from ripe_press.core.units import print_rate

Container = Literal[
    "wav", "bwf", "rf64", "caf", "aiff", "flac", "wavpack", "alac", "mp3", "aac", "vorbis", "opus", "video"
]
Encoding = Literal["u8", "s16", "s20", "s24", "s32", "f32", "f64", "lossy"]
"""How samples are held; *lossy* codecs have no depth of their own."""

Mode = Literal["constant", "average", "variable"]
Knob = Literal["kbps", "quality"]
Writer = Literal["wave", "form", "core-audio", "libsndfile", "libav"]
"""What writes a container: our own code for plain samples, a library for codecs."""
TagForm = Literal["riff", "broadcast", "text-chunks", "strings", "comments", "ape", "mp4", "id3"]
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
    written_by: Writer
    encodings: tuple[Encoding, ...]
    tag_form: TagForm
    media_type: str
    codec: str = ""
    """As the reader names it; empty for plain samples."""
    read_as: str = ""
    """What a reader calls the container, where that is another name."""
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
    kbps_below: tuple[int, tuple[int, ...]] = (0, ())
    """The bit rates below a sample rate in Hz, where there are others."""
    most_bits_a_sample: int = 0
    """The most bits that a channel may take a sample: 6144 in a packet of 1024 (AAC, ISO/IEC 14496-3, from memory)."""
    most_kbps_a_channel: int = 0
    """The most that its encoder takes a channel (measured)."""
    encoder: Encoder | None = None
    """How the library that writes it is set; None for plain samples."""
    switches: tuple[Switches, ...] = ()
    """How the encoder is set inside, by bit rate; empty leaves it as it comes."""
    masked: Masked = ()
    """(kbit/s or quality, noise-to-mask ratio in dB), as `Switches` has it: for saying which codec is the better."""
    ladder: tuple[int, ...] = ()
    """Bit rates, or qualities, to try in the search for the smallest file."""
    ladder_mode: Mode = "constant"
    markers: MarkerForm = ""
    loop: bool = False
    pictures: bool = False
    gain_tags: Literal["", "replaygain", "r128"] = ""
    shows_picture: bool = False
    """Whether it is a video, which shows the cover for as long as it sounds."""
    sound: Container | None = None
    """The container of the same sound without the picture, where it is a video."""
    pictures_are_text: bool = False
    """Whether a picture is stored in a comment, as base64."""
    states_loudness: bool = False
    """Whether its own header says how loud it is, so that this is always measured."""
    wide: Literal["", "when needed", "always"] = ""
    """Whether its sizes have 64 bits, which older readers do not know."""
    effort_ms: float = 1.0
    """Milliseconds of one core for a second of stereo at 48 kHz, as measured on one machine: ratios count."""
    max_bytes: int | None = None
    """Past this size the container's own fields overflow; None where they do not, or WAV turns into RF64."""

    @property
    def sounds_as(self) -> Container:
        """The container of its sound alone."""
        return self.sound or self.container

    @property
    def lossy(self) -> bool:
        """Whether decoding returns other samples than were encoded."""
        return self.encodings == ("lossy",)

    @property
    def modes(self) -> tuple[Mode, ...]:
        """The bit rate modes; none for a lossless format."""
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
# Below 32 kHz it is MPEG-2 layer III, with other bit rates. Below 64 kbit/s, and below 16 kHz, the encoder leaves out
# what a player needs to return the exact length.
_MP3_RATES = (16_000, 22_050, 24_000, 32_000, 44_100, 48_000)
_MP3_KBPS_BELOW_32K = (64, 80, 96, 112, 128, 144, 160)
_MP3_KBPS = (64, 80, 96, 112, 128, 160, 192, 224, 256, 320)
_AAC_RATES = (8_000, 11_025, 12_000, 16_000, 22_050, 24_000, 32_000, 44_100, 48_000, 64_000, 88_200, 96_000)
_AAC_KBPS = (64, 96, 128, 160, 192, 256, 320)

CAPABILITIES: dict[Container, Capability] = {
    one.container: one
    for one in (
        Capability(
            "wav", "WAV", ".wav", "wave", _PCM, "riff", "audio/wav", markers="cue", loop=True, pictures=True,
            wide="when needed",
        ),
        Capability(
            "bwf", "Broadcast WAV", ".wav", "wave", _PCM, "broadcast", "audio/wav", markers="cue", loop=True,
            pictures=True, states_loudness=True, wide="when needed", read_as="wav",
        ),
        Capability(
            "rf64", "RF64", ".wav", "wave", _PCM, "riff", "audio/wav", markers="cue", loop=True, pictures=True,
            wide="always",
        ),
        Capability("caf", "CAF", ".caf", "core-audio", _PCM, "strings", "audio/x-caf"),
        Capability(
            "aiff", "AIFF", ".aif", "form", _PCM, "text-chunks", "audio/aiff", markers="chunk", loop=True,
            pictures=True, max_bytes=MAX_32,
        ),
        Capability(
            "flac", "FLAC", ".flac", "libsndfile", ("s16", "s20", "s24"), "comments", "audio/flac", "pcm",
            compressed=True, markers="comments", pictures=True, loop=True, gain_tags="replaygain", effort_ms=5,
            encoder=FLAC,
        ),
        Capability(
            "wavpack", "WavPack", ".wv", "libav", ("s16", "s20", "s24", "s32", "f32"), "ape", "audio/x-wavpack",
            "pcm", compressed=True, pictures=True, loop=True, gain_tags="replaygain", max_bytes=MAX_32, effort_ms=29,
            encoder=WAVPACK,
        ),
        Capability(
            "alac", "ALAC in MP4", ".m4a", "libav", ("s16", "s20", "s24"), "mp4", "audio/mp4", "pcm",
            compressed=True, markers="chapters", pictures=True, loop=True, gain_tags="replaygain", effort_ms=8,
            read_as="mp4", encoder=ALAC,
        ),
        Capability(
            "mp3", "MP3", ".mp3", "libsndfile", _LOSSY, "id3", "audio/mpeg", "mp3", rates_hz=_MP3_RATES,
            max_rate_hz=48_000, compressed=True,
            knobs=(("constant", "kbps"), ("average", "kbps"), ("variable", "quality")), kbps=_MP3_KBPS,
            kbps_listed=True, kbps_first=320, quality_first=10, masked=MP3_MASKED, markers="frames", pictures=True,
            loop=True, gain_tags="replaygain", effort_ms=84,
            ladder=(128, 160, 192, 256, 320), encoder=MP3, kbps_below=(32_000, _MP3_KBPS_BELOW_32K),
        ),
        Capability(
            "aac", "AAC in MP4", ".m4a", "libav", _LOSSY, "mp4", "audio/mp4", "aac", rates_hz=_AAC_RATES,
            max_rate_hz=96_000, compressed=True, knobs=(("average", "kbps"),), kbps=_AAC_KBPS, kbps_first=256,
            switches=AAC_SWITCHES, masked=AAC_MASKED, markers="chapters", pictures=True,
            loop=True, gain_tags="replaygain", effort_ms=15, read_as="mp4", encoder=AAC, most_bits_a_sample=6,
            ladder=(96, 128, 160, 192, 256, 320), ladder_mode="average",
        ),
        Capability(
            "vorbis", "Ogg Vorbis", ".ogg", "libsndfile", _LOSSY, "comments", "audio/ogg", "vorbis",
            max_rate_hz=192_000, compressed=True, knobs=(("variable", "quality"),), quality_first=7,
            masked=VORBIS_MASKED, markers="comments", pictures=True, pictures_are_text=True,
            loop=True, gain_tags="replaygain", effort_ms=24, read_as="ogg",
            encoder=VORBIS, ladder=(3, 4, 5, 6, 7, 8), ladder_mode="variable",
        ),
        Capability(
            "opus", "Ogg Opus", ".opus", "libav", _LOSSY, "comments", "audio/ogg", "opus", rates_hz=(48_000,),
            max_rate_hz=48_000, compressed=True,
            knobs=(("variable", "kbps"), ("average", "kbps"), ("constant", "kbps")),
            kbps=(32, 48, 64, 96, 128, 160, 192, 256, 320, 450), kbps_first=160, masked=OPUS_MASKED,
            markers="comments", pictures=True, pictures_are_text=True, loop=True, gain_tags="r128", effort_ms=18,
            read_as="ogg",
            encoder=OPUS, most_kbps_a_channel=256, ladder=(64, 96, 128, 160, 192, 256), ladder_mode="variable",
        ),
        Capability(
            "video", "MP4 video, still picture", ".mp4", "libav", _LOSSY, "mp4", "video/mp4", "aac",
            rates_hz=(44_100, 48_000), min_rate_hz=44_100, max_rate_hz=48_000, compressed=True,
            knobs=(("average", "kbps"),), kbps=_AAC_KBPS, kbps_first=320, switches=AAC_SWITCHES, masked=AAC_MASKED,
            markers="chapters", pictures=True, shows_picture=True, sound="aac", effort_ms=37, read_as="mp4",
            encoder=VIDEO, most_bits_a_sample=6,
        ),
    )
}  # fmt: skip
"""One row a container, in the order in which they are offered."""

PLAIN: Container = "wav"
"""The default encoding."""
SMALL: Container = "aac"
"""The default encoding where only the size counts."""

BITS: dict[Encoding, int] = {"u8": 8, "s16": 16, "s20": 20, "s24": 24, "s32": 32, "f32": 32, "f64": 64, "lossy": 0}
STORED_BITS: dict[Encoding, int] = {**BITS, "s20": 24}
"""Bits that a sample takes in the file: 20 bits lie in 24, the last four zero."""

DEPTH_WORDS: dict[Encoding, str] = {
    "u8": "8 bits", "s16": "16 bits", "s20": "20 bits", "s24": "24 bits", "s32": "32 bits", "f32": "32-bit float",
    "f64": "64-bit float", "lossy": "no depth",
}  # fmt: skip


def is_float(encoding: Encoding) -> bool:
    """Whether samples are floating point."""
    return encoding in ("f32", "f64")


def is_pcm(container: Container) -> bool:
    """Whether a container holds plain samples, so that its size is known to the byte."""
    return not CAPABILITIES[container].codec


def encoder_of(container: Container) -> Encoder:
    """How the library that writes a container is set. Raises: TypeError for one of plain samples."""
    encoder = CAPABILITIES[container].encoder
    if encoder is None:
        message = f"{container} is written without a library"
        raise TypeError(message)
    return encoder


def codec_of(container: Container, encoding: Encoding) -> str:
    """The codec's name as the reader gives it: ``pcm`` (also inside FLAC), ``pcm-float``, ``mp3`` …"""
    return "pcm-float" if is_float(encoding) else CAPABILITIES[container].codec or "pcm"


def kinds_of(container: str, codec: str, broadcast: bool) -> tuple[Container, ...]:
    """Kinds that a file counts as, from a reader's facts, the nearest first; none for an unknown format.

    A ``broadcast`` file states its loudness, and is a plain one too.
    """
    found = [
        can
        for can in CAPABILITIES.values()
        if (can.read_as or can.container) == container
        and (can.codec or codec) == codec
        and (broadcast or not can.states_loudness)
        and (bool(can.codec) or codec.startswith("pcm"))
    ]
    return tuple(can.container for can in sorted(found, key=lambda can: not can.states_loudness))


def print_depths(encodings: tuple[Encoding, ...]) -> str:
    """Depths in words: ``16 bits, 24 bits or 32-bit float``."""
    *others, last = [DEPTH_WORDS[one] for one in encodings]
    return f"{', '.join(others)} or {last}" if others else last


CONTAINERS: tuple[Container, ...] = get_args(Container)
READ_SUFFIXES = frozenset(
    {f".{one.suffix.lstrip('.')}" for one in CAPABILITIES.values()} | {".w64", ".aif", ".aifc", ".mp4", ".ogg", ".oga"}
)
"""Endings of names that sound files commonly have, for looking through a folder."""
