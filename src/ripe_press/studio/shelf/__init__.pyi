from .file_changes import Change as Change, ChangeState as ChangeState
from .file_watch import ShelfWatch as ShelfWatch
from .lookup import on_shelf as on_shelf, stems_beside as stems_beside
from .mix_row import stamp_of as stamp_of
from .mix_views import MixViews as MixViews, check_inside as check_inside
from .requests import document_for as document_for, keep_cover as keep_cover, words_of as words_of
from .shelf import (
    Arrival as Arrival,
    Shelf as Shelf,
    path_on_server as path_on_server,
    printable_title as printable_title,
    stream_to_file as stream_to_file,
)
from .tasks import read_in as read_in
from .versions import (
    VersionInUse as VersionInUse,
    Versions as Versions,
    VersionShown as VersionShown,
    is_there as is_there,
)
