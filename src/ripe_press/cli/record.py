"""The record and the doctor on the command line."""

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

import click

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

if TYPE_CHECKING:
    from ripe_press.studio.data_folder import DataFolder

NUMBER = click.IntRange(1)


@click.command()
@click.argument("words", nargs=-1)
@click.option("--verdict", type=click.Choice(["ready", "look", "stop"]), help="Only those that came to this.")
@click.option("--most", type=click.IntRange(1, 10_000), default=20, show_default=True, help="So many, the newest.")
@data_option
@as_json
def record(words: tuple[str, ...], verdict: str | None, most: int, data: Path | None, as_json: bool) -> None:
    """Finds pressings by mix, file, brief, tag or checksum."""
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.looking_back import find

    found = find(data_folder(data), " ".join(words), verdict or "", most)
    if as_json:
        say_json(found)
        return
    for one in found["pressings"]:
        what = one["verdict"] or one["state"]
        failed = f" ({one['failed_count']} of {one['file_count']} files failed)" if one["failed_count"] else ""
        click.echo(f"{one['id']:>6}  {what:<9}  {one['made_at'][:16]}  {one['mix_title']}: {one['purposes']}{failed}")
        for test in one["blind_tests"]:
            click.echo(f"        X, {' or '.join(test['titles'])}: {test['sentence']}")
    click.echo(f"{found['count']} in all" if not words and not verdict else f"{found['count']} found", err=True)


@click.command()
@click.argument("what", nargs=-1, metavar="FILE...|NUMBER")
@click.option("--brief", help="Hold files, or folders of them, against a brief: its id, or a file.")
@click.option("--mix", is_flag=True, help="Hold the files of a pressing against their mix: what differs.")
@click.option("--record", "whole", is_flag=True, help="Look after all files of the record, as on a schedule.")
@data_option
@as_json
def check(what: tuple[str, ...], brief: str | None, mix: bool, whole: bool, data: Path | None, as_json: bool) -> None:
    """Holds files from anywhere against a brief; or looks whether those of a pressing are still as they were pressed.

    Exit status 1 when anything does not hold, has changed or is gone.
    """
    if brief:
        _check_files(what, brief, as_json)
        return
    if whole and not what:
        _check_record(data, as_json)
        return
    if len(what) != 1 or not what[0].isdigit():
        message = "Say which --brief the files are held against; `ripe-press briefs` lists them."
        raise click.UsageError(message)
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.looking_back import check as look

    if mix:
        _hold_files(data_folder(data), int(what[0]), as_json)
        return
    found = look(data_folder(data), int(what[0]))
    if as_json:
        say_json(found)
    else:
        for file in found["files"]:
            where = f" to {file['found_path']}" if file["found"] == "moved" else ""
            click.echo(f"{file['found']}{where}: {file['path']}")
    if any(file["found"] in ("changed", "gone") for file in found["files"]):
        raise SystemExit(1)


def _check_record(data: Path | None, as_json: bool) -> None:
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.looking_back import check_all

    found = check_all(data_folder(data), show_progress(as_json))
    if as_json:
        say_json(found)
    else:
        for file in found["files"]:
            click.echo(f"{file['found']}: {file['path']} (pressing {file['pressing']})")
        click.echo(f"{found['checked']} files looked for, {len(found['files'])} not as they were pressed", err=True)
    if found["files"]:
        raise SystemExit(1)


def _hold_files(folder: "DataFolder", number: int, as_json: bool) -> None:
    from ripe_press.studio.holding import said
    from ripe_press.studio.looking_back import hold

    found = hold(folder, number)
    if as_json:
        say_json(found)
    else:
        for line in said(found["files"]):
            click.echo(line)
    if any(file["verdict"] == "stop" for file in found["files"]):
        raise SystemExit(1)


def _check_files(what: tuple[str, ...], brief: str, as_json: bool) -> None:
    from ripe_press.studio.receiving import check_files

    found = check_files([Path(one) for one in what], brief, show_progress(as_json))
    if as_json:
        say_json(found)
    else:
        for file in found["files"]:
            held = sum(one["holds"] for one in file["checks"])
            click.echo(f"{file['verdict']:<6} {file['path']}: {held} of {len(file['checks'])} hold")
            for one in file["checks"]:
                if not one["holds"]:
                    click.echo(f"       {one['sentence']}")
        if not found["files"]:
            click.echo("There is no sound in it.", err=True)
    if any(file["verdict"] != "ready" for file in found["files"]) or not found["files"]:
        raise SystemExit(1)


@click.command()
@click.argument("then", type=NUMBER)
@click.argument("now", type=NUMBER)
@data_option
@as_json
def compare(then: int, now: int, data: Path | None, as_json: bool) -> None:
    """Holds two pressings of the record against each other."""
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.looking_back import compare as beside

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
@click.option("--out", type=PATH, required=True, help="The folder for the files; made when it is missing.")
@data_option
@as_json
def again(number: int, out: Path, data: Path | None, as_json: bool) -> None:
    """Presses once more what a pressing of the record set out, and says whether the bytes are the same."""
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.looking_back import press_again

    report = press_again(data_folder(data), number, out, show_files(as_json), stop_on_signal())
    if as_json:
        say_json(report)
        return
    for file in report["files"]:
        say_file(file, report["times_realtime"])
    if "beside" in report:
        click.echo(report["beside"]["sentence"])


def _put_back(data: Path | None, as_json: bool) -> None:
    from ripe_press.studio.data_folder import data_folder
    from ripe_press.studio.record_file import restore

    copy, aside = restore(data_folder(data))
    if as_json:
        say_json({"restored": str(copy), "damaged": str(aside) if aside else None})
        return
    click.echo(
        f"The record was put back from {copy.name!r}."
        + (f" The earlier file is kept as {str(aside)!r}." if aside else "")
    )


@click.command()
@click.option("--restore", "puts_back", is_flag=True, help="Put back the newest good copy of the record.")
@data_option
@as_json
def doctor(puts_back: bool, data: Path | None, as_json: bool) -> None:
    """Says what is missing or odd on this machine and in the data folder; changes nothing.

    Exit status 1 when something keeps Ripe Press from working.
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
            click.echo(f"{one.verdict:<6} {one.about}: {one.sentence}")
    if any(one.verdict == "stop" for one in found):
        raise SystemExit(1)
