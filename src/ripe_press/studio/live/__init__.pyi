from .captures import LiveRequest as LiveRequest, capture_now as capture_now, layout_of as layout_of
from .live_pass import OnDropout as OnDropout, UnitAt as UnitAt, unit_at as unit_at
from .passes import PassRoom as PassRoom, PassShown as PassShown
from .rack import UNIT_KINDS as UNIT_KINDS, Rack as Rack, begin_unit as begin_unit, end_process as end_process
