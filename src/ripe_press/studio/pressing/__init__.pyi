from .compare import Comparison as Comparison, Comparisons as Comparisons, compared as compared
from .destinations import FolderView as FolderView, OfferedFolder as OfferedFolder, order_title as order_title
from .executors import in_thread as in_thread
from .fixity import Fixity as Fixity, FixityWatch as FixityWatch
from .journal import Journal as Journal
from .pressed_sources import as_new_mix as as_new_mix, put_back as put_back
from .record_file import (
    copies_of as copies_of,
    keep_copy as keep_copy,
    look_at_record as look_at_record,
    restore as restore,
)
from .room import PressRoom as PressRoom, is_order as is_order
from .run import (
    PressContext as PressContext,
    PressRun as PressRun,
    cut_off_dead as cut_off_dead,
    journal_of as journal_of,
    new_pressing as new_pressing,
)
from .tasks import look_for_file as look_for_file, press_files as press_files
from .zipping import zipped as zipped
