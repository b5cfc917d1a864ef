"""What a rule judges: one file, with everything that is known of it by then."""

from dataclasses import dataclass

from ripe_press.core.engine.edges import EdgeLevels
from ripe_press.core.engine.levels import Shortfall
from ripe_press.core.measure.clipping import ClippingResult
from ripe_press.core.measure.places.silence import SilenceResult
from ripe_press.core.measure.places.speech import Speech
from ripe_press.core.measure.places.tempo import TempoFound
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.naming import FilePlace
from ripe_press.core.proof.against import Against
from ripe_press.core.proof.read_back import Proof
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.sending.parcel import GOES_NOWHERE, Sends
from ripe_press.core.stations import NO_FINISH, Finish, Path, PathReport
from ripe_press.core.stations.size.forecast import Forecast


@dataclass(frozen=True, slots=True)
class RangeMeasures:
    """Measurements of the range in the mix: clipped samples, the first one's position, and whether it has sound."""

    overs: int
    first_over_frame: int | None
    clipped_samples: int
    first_clipped_frame: int | None
    sounding: bool = True
    head_silence_frames: int = 0
    tail_silence_frames: int = 0
    edges: EdgeLevels | None = None


def range_measures(
    clipping: ClippingResult,
    silence: SilenceResult | None = None,
    edges: EdgeLevels | None = None,
    stretch: Stretch | None = None,
) -> RangeMeasures:
    """The rules' view of a range of the mix: its clipping, the silence at its ends, and the levels at its edges.

    Where the start and end of the sound are known, they decide the silence of its ``stretch``.
    """
    if silence and stretch and stretch.sounding:
        first, last = stretch.sounding
        heard_end = stretch.start_frame + silence.frames
        silence = SilenceResult(
            silence.frames, min(silence.frames, max(silence.head_frames, first - stretch.start_frame)),
            min(silence.frames, max(silence.tail_frames, heard_end - last)),
        )  # fmt: skip
    sounding = silence is None or silence.head_frames < silence.frames
    return RangeMeasures(
        overs=clipping.overs,
        first_over_frame=min((run.start_frame for run in clipping.runs if run.overs), default=None),
        clipped_samples=clipping.clipped_samples,
        first_clipped_frame=min((run.start_frame for run in clipping.runs), default=None),
        sounding=sounding,
        head_silence_frames=silence.head_frames if silence and sounding else 0,
        tail_silence_frames=silence.tail_frames if silence and sounding else 0,
        edges=edges,
    )


def is_loop(case: "Case") -> bool:
    """Whether the file is meant to repeat."""
    return case.brief.require.whole_bars or case.path.cut.loops


@dataclass(frozen=True, slots=True)
class Expected:
    """Size and levels of a file, foreseen before it is made and found after; None where nothing is known."""

    size: Forecast | None = None
    sample_peak_dbfs: float | None = None
    true_peak_dbtp: float | None = None
    integrated_lufs: float | None = None


NOTHING_EXPECTED = Expected()


@dataclass(frozen=True, slots=True)
class Case:
    """One file, before or after it is made: None or empty is unknown."""

    path: Path
    """As it is expected to be, or as it was made."""
    asked: Path
    """Before its level was settled."""
    wish: Delivery
    brief: Brief
    chain: Finish = NO_FINISH
    """The finishing chain that is set for the mix, whether this file takes it or not."""
    measures: RangeMeasures | None = None
    expected: Expected = NOTHING_EXPECTED
    mono_loss_db: float | None = None
    """How much quieter a sum of both sides is than if they were alike."""
    shortfall: Shortfall | None = None
    forecast: Forecast | None = None
    """The predicted size."""
    signal: SignalResult | None = None
    """Before: peaks and loudness of the range in front of the level, as far as they are known."""
    placed: FilePlace | None = None
    """Before: where the file will go."""
    channels_unheard: int = 0
    """Before: channels without labels, until the user chooses."""
    sends: Sends = GOES_NOWHERE
    """Before: the drop-offs of the pressed file, and their answers."""
    seen: PathReport | None = None
    """After: what the walk saw."""
    proof: Proof | None = None
    """After: the file on disk."""
    speech: Speech | None = None
    """Level, noise and room tone of a spoken recording, foreseen before and found after."""
    tempo_found: TempoFound | None = None
    """Before: the tempo of the mix by its sound."""
    against: Against | None = None
    """The comparison with the render of its path from the mix."""
    backed_off_db: float = 0.0
    """After: how much lower it was made again so that it decodes under its ceiling."""

    @property
    def overs(self) -> int:
        """Samples above full scale in the range of the mix."""
        return self.measures.overs if self.measures else 0

    @property
    def clipped_samples(self) -> int:
        """Samples that were held at full scale while integers were made."""
        return self.seen.clipped_samples if self.seen else 0
