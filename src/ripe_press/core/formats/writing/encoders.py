"""Facts of the lossy encoders: internal settings, and their coding error relative to the masking threshold.

Noise-to-mask ratios after ITU-R BS.1387 (Basic version, FFT ear model, from memory of the text), mean of eight openly
licensed pieces, measured on these encoders; lower is better. No listening test. `benchmarks/codecs.py` measures them on
the demo mixes.
"""

from dataclasses import dataclass

Masked = tuple[tuple[int, float], ...]
"""(kbit/s or quality, noise-to-mask ratio in dB)."""


@dataclass(frozen=True, slots=True)
class Switches:
    """How an encoder is set inside, up to so many kbit/s for two channels, and what that was found to be worth.

    ``noise_to_mask_db`` is how far the error lies from what the ear masks at that rate (ITU-R BS.1387's ear, mean of
    eight pieces), ``unset_db`` the same with the encoder as it comes.
    """

    kbps: int
    options: tuple[tuple[str, str], ...]
    noise_to_mask_db: float
    unset_db: float


_PLAIN = (("aac_pns", "0"), ("aac_is", "0"))
"""No noise in place of sound, and no intensity stereo: what they save is heard from 160 kbit/s on."""
AAC_SWITCHES = (
    Switches(64, (), -4.4, -4.4),
    Switches(96, (("aac_pns", "0"),), -7.2, -6.3),
    Switches(128, (("aac_pns", "0"),), -9.9, -7.8),
    Switches(160, _PLAIN, -12.8, -9.6),
    Switches(192, _PLAIN, -15.3, -11.4),
    # The fast search was better here by 2 dB on eight pieces of music, but it cuts off loud tones: one of 997 Hz near
    # full scale came back 9 dB above its own error, where this one leaves 50 to 70 dB (`test_encoders.py`).
    Switches(256, _PLAIN, -16.9, -16.0),
    Switches(320, _PLAIN, -20.2, -20.0),
)


@dataclass(frozen=True, slots=True)
class Encoder:
    """How the library that writes a container is set; all names are the library's own.

    ``samples`` are the kinds of samples that it takes for an encoding, ``options`` are always set.
    """

    codec: str
    form: str
    samples: tuple[tuple[str, str], ...]
    options: tuple[tuple[str, str], ...] = ()
    modes: tuple[tuple[str, str], ...] = ()
    """Its option ``vbr`` by bit rate mode."""
    says_24_bits: bool = False
    """Whether 20 and 24 bits in 32 have to be declared."""
    exact_times: bool = False
    """Whether lengths are rounded to milliseconds unless its clock is the sample rate."""
    level: float | None = None
    """Its compression level, where that is fixed."""
    quality_share: float = 1.0
    """The share of its levels, best first, that qualities from 10 to 0 go through."""
    kbps_scales: tuple[tuple[int, int, int], ...] = ()
    """(Hz from which on, highest kbit/s, distance to the lowest) of the bit rates that its levels stand for."""
    lowers: tuple[tuple[int, float], ...] = ()
    """(kbit/s from which on, factor) by which it lowers sound when it is set by a bit rate."""

    def factor(self, kbps: int) -> float:
        """By what it multiplies sound at a bit rate; 1 where it is set by a quality instead."""
        return next((factor for least, factor in self.lowers if kbps >= least), 1.0) if kbps else 1.0

    def level_for(self, rate_hz: int, mode: str, kbps: int, worse: float) -> float:
        """Its compression level for a bit rate, or for a quality so much ``worse`` than the best, from 0 to 1."""
        if self.level is not None:
            return self.level
        if mode == "variable":
            return self.quality_share * worse
        most, span = next((most, span) for least, most, span in self.kbps_scales if rate_hz >= least)
        return (most - kbps) / span


_IN_16_AND_32 = (("s16", "s16p"), ("s20", "s32p"), ("s24", "s32p"))
FLAC = Encoder("", "FLAC", (("s16", "PCM_16"), ("s20", "PCM_24"), ("s24", "PCM_24")), level=0.625)
VORBIS = Encoder("", "OGG", (("lossy", "VORBIS"),))
MP3 = Encoder(
    # Its levels from nought to nine tenths are the encoder's qualities 0 to 9.
    "", "MP3", (("lossy", "MPEG_LAYER_III"),), quality_share=0.9, kbps_scales=((32_000, 320, 288), (0, 160, 152)),
    # So that less clips when it is decoded (measured to 0.0002). Half a decibel matters to a level, and decoded peaks
    # over full scale are found and reported here anyway.
    lowers=((240, 1.0), (208, 0.98), (176, 0.97), (0, 0.95)),
)  # fmt: skip
ALAC = Encoder("alac", "ipod", _IN_16_AND_32, says_24_bits=True, exact_times=True)
AAC = Encoder("aac", "ipod", (("lossy", "fltp"),), exact_times=True)
VIDEO = Encoder("aac", "mp4", (("lossy", "fltp"),), exact_times=True)
OPUS = Encoder(
    "libopus", "opus", (("lossy", "flt"),), modes=(("variable", "on"), ("average", "constrained"), ("constant", "off")),
)  # fmt: skip
WAVPACK = Encoder(
    # At its fastest the encoder loses its way in long files: they came out up to 1.8 times as large (measured).
    "wavpack", "wv", (*_IN_16_AND_32, ("s32", "s32p"), ("f32", "fltp")), (("compression_level", "2"),),
    says_24_bits=True,
)  # fmt: skip

AAC_MASKED: Masked = tuple((row.kbps, row.noise_to_mask_db) for row in AAC_SWITCHES)
MP3_MASKED: Masked = ((128, -10.0), (160, -12.6), (192, -14.9), (224, -17.1), (256, -19.2), (320, -23.3))
OPUS_MASKED: Masked = ((64, -8.6), (96, -11.6), (128, -14.3), (160, -16.7), (192, -19.0), (256, -23.3))
VORBIS_MASKED: Masked = (
    (2, -9.4), (3, -11.2), (4, -12.2), (5, -13.9), (6, -15.7), (7, -17.5), (8, -19.6), (9, -23.5),
)  # fmt: skip
BY_RATE: dict[str, Masked] = {"MP3": MP3_MASKED, "AAC": AAC_MASKED, "Opus": OPUS_MASKED}
"""Those that are set by a bit rate: AAC and MP3 are about as good as each other, Opus is better than both at each."""
