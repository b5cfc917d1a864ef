"""Modules imported and compiled in the process that workers are forked from.

To import this module is to do it. An import error here would end that process, and with it every worker; it is left to
the first job that needs the module and can report it.
"""

from contextlib import suppress

from ripe_press.core.survey import warm_up
from ripe_press.studio.planning import tasks as planning_tasks
from ripe_press.studio.pressing import tasks as pressing_tasks
from ripe_press.studio.shelf import tasks as shelf_tasks

__all__ = ["planning_tasks", "pressing_tasks", "shelf_tasks"]

with suppress(Exception):
    warm_up()
