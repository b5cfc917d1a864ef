"""Modules imported and compiled in the process that workers are forked from.

To import this module is to do it. An import error here would end that process, and with it every worker; it is left to
the first job that needs the module and can report it.
"""

from contextlib import suppress

from ripe_press.core.survey import warm_up
from ripe_press.studio.planning import try_codec
from ripe_press.studio.pressing import press_files
from ripe_press.studio.shelf import read_in

__all__ = ["press_files", "read_in", "try_codec"]

with suppress(Exception):
    warm_up()
