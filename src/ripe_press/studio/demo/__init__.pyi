from .drop_offs import begin_demo_drop_offs as begin_demo_drop_offs
from .order import begin_demo_order as begin_demo_order
from .stand_ins import StandIns as StandIns, checked_names as checked_names
