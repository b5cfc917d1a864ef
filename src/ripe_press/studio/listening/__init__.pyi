from .blind_tests import (
    MOST_ALTERNATIVES as MOST_ALTERNATIVES,
    BlindTest as BlindTest,
    BlindTests as BlindTests,
    blind_test_view as blind_test_view,
)
from .desk import Desk as Desk, Desks as Desks, VoiceState as VoiceState
from .ladder import ladder_report as ladder_report
from .ladder_runs import Ladders as Ladders
from .sources import (
    MOST_VOICES as MOST_VOICES,
    DeskVoice as DeskVoice,
    MixSource as MixSource,
    PressedSource as PressedSource,
    RungSource as RungSource,
    SourceFinder as SourceFinder,
    SourceKind as SourceKind,
    SourceRequest as SourceRequest,
    facts_of_report as facts_of_report,
)
