"""Options shared by press and plan, and the deliveries that they describe."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ripe_press.cli.speech import PATH, as_json
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import CONTAINERS
from ripe_press.core.words import quoted

if TYPE_CHECKING:
    from ripe_press.core.requests.document import Document
    from ripe_press.studio.command_line import PressJob, RangeRequest

GROUPS = {
    "Destination": ("--brief", "--set", "--out", "--ticket", "--ticket-out"),
    "Source and range": ("--from", "--to", "--bars", "--marker", "--markers", "--tempo", "--metre", "--bar-one",
                        "--range-name", "--downmix"),
    "The file": ("--format", "--rate", "--depth", "--level", "--kbps", "--mode", "--encoder-quality", "--quality",
                 "--dither", "--channels", "--finish"),
    "Start and end": ("--end", "--fade-in", "--fade-out", "--declick", "--ring-below", "--ring-limit",
                                 "--silence", "--silence-before", "--silence-after", "--room-tone"),
    "Tags": ("--tag", "--tags", "--cover", "--write-cover", "--write-markers", "--loudness-tags", "--id3"),
    "Names": ("--name", "--clash", "--digits", "--case", "--spaces"),
    "Several": ("--group", "--stems", "--part", "--align"),
    "Output": ("--json", "--quiet", "--verbose", "--help"),
}  # fmt: skip
"""Options of press and plan by heading, the most used first."""


def _briefs(_context: click.Context, _option: click.Parameter, typed: str) -> list[str]:
    from ripe_press.studio.command_line import all_briefs

    return [one["id"] for one in all_briefs() if one["id"].startswith(typed)]


def _sets(_context: click.Context, _option: click.Parameter, typed: str) -> list[str]:
    from ripe_press.studio.sets import sets_here

    return [one for one in sets_here() if one.startswith(typed)]


_FORMATS = f"One of {', '.join(CONTAINERS)}."
_SET_OUT = (
    click.argument("mixes", type=PATH, nargs=-1, required=True, metavar="MIX..."),
    click.option("--ticket", type=PATH, help="Ticket file from `plan --ticket-out`."),
    click.option(
        "--brief",
        "briefs",
        multiple=True,
        shell_complete=_briefs,
        help="Brief ID, with settings: phone-and-car:format=mp3:kbps=192. Repeatable.",
    ),
    click.option("--set", "set_name", default="", shell_complete=_sets, help="Saved set of deliveries."),
    click.option("--from", "start", default="", help="Start: 3.2, 0:03.2, 1:02:03.5, 141120smp, b17.2 or 31:45cdf."),
    click.option("--to", "end", default="", help="End, in the same forms."),
    click.option("--bars", default="", help="Bars instead of times, both included: 9..16."),
    click.option("--marker", default="", help="Markers instead of times: Verse..Outro, Verse.. or Verse."),
    click.option("--markers", "markers_file", type=PATH, help="Marker file, CSV or JSON (default: from mix)."),
    click.option("--tempo", type=click.FloatRange(10, 1000), help="Tempo, quarter notes/min (default: from mix)."),
    click.option("--metre", default="4/4", show_default=True, help="Metre."),
    click.option("--bar-one", default="", help="Start of bar 1 (default: from mix, else 0)."),
    click.option("--end", "treatment", default="cut", show_default=True, help="cut, extend:2s, ring, fold, crossfade."),
    click.option("--ring-below", type=click.FloatRange(-120, 0), help="Tail threshold in dBFS (default: −70)."),
    click.option("--ring-limit", type=click.FloatRange(0, 3600), help="Max tail in seconds (default: 30)."),
    click.option("--silence", type=click.FloatRange(-120, -20), help="Silence threshold in dBFS (default: automatic)."),
    click.option("--fade-in", default="", help="Time and curve: 0.5s, 2s:linear (equal-power, s, logarithmic)."),
    click.option("--fade-out", default="", help="Time and curve at the end."),
    click.option("--declick", type=click.FloatRange(0, 50), help="De-click fade in ms (default: 0)."),
    click.option("--range-name", "name", default="", help="Range name for file names."),
    click.option("--downmix", default="", help="Multichannel: bs775, pair 1+2, or channel 3."),
    click.option("--stems", type=PATH, help="Folder of stems, one delivery each (see --part)."),
    click.option(
        "--part", "parts", multiple=True, help="all, NAME, NAME+NAME, mix-minus:NAME, sum or mix. Repeatable."
    ),
    click.option("--align", is_flag=True, help="Align stems to the sample."),
    click.option("--silence-before", type=click.FloatRange(0, 60), help="Silence before, in seconds (default: 0)."),
    click.option("--silence-after", type=click.FloatRange(0, 60), help="Silence after, in seconds (default: 0)."),
    click.option("--room-tone", is_flag=True, help="Use room tone of the recording instead of silence."),
    click.option("--format", "container", default="", help=_FORMATS, shell_complete=lambda *_: list(CONTAINERS)),
    click.option("--mode", default="", help="Bit-rate mode: constant, average or variable."),
    click.option("--kbps", type=click.IntRange(1, 1000), help="Bit rate in kbit/s."),
    click.option(
        "--encoder-quality", type=click.IntRange(0, 10), help="Quality for a variable bit rate, 0 to 10 (best)."
    ),
    click.option("--tag", "tags", multiple=True, help="KEY=VALUE, repeatable; empty deletes."),
    click.option("--tags", "tags_file", type=PATH, help="Tag sheet, JSON or CSV (default: from mix)."),
    click.option("--cover", type=PATH, help="Cover picture, JPEG or PNG; reduced if too large."),
    click.option("--write-cover/--no-cover", default=None, help="Write the cover (default: as the brief)."),
    click.option("--write-markers/--no-markers", default=None, help="Write the markers (default: as the brief)."),
    click.option("--id3", default="", help="ID3 version, 2.3 or 2.4."),
    click.option(
        "--loudness-tags/--no-loudness-tags",
        default=None,
        help="Write ReplayGain tags, R128 in Opus (default: as the brief).",
    ),
    click.option("--name", "label_pattern", default="", help="Label pattern; / for folders: {artist}/{title}."),
    click.option("--digits", type=click.IntRange(1, 4), help="Digits of numbers in names (default: 2)."),
    click.option("--case", default="", help="Case of names: as-is, lower or upper."),
    click.option("--spaces", default="", help="Spaces of names: keep, hyphen, underscore or none."),
    click.option(
        "--clash", default="keep-both", show_default=True, help="If the file exists: keep-both, replace or skip."
    ),
    click.option("--rate", default="", help="Sample rate: keep, or Hz."),
    click.option("--quality", default="", help="Rate conversion: high or very-high."),
    click.option("--depth", default="", help="Bit depth: keep, 8, 16, 20, 24, 32, float32 or float64."),
    click.option("--dither", default="", help="auto, none, rectangular, triangular, triangular-high-pass, shaped-…."),
    click.option("--level", default="", help="leave, peak=-0.3, true-peak=-1, loudness=-14,ceiling=-1[,back-off]."),
    click.option("--channels", default="", help="stereo, split, mono, mono:-3, left, right or swapped."),
    click.option("--group", default="", help="Files in one group share one gain."),
    click.option("--finish/--no-finish", default=None, help="Apply the finishing chain (default: as the brief)."),
    as_json,
)


def with_set_out(command: Callable[..., None]) -> Callable[..., None]:
    """Add these options to a command."""
    for option in reversed(_SET_OUT):
        command = option(command)
    return command


def set_out_of(mixes: tuple[Path, ...], briefs: tuple[str, ...], typed: dict[str, Any]) -> "PressJob":
    """The deliveries that the options describe. Raises: BadInput; NotFound."""
    from ripe_press.core.requests.from_command_line import (
        OPTIONS,
        parse_briefs,
        parse_changes,
        parse_clash,
        parse_style,
        refuse_overrides,
    )
    from ripe_press.core.requests.sets import BLANK_SET, set_for
    from ripe_press.studio.command_line import StemsRequest, TagsRequest, TicketRequest, set_out
    from ripe_press.studio.sets import name_in, sets_here

    if ticket := typed.pop("ticket"):
        return _from_ticket(mixes, ticket)
    style = parse_style(typed["digits"], typed["case"], typed["spaces"])
    given = {name: typed[name] for name in OPTIONS if typed[name] not in (None, "")}
    changes = parse_changes(**given, style=style)
    set_name = typed["set_name"]
    if set_name and briefs:
        message = "Use --brief or --set, not both."
        raise BadInput("set.and-briefs", message)
    if set_name:
        sets = sets_here()
        deliveries = sets[name_in(set_name, sets)]
    else:
        deliveries = set_for(parse_briefs(briefs)) if briefs else BLANK_SET
    refuse_overrides(given, [line.brief for line in deliveries.ticket])
    sheet = TagsRequest(typed["tags"], typed["tags_file"], typed["cover"])
    stems = StemsRequest(typed["stems"], typed["parts"], typed["align"])
    ticket_wish = TicketRequest(deliveries, changes, parse_clash(typed["clash"]), typed["group"], stems)
    return set_out(mixes, _range_wish(typed), ticket_wish, sheet)


def read_ticket(path: Path) -> "Document":
    """The ticket of a file. Raises: BadInput ``ticket.unreadable``, ``document.…``."""
    from ripe_press.core.requests.document import read_document

    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        message = f"{quoted(path)} is not a ticket. Use a file from `plan --ticket-out`."
        raise BadInput("ticket.unreadable", message, path=str(path)) from error
    return read_document(text)


def _from_ticket(mixes: tuple[Path, ...], ticket: Path) -> "PressJob":
    """The deliveries of a ticket file. Options next to it would be ambiguous and are rejected."""
    from click.core import ParameterSource

    from ripe_press.studio.command_line import set_out_again

    context = click.get_current_context()
    free = ("mixes", "ticket", "out", "as_json", "ticket_out")
    typed = [
        one
        for one in context.params
        if one not in free and context.get_parameter_source(one) is ParameterSource.COMMANDLINE
    ]
    if typed:
        message = f"Options with --ticket are not allowed: {', '.join(sorted(typed))}. Change the ticket instead."
        raise BadInput("ticket.and-options", message)
    return set_out_again(mixes, read_ticket(ticket))


def _range_wish(typed: dict[str, Any]) -> "RangeRequest":
    from ripe_press.core.requests.edges import RING_BELOW_DBFS, RING_LIMIT_S, parse_end, parse_fade
    from ripe_press.studio.command_line import RangeRequest

    below, limit = typed["ring_below"], typed["ring_limit"]
    in_s, in_curve = parse_fade(typed["fade_in"] or "0")
    out_s, out_curve = parse_fade(typed["fade_out"] or "0")
    edges = replace(
        parse_end(typed["treatment"]), ring_below_dbfs=RING_BELOW_DBFS if below is None else below,
        ring_limit_s=RING_LIMIT_S if limit is None else limit, fade_in_s=in_s, fade_in_curve=in_curve,
        fade_out_s=out_s, fade_out_curve=out_curve,
        silence_before_s=typed["silence_before"] or 0.0, silence_after_s=typed["silence_after"] or 0.0,
        declick_ms=typed["declick"] or 0.0, room_tone=typed["room_tone"],
    )  # fmt: skip
    names = (
        "start", "end", "bars", "marker", "markers_file", "tempo", "metre", "bar_one", "name", "downmix", "silence",
    )  # fmt: skip
    return RangeRequest(**{name: typed[name] for name in names}, edges=edges)
