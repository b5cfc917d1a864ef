from .handoffs import Handoffs as Handoffs
from .keys import Keys as Keys
from .sheets import (
    Accepted as Accepted,
    common_folder as common_folder,
    files_of_sheet as files_of_sheet,
    report_of_file as report_of_file,
    sheet_file as sheet_file,
    sheet_of_folder as sheet_of_folder,
    sheet_of_pressing as sheet_of_pressing,
    signed_off as signed_off,
    write_sheet as write_sheet,
)
from .sidecars import sidecar_now as sidecar_now
from .timeline import HandedMix as HandedMix, HandoffRequest as HandoffRequest, hand_off as hand_off
