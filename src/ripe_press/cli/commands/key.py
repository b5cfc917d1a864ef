"""The signing key on the command line."""

from dataclasses import asdict
from pathlib import Path

import click

from ripe_press.cli.speech import as_json, data_option, say_json


@click.group(invoke_without_command=True)
@data_option
@as_json
@click.pass_context
def key(context: click.Context, data: Path | None, as_json: bool) -> None:
    """Show the signing key and trusted keys.

    With a key, every delivery sheet is signed. The private key never leaves the data folder.

    \b
    Examples:
      ripe-press key
      ripe-press key new --name "Weir House"
    """
    if context.invoked_subcommand:
        return
    from ripe_press.core.sheet.signature import fingerprint
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.handoff import Keys

    keys = Keys(data_folder(data).root)
    own, known = keys.own(), keys.known()
    others = {public: name for public, name in known.items() if own is None or public != own.public}
    if as_json:
        row = {**asdict(own), "fingerprint": own.fingerprint} if own else None
        say_json({"own": row, "known": [{"public": one, "name": name} for one, name in others.items()]})
        return
    if own is None:
        click.echo("No key yet. Create one with `ripe-press key new --name NAME`.")
    else:
        click.echo(
            f"{own.name}, since {own.made_at[:10]}\n  public key   {own.public}\n  fingerprint  {own.fingerprint}"
        )
    for public, name in others.items():
        click.echo(f"{name}\n  public key   {public}\n  fingerprint  {fingerprint(public)}")


@key.command()
@click.option("--name", default="", help="Owner (default: as before).")
@data_option
def new(name: str, data: Path | None) -> None:
    """Create a new key.

    The earlier key signs it, so recipients accept it.

    \b
    Example:
      ripe-press key new --name "Weir House"
    """
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.handoff import Keys

    made = Keys(data_folder(data).root).make(name)
    click.echo(f"{made.name}\n  public key   {made.public}\n  fingerprint  {made.fingerprint}")


@key.command()
@click.argument("public")
@click.option("--name", required=True, help="Owner.")
@data_option
def trust(public: str, name: str, data: Path | None) -> None:
    """Trust the public key of another studio.

    Compare the fingerprint by phone first.

    \b
    Example:
      ripe-press key trust PUBLIC --name "Weir House"
    """
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.handoff import Keys

    click.echo(f"{name}: {Keys(data_folder(data).root).trust(public, name)}")


@key.command()
@click.argument("name")
@data_option
def distrust(name: str, data: Path | None) -> None:
    """Remove the trusted keys of an owner.

    \b
    Example:
      ripe-press key distrust "Weir House"
    """
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.handoff import Keys

    Keys(data_folder(data).root).distrust(name)
