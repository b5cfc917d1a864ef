from .burning import BurnRequest as BurnRequest, Writer as Writer, burn as burn
from .burns import Burns as Burns
from .images import check_image as check_image
from .making import (
    DiscFile as DiscFile,
    make_disc as make_disc,
    on_disc as on_disc,
    order_report as order_report,
    refuse_no_disc as refuse_no_disc,
)
from .task import disc_of as disc_of
