"""Help by topic, and shell completion."""

import re

import click
from click.shell_completion import get_completion_class

from ripe_press.cli.topics import topic, topics
from ripe_press.core.requests.everyday import typed_for
from ripe_press.core.words import quoted

SHELLS = ("bash", "zsh", "fish")
_MOST_FOUND = 8
COMPLETE = "_RIPE_PRESS_COMPLETE"


@click.command(name="help")
@click.argument("words", nargs=-1, metavar="[TOPIC|COMMAND|WORD]", shell_complete=lambda *_: sorted(topics()))
def help_(words: tuple[str, ...]) -> None:
    """Show help on a topic or command, or find it by a word.

    \b
    Example:
      ripe-press help levels
      ripe-press help normalise
    """
    what = " ".join(words)
    context = click.get_current_context()
    app = context.parent.command if context.parent else None
    known = topics()
    if what in known:
        width = context.make_formatter().width
        click.echo(click.style(known[what], bold=True))
        click.echo()
        click.echo("\n\n".join(_wrapped(part, width) for part in topic(what).split("\n\n")))
        return
    if isinstance(app, click.Group) and context.parent and what and (command := app.get_command(context.parent, what)):
        click.echo(command.get_help(click.Context(command, parent=context.parent, info_name=what)))
        return
    if what and app and (rows := _found(what, app, context)):
        formatter = context.make_formatter()
        with formatter.section(f"Found for {quoted(what)}"):
            formatter.write_dl(rows)
        click.echo(formatter.getvalue(), nl=False)
        return
    if what:
        message = f"Unknown topic or command {quoted(what)}. Topics: {', '.join(known)}."
        raise click.UsageError(message)
    formatter = context.make_formatter()
    with formatter.section("Topics"):
        formatter.write_dl(list(known.items()))
    click.echo(formatter.getvalue(), nl=False)
    click.echo("\n`ripe-press help TOPIC` shows a topic, `ripe-press COMMAND --help` the options of a command.")


def _found(what: str, app: click.Command, context: click.Context) -> list[tuple[str, str]]:
    """Options of press, commands and topics that everyday words lead to, each with its line of help."""
    press = app.get_command(context, "press") if isinstance(app, click.Group) else None
    options = {one.opts[0]: one for one in press.params if isinstance(one, click.Option)} if press else {}
    named = [one for one in options if one.removeprefix("--") == what.replace(" ", "-")]
    rows = []
    for one in dict.fromkeys([*named, *typed_for(what)]):
        command = app.get_command(context, one) if isinstance(app, click.Group) else None
        if one in options:
            rows.append((f"press {one}", options[one].help or ""))
        elif command:
            rows.append((one, command.get_short_help_str(80)))
        if one in topics():
            rows.append((f"help {one}", f"Topic: {topics()[one]}"))
    return rows[:_MOST_FOUND]


def _wrapped(paragraph: str, width: int) -> str:
    """A paragraph, or a list with each item wrapped on its own."""
    items = re.split(r"\n(?=- )", paragraph)
    return "\n".join(
        click.wrap_text(" ".join(one.split()), width, subsequent_indent="  " * (one[:2] == "- ")) for one in items
    )


@click.command()
@click.argument("shell", type=click.Choice(SHELLS))
def completion(shell: str) -> None:
    """Print a shell completion script.

    For bash and zsh, add eval "$(ripe-press completion bash)" to the start-up file. For fish, save the output as
    ~/.config/fish/completions/ripe-press.fish.

    \b
    Example:
      ripe-press completion bash
    """
    context = click.get_current_context()
    found = get_completion_class(shell)
    if not found or not context.parent:
        message = f"No completion for {shell}. Use {', '.join(SHELLS)}."
        raise click.UsageError(message)
    click.echo(found(context.parent.command, {}, "ripe-press", COMPLETE).source())
