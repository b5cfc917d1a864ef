from .book import Beside as Beside, StemBook as StemBook, free_name as free_name, plain_name as plain_name
from .files import examined_stem as examined_stem, stems_in as stems_in
from .tasks import read_stem as read_stem, stems_row as stems_row
