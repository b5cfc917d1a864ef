"""The history, checks and the doctor on the command line."""

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ripe_press.cli.grouping import renamed
from ripe_press.cli.speech import (
    PATH,
    as_json,
    data_option,
    say_file,
    say_json,
    show_files,
    show_progress,
    stop_on_signal,
)
from ripe_press.core.units import print_count
from ripe_press.core.words import FOUND, PRESSINGS, VERDICTS, quoted

if TYPE_CHECKING:
    from ripe_press.studio.data_folder import DataFolder

NUMBER = click.IntRange(1)


class _Verdict(click.Choice[str]):
    """A verdict by its word; its ID works, too."""

    def __init__(self) -> None:
        super().__init__([word.lower() for word in VERDICTS.values()])

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> str:
        """The ID of the verdict."""
        word = super().convert(VERDICTS.get(value, value).lower(), param, ctx)
        return next(one for one, comparison_lines in VERDICTS.items() if comparison_lines.lower() == word)


@click.command()
@click.argument("words", nargs=-1)
@click.option("--verdict", type=_Verdict(), help="Filter by verdict.")
@renamed(
    "--max", "most", earlier=["--most"], type=click.IntRange(1, 10_000), default=20, show_default=True,
    help="Max number of results.",
)  # fmt: skip
@data_option
@as_json
def history(words: tuple[str, ...], verdict: str | None, most: int, data: Path | None, as_json: bool) -> None:
    """Search the history by mix, file, brief, tag or checksum.

    \b
    Examples:
      ripe-press history
      ripe-press history Millrace --verdict review
    """
    from ripe_press.studio.command_line import find_pressings
    from ripe_press.studio.data_folder import data_folder

    found = find_pressings(data_folder(data), " ".join(words), verdict or "", most)
    if as_json:
        say_json(found)
        return
    for one in found["pressings"]:
        what = VERDICTS.get(one["verdict"] or "", "") or PRESSINGS[one["state"]].capitalize()
        failed = f" ({one['failed_count']} of {one['file_count']} files failed)" if one["failed_count"] else ""
        click.echo(f"{one['id']:>6}  {what:<11}  {one['made_at'][:16]}  {one['mix_title']}: {one['purposes']}{failed}")
        for test in one["blind_tests"]:
            click.echo(f"        X, {' or '.join(test['titles'])}: {test['sentence']}")
    click.echo(print_count(found["count"], "pressing"), err=True)


@click.command()
@click.argument("what", nargs=-1, metavar="FILE...|NUMBER")
@click.option("--brief", help="Brief ID or file to check against.")
@click.option("--mix", is_flag=True, help="Compare files with their mix.")
@renamed("--history", "whole", earlier=["--record"], is_flag=True, help="Check all files of the history.")
@data_option
@as_json
def check(what: tuple[str, ...], brief: str | None, mix: bool, whole: bool, data: Path | None, as_json: bool) -> None:
    """Check files against a brief or for changes.

    \b
    Examples:
      ripe-press check received/ --brief audio-cd
      ripe-press check 12
      ripe-press check --history
    """
    if brief:
        _check_files(what, brief, as_json)
        return
    if whole and not what:
        _check_record(data, as_json)
        return
    if len(what) != 1 or not what[0].isdigit():
        message = "Add --brief; `ripe-press briefs` lists them."
        raise click.UsageError(message)
    from ripe_press.studio.command_line import check_pressing as look
    from ripe_press.studio.data_folder import data_folder

    if mix:
        _hold_files(data_folder(data), int(what[0]), as_json)
        return
    found = look(data_folder(data), int(what[0]))
    if as_json:
        say_json(found)
    else:
        for file in found["files"]:
            where = f" to {file['found_path']}" if file["found"] == "moved" else ""
            click.echo(f"{FOUND[file['found']].capitalize()}{where}: {file['path']}")
    if any(file["found"] in ("changed", "gone") for file in found["files"]):
        raise SystemExit(1)


