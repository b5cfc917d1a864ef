"""Options and commands in groups, the common ones first: a long list is read by its headings."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

import click

REST = "More"


class GroupedCommand(click.Command):
    """A command whose options stand under headings; ``groups`` are names of options by their heading, in order."""

    def __init__(self, *args: Any, groups: Mapping[str, Sequence[str]], **more: Any) -> None:
        super().__init__(*args, **more)
        self._groups = groups

    def format_options(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Writes the headings with their options; what stands under none comes last."""
        options = [one for one in self.get_params(ctx) if isinstance(one, click.Option)]
        shown = {name: one.get_help_record(ctx) for one in options for name in one.opts}
        groups = {**self._groups}
        told = {name for names in groups.values() for name in names}
        groups[REST] = [one.opts[0] for one in options if not told.intersection(one.opts)]
        for heading, names in groups.items():
            if rows := [row for name in names if (row := shown.get(name))]:
                with formatter.section(heading):
                    formatter.write_dl(rows)


class GroupedCommands(click.Group):
    """Commands under headings."""

    groups: ClassVar[Mapping[str, Sequence[str]]] = {}

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Writes the headings with their commands; what stands under none comes last."""
        told = {name for names in self.groups.values() for name in names}
        groups = {**self.groups, REST: [name for name in self.list_commands(ctx) if name not in told]}
        limit = formatter.width - 6 - max(len(name) for name in self.commands)
        for heading, names in groups.items():
            found = [(name, one.get_short_help_str(limit)) for name in names if (one := self.get_command(ctx, name))]
            if found:
                with formatter.section(heading):
                    formatter.write_dl(found)
