"""What an ear may notice: a model of hearing, its meter, and what its figures mean."""

from ripe_press.core.proof.hearing.ear import Ear, ear_for
from ripe_press.core.proof.hearing.meter import Heard, HearingMeter, Heeded, Listener

__all__ = ["Ear", "Heard", "HearingMeter", "Heeded", "Listener", "ear_for"]
