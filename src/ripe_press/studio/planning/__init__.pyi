from .kept_levels import facts_of as facts_of, keep_measures as keep_measures
from .knowledge import AnswerCache as AnswerCache, KeptKnowledge as KeptKnowledge, Knowledge as Knowledge
from .measured import MeasuredKnowledge as MeasuredKnowledge, measured as measured
from .old_tickets import bring_up_to_date as bring_up_to_date, upgrade_tickets as upgrade_tickets
from .orders import (
    DISC_LINE as DISC_LINE,
    EntryMix as EntryMix,
    lengths_of as lengths_of,
    placed_entries as placed_entries,
    resolved_order as resolved_order,
)
from .planner import (
    Plan as Plan,
    RequestedFile as RequestedFile,
    brief_folder as brief_folder,
    files_pressed as files_pressed,
    plan as plan,
    resolved_files as resolved_files,
)
from .previews import Previews as Previews, delivery_path as delivery_path
from .resolved import Resolved as Resolved, stretch_of as stretch_of
from .stem_measures import StemMeasures as StemMeasures
from .tasks import try_codec as try_codec
from .ticket import Row as Row, rows_of as rows_of
from .trials import Trials as Trials
