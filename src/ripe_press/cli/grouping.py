"""Help in groups, the common options and commands first; earlier names that still work and are not shown."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import click

Command = Any
REST = "More"


class Renamed(click.Option):
    """An option with ``earlier`` names: accepted for one version, not shown in help."""

    def __init__(self, declared: Sequence[str], *, earlier: Sequence[str] = (), **more: Any) -> None:
        super().__init__([*declared, *earlier], **more)
        self._earlier = tuple(one.strip(" /") for one in earlier)

    def get_help_record(self, ctx: click.Context) -> tuple[str, str] | None:
        """Help without the earlier names."""
        every = self.opts, self.secondary_opts
        self.opts, self.secondary_opts = ([one for one in some if one not in self._earlier] for some in every)
        try:
            return super().get_help_record(ctx)
        finally:
            self.opts, self.secondary_opts = every


def renamed(*declared: str, earlier: Sequence[str], **more: Any) -> Callable[[Command], Command]:
    """Decorate a command with an option that has ``earlier`` names."""
    return click.option(*declared, cls=Renamed, earlier=earlier, **more)


class CommandsWithEarlier(click.Group):
    """Commands of which some had another name; the ``earlier`` names work and are not shown."""

    earlier: ClassVar[Mapping[str, str]] = {}

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """The command of a name, of today or earlier."""
        return super().get_command(ctx, self.earlier.get(cmd_name, cmd_name))


class GroupedCommand(click.Command):
    """A command with its options under headings; ``groups`` are names of options by their heading, in order."""

    def __init__(self, *args: Any, groups: Mapping[str, Sequence[str]], **more: Any) -> None:
        super().__init__(*args, **more)
        self._groups = groups

    def format_options(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write the headings with their options; ungrouped ones last."""
        options = [one for one in self.get_params(ctx) if isinstance(one, click.Option)]
        shown = {name: one.get_help_record(ctx) for one in options for name in one.opts}
        groups = {**self._groups}
        grouped = {name for names in groups.values() for name in names}
        groups[REST] = [one.opts[0] for one in options if not grouped.intersection(one.opts)]
        for heading, names in groups.items():
            if rows := [row for name in names if (row := shown.get(name))]:
                with formatter.section(heading):
                    formatter.write_dl(rows)


class GroupedCommands(CommandsWithEarlier):
    """Commands under headings."""

    groups: ClassVar[Mapping[str, Sequence[str]]] = {}

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write the headings with their commands; ungrouped ones last."""
        grouped = {name for names in self.groups.values() for name in names}
        groups = {**self.groups, REST: [name for name in self.list_commands(ctx) if name not in grouped]}
        limit = formatter.width - 6 - max(len(name) for name in self.commands)
        for heading, names in groups.items():
            found = [(name, one.get_short_help_str(limit)) for name in names if (one := self.get_command(ctx, name))]
            if found:
                with formatter.section(heading):
                    formatter.write_dl(found)
