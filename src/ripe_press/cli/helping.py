"""Help by topic, and shell completion."""

import click
from click.shell_completion import get_completion_class

from ripe_press.cli.topics import topic, topics

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
        click.echo(click.wrap_text(topic(what), width, preserve_paragraphs=True))
        return
    if isinstance(app, click.Group) and context.parent and what and (command := app.get_command(context.parent, what)):
        click.echo(command.get_help(click.Context(command, parent=context.parent, info_name=what)))
        return
    if what:
        message = f"Unknown topic or command {what!r}. Topics: {', '.join(known)}."
        raise click.UsageError(message)
    formatter = context.make_formatter()
    with formatter.section("Topics"):
        formatter.write_dl(list(known.items()))
    click.echo(formatter.getvalue(), nl=False)
    click.echo("\n`ripe-press help TOPIC` shows a topic, `ripe-press COMMAND --help` the options of a command.")


@click.command()
@click.argument("shell", type=click.Choice(SHELLS))
def completion(shell: str) -> None:
    """Print a shell completion script.

    For bash and zsh, add this to the start-up file: eval "$(ripe-press completion bash)". For fish:
    ripe-press completion fish > ~/.config/fish/completions/ripe-press.fish

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
