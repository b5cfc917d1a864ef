"""How a chain keeps time: how late it is, and by how much its clock runs faster or slower than ours."""

from dataclasses import dataclass

PPM = 1e-6
NO_DRIFT_PPM = 0.5
"""What counts for less is the error of two probes (measured: below 0.1 ppm on a minute)."""


@dataclass(frozen=True, slots=True)
class Timing:
    """Sample ``s`` of the send returns at ``s·(1 + drift) + late``, in samples of the chain."""

    late_frames: float
    """At the first frame that was sent."""
    drift_ppm: float

    def heard_at(self, sent_frame: float) -> float:
        """Where in what came back something is that was sent at a frame."""
        return sent_frame * (1 + self.drift_ppm * PPM) + self.late_frames


def timing_of(first: tuple[float, float], second: tuple[float, float] | None, slipped_frames: float = 0.0) -> Timing:
    """From one or two probes, each as (frame at which it was sent, frames that it came back later).

    ``slipped_frames`` are those that came to it in between by something else than drift.
    """
    at, late = first
    drift = 0.0
    if second is not None and second[0] > at:
        drift = (second[1] - late - slipped_frames) / (second[0] - at)
    return Timing(late - at * drift, drift / PPM)
