"""Help by topic, and shell completion."""

import re

import click
from click.shell_completion import get_completion_class

from ripe_press.cli.topics import topic, topics
from ripe_press.core.words import quoted

SHELLS = ("bash", "zsh", "fish")
COMPLETE = "_RIPE_PRESS_COMPLETE"


@click.command(name="help")
@click.argument("what", default="", metavar="[TOPIC|COMMAND]", shell_complete=lambda *_: sorted(topics()))
def help_(what: str) -> None:
    """Show help on a topic or command.

    \b
    Example:
      ripe-press help levels
    """
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
    if what:
        message = f"Unknown topic or command {quoted(what)}. Topics: {', '.join(known)}."
        raise click.UsageError(message)
    formatter = context.make_formatter()
    with formatter.section("Topics"):
        formatter.write_dl(list(known.items()))
    click.echo(formatter.getvalue(), nl=False)
    click.echo("\n`ripe-press help TOPIC` shows a topic, `ripe-press COMMAND --help` the options of a command.")


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
