from .bags import bag_now as bag_now
from .handoff import handed_file as handed_file
from .ladder import ladder_of as ladder_of
from .live import pass_now as pass_now
from .orders import (
    order_by_cutting as order_by_cutting,
    order_of_mixes as order_of_mixes,
    order_set_out as order_set_out,
    read_order as read_order,
)
from .press import (
    DiscRequest as DiscRequest,
    FilePlan as FilePlan,
    PlannedStation as PlannedStation,
    PressJob as PressJob,
    PressResult as PressResult,
    all_briefs as all_briefs,
    plan_now as plan_now,
    press_now as press_now,
)
from .record_lookup import (
    check_pressing as check_pressing,
    check_pressings as check_pressings,
    compare_pressings as compare_pressings,
    compare_with_mix as compare_with_mix,
    find_pressings as find_pressings,
    press_again as press_again,
)
from .requests import (
    RangeRequest as RangeRequest,
    TagsRequest as TagsRequest,
    TicketRequest as TicketRequest,
    frames_of as frames_of,
    known_of as known_of,
    set_out as set_out,
    set_out_again as set_out_again,
    write_document as write_document,
)
from .send import Sending as Sending, send_now as send_now
from .sheets import sheet_now as sheet_now
from .stem_check import stems_report as stems_report
from .stems import StemsRequest as StemsRequest
from .watch_folder import WatchedFolder as WatchedFolder
