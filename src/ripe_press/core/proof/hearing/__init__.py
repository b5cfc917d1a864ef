"""What an ear may notice: a model of hearing, its meter, and what its figures mean."""

from ripe_press.core.proof.hearing.ear import Ear, ear_for
from ripe_press.core.proof.hearing.meter import AnalysedBlock, Audibility, HearingMeter, Listener

__all__ = ["AnalysedBlock", "Audibility", "Ear", "HearingMeter", "Listener", "ear_for"]