def _check_record(data: Path | None, as_json: bool) -> None:
    from ripe_press.studio.command_line import check_pressings
    from ripe_press.studio.data_folder import data_folder

    found = check_pressings(data_folder(data), show_progress(as_json))
    if as_json:
        say_json(found)
    else:
        for file in found["files"]:
            click.echo(f"{FOUND[file['found']].capitalize()}: {file['path']} (pressing {file['pressing']})")
        click.echo(
            f"{print_count(found['checked'], 'file')} checked, {len(found['files'])} changed or missing", err=True
        )
    if found["files"]:
        raise SystemExit(1)


def _hold_files(folder: "DataFolder", number: int, as_json: bool) -> None:
    from ripe_press.studio.command_line import compare_with_mix
    from ripe_press.studio.proof import comparison_lines

    found = compare_with_mix(folder, number)
    if as_json:
        say_json(found)
    else:
        for line in comparison_lines(found["files"]):
            click.echo(line)
    if any(file["verdict"] == "stop" for file in found["files"]):
        raise SystemExit(1)


def _check_files(what: tuple[str, ...], brief: str, as_json: bool) -> None:
    from ripe_press.scripting import check as check_received

    found = check_received(what, brief, progress=show_progress(as_json))
    if as_json:
        say_json(asdict(found))
    else:
        for file in found.files:
            held = sum(one.holds for one in file.checks)
            click.echo(f"{VERDICTS[file.verdict]:<7} {file.path}: {held} of {len(file.checks)} checks passed")
            for one in file.checks:
                if not one.holds:
                    click.echo(f"       {one.sentence}")
        if not found.files:
            click.echo("No audio files found.", err=True)
    if not found.all_ready:
        raise SystemExit(1)


@click.command()
@click.argument("then", type=NUMBER)
@click.argument("now", type=NUMBER)
@data_option
@as_json
def compare(then: int, now: int, data: Path | None, as_json: bool) -> None:
    """Compare two pressings.

    \b
    Example:
      ripe-press compare 11 12
    """
    from ripe_press.studio.command_line import compare_pressings as beside
    from ripe_press.studio.data_folder import data_folder

    found = beside(data_folder(data), then, now)
    if as_json:
        say_json(found)
        return
    click.echo(found["sentence"])
    for pair in found["pairs"]:
        click.echo(f"{pair['names'][1] or pair['names'][0]}: {pair['sentence']}")
        for what, before, after in pair["figures"]:
            click.echo(f"  {what}: {before} -> {after}")


@click.command()
@click.argument("number", type=NUMBER)
@click.option("--out", type=PATH, required=True, help="Output folder (created if missing).")
@data_option
@as_json
def again(number: int, out: Path, data: Path | None, as_json: bool) -> None:
    """Press again and compare the bytes.

    \b
    Example:
      ripe-press again 12 --out again
    """
    from ripe_press.studio.command_line import press_again
    from ripe_press.studio.data_folder import data_folder

    result, beside = press_again(data_folder(data), number, out, show_files(as_json), stop_on_signal())
    if as_json:
        say_json({**result.row, **({"beside": beside} if beside else {})})
        return
    for file in result.files:
        say_file(file, result.times_realtime or 0.0)
    if beside:
        click.echo(beside["sentence"])


def _put_back(data: Path | None, as_json: bool) -> None:
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.pressing import restore

    copy, aside = restore(data_folder(data))
    if as_json:
        say_json({"restored": str(copy), "damaged": str(aside) if aside else None})
        return
    click.echo(
        f"History restored from {quoted(copy.name)}."
        + (f" The damaged file is kept as {quoted(aside)}." if aside else "")
    )


@click.command()
@click.option("--restore", "puts_back", is_flag=True, help="Restore the last good copy of the history.")
@data_option
@as_json
def doctor(puts_back: bool, data: Path | None, as_json: bool) -> None:
    """Check this installation.

    \b
    Example:
      ripe-press doctor
    """
    if puts_back:
        _put_back(data, as_json)
        return
    from ripe_press.api.app import STATIC
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.doctor import examine

    found = examine(data_folder(data), STATIC)
    if as_json:
        say_json({"symptoms": [asdict(one) for one in found]})
    else:
        for one in found:
            click.echo(f"{VERDICTS[one.verdict]:<7} {one.rule}: {one.sentence}")
    if any(one.verdict == "stop" for one in found):
        raise SystemExit(1)
