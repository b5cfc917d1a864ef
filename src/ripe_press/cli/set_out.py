"""What press and plan share: every option by which something is set out, and what it means."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ripe_press.cli.speech import PATH, as_json
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import CONTAINERS

if TYPE_CHECKING:
    from ripe_press.core.wishes.document import Document
    from ripe_press.studio.press_now import SetOut
    from ripe_press.studio.typed import RangeWish

GROUPS = {
    "Where it is going": ("--brief", "--out", "--ticket", "--ticket-out"),
    "What of the mix": ("--from", "--to", "--bars", "--marker", "--markers", "--tempo", "--metre", "--bar-one",
                        "--range-name", "--downmix"),
    "The file": ("--format", "--rate", "--depth", "--level", "--kbps", "--mode", "--encoder-quality", "--quality",
                 "--dither", "--channels", "--finish"),
    "Where it begins and ends": ("--end", "--fade-in", "--fade-out", "--declick", "--ring-below", "--ring-limit",
                                 "--silence", "--silence-before", "--silence-after", "--room-tone"),
    "Tags": ("--tag", "--tags", "--cover", "--write-cover", "--write-markers", "--loudness-tags", "--id3"),
    "Names": ("--name", "--clash", "--digits", "--case", "--spaces"),
    "Several": ("--group", "--stems", "--part", "--align"),
    "How it is told": ("--json", "--quiet", "--verbose", "--help"),
}  # fmt: skip
"""Options of press and plan under their headings, what most people want first."""


def _briefs(_context: click.Context, _option: click.Parameter, typed: str) -> list[str]:
    from ripe_press.studio.press_now import all_briefs

    return [one["id"] for one in all_briefs() if one["id"].startswith(typed)]


_FORMATS = f"One of {', '.join(CONTAINERS)}."
_SET_OUT = (
    click.argument("mixes", type=PATH, nargs=-1, required=True, metavar="MIX..."),
    click.option("--ticket", type=PATH, help="Everything that is set out, as a file; see `plan --ticket-out`."),
    click.option(
        "--brief",
        "briefs",
        multiple=True,
        shell_complete=_briefs,
        help="Where it is going; again for more files. See `briefs`.",
    ),
    click.option("--from", "start", default="", help="Start: 3.2, 0:03.2, 1:02:03.5, 141120smp, b17.2 or 31:45cdf."),
    click.option("--to", "end", default="", help="End, in the same forms."),
    click.option("--bars", default="", help="Bars instead of times, both included: 9..16."),
    click.option("--marker", default="", help="From marker to marker: Verse..Outro, Verse.. to the end, or Verse."),
    click.option("--markers", "markers_file", type=PATH, help="Markers as CSV or JSON; otherwise those in the mix."),
    click.option("--tempo", type=click.FloatRange(10, 1000), help="Tempo, quarter notes/min (default: from mix)."),
    click.option("--metre", default="4/4", show_default=True, help="Beats and their note value, for bars."),
    click.option("--bar-one", default="", help="Where bar 1 begins; otherwise at the start, or as the mix has it."),
    click.option("--end", "treatment", default="cut", show_default=True, help="cut, extend:2s, ring, fold, crossfade."),
    click.option("--ring-below", type=click.FloatRange(-120, 0), help="Where a tail has rung out, in dBFS; -70."),
    click.option("--ring-limit", type=click.FloatRange(0, 3600), help="Seconds that it rings at most; 30."),
    click.option("--silence", type=click.FloatRange(-120, -20), help="What counts as silence, in dBFS (automatic)."),
    click.option("--fade-in", default="", help="Seconds and curve: 0.5s, 2s:linear (equal-power, s, logarithmic)."),
    click.option("--fade-out", default="", help="The same at the end."),
    click.option("--declick", type=click.FloatRange(0, 50), default=0.0, help="Milliseconds of fade against clicks."),
    click.option("--range-name", "name", default="", help="What the range is called, for the file's name."),
    click.option("--downmix", default="", help="Of more than two channels: bs775 folds down, 1+2 is a pair, 3 is one."),
    click.option("--stems", type=PATH, help="A folder of stems beside the mix; each is a delivery, or see --part."),
    click.option("--part", "parts", multiple=True, help="all, NAME, NAME+NAME, mix-minus:NAME, sum or mix; again."),
    click.option("--align", is_flag=True, help="Move stems that lie late or early into place, to the sample."),
    click.option("--silence-before", type=click.FloatRange(0, 60), default=0.0, help="Seconds of silence before it."),
    click.option("--silence-after", type=click.FloatRange(0, 60), default=0.0, help="Seconds of silence after it."),
    click.option("--room-tone", is_flag=True, help="Make that silence of the recording's own room tone."),
    click.option("--format", "container", default="", help=_FORMATS, shell_complete=lambda *_: list(CONTAINERS)),
    click.option("--mode", default="", help="Bit rate of a lossy format: constant, average or variable."),
    click.option("--kbps", type=click.IntRange(1, 1000), help="Its bit rate in kbit/s."),
    click.option("--encoder-quality", type=click.IntRange(0, 10), help="With a variable bit rate: 0 to 10, the best."),
    click.option("--tag", "tags", multiple=True, help="KEY=VALUE, again for more; no value takes a field away."),
    click.option("--tags", "tags_file", type=PATH, help="The tag sheet as JSON or CSV; otherwise the mix's own."),
    click.option("--cover", type=PATH, help="The cover picture, JPEG or PNG; made smaller when it is too large."),
    click.option("--write-cover/--no-cover", default=None, help="Whether the files carry the cover."),
    click.option("--write-markers/--no-markers", default=None, help="Whether the files carry the markers."),
    click.option("--id3", default="", help="2.3 or 2.4, where tags are ID3."),
    click.option("--loudness-tags/--no-loudness-tags", default=None, help="ReplayGain, or R128 in Opus, for players."),
    click.option("--name", "label_pattern", default="", help="Label pattern; slashes part folders: {artist}/{title}."),
    click.option("--digits", type=click.IntRange(1, 4), help="Digits of numbers in names; two."),
    click.option("--case", default="", help="Letters of names: as-is, lower or upper."),
    click.option("--spaces", default="", help="Spaces of names: keep, hyphen, underscore or none."),
    click.option("--clash", default="keep-both", show_default=True, help="Name taken: keep-both, replace, skip."),
    click.option("--rate", default="", help="keep, or a rate in Hz."),
    click.option("--quality", default="", help="Of the conversion: high or very-high."),
    click.option("--depth", default="", help="keep, 8, 16, 20, 24, 32, float32 or float64."),
    click.option("--dither", default="", help="auto, none, rectangular, triangular, triangular-high-pass, shaped-…"),
    click.option("--level", default="", help="leave, peak=-0.3, true-peak=-1, loudness=-14,ceiling=-1 (,back-off)."),
    click.option("--channels", default="", help="stereo, split, mono, mono:-3, left, right or swapped."),
    click.option("--group", default="", help="Files of one group get the same gain, whatever mix they are of."),
    click.option("--finish/--no-finish", default=None, help="Take the mix's finishing chain, or leave it out."),
    as_json,
)


def with_set_out(command: Callable[..., None]) -> Callable[..., None]:
    """Gives a command all of them."""
    for option in reversed(_SET_OUT):
        command = option(command)
    return command


def set_out_of(mixes: tuple[Path, ...], briefs: tuple[str, ...], typed: dict[str, Any]) -> "SetOut":
    """What was typed, as it is pressed. Raises: BadInput; NotFound."""
    from ripe_press.core.wishes.typed import parse_changes, parse_clash, parse_style
    from ripe_press.studio.typed import SheetWish, TicketWish, set_out
    from ripe_press.studio.typed_stems import StemsWish

    if ticket := typed.pop("ticket"):
        return _from_ticket(mixes, ticket)
    names = (
        "rate", "quality", "depth", "dither", "level", "channels", "finish", "container", "mode", "kbps",
        "label_pattern", "gain_tags", "cover", "markers",
    )  # fmt: skip
    named = {"gain_tags": "loudness_tags", "cover": "write_cover", "markers": "write_markers"}
    changes = parse_changes(
        **{name: typed[named.get(name, name)] for name in names}, coding_quality=typed["encoder_quality"],
        style=parse_style(typed["digits"], typed["case"], typed["spaces"]), id3_version=typed["id3"],
    )  # fmt: skip
    sheet = SheetWish(typed["tags"], typed["tags_file"], typed["cover"])
    stems = StemsWish(typed["stems"], typed["parts"], typed["align"])
    ticket_wish = TicketWish(changes, parse_clash(typed["clash"]), typed["group"], stems)
    return set_out(mixes, tuple(dict.fromkeys(briefs)), _range_wish(typed), ticket_wish, sheet)


def read_ticket(path: Path) -> "Document":
    """Everything that is set out in a file. Raises: BadInput ``ticket.unreadable``, ``document.…``."""
    from ripe_press.core.wishes.document import read_document

    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        message = f"The ticket {str(path)!r} cannot be read as text."
        raise BadInput("ticket.unreadable", message, path=str(path)) from error
    return read_document(text)


def _from_ticket(mixes: tuple[Path, ...], ticket: Path) -> "SetOut":
    """The wishes of a file. What is typed beside it would have to win or lose: it is refused."""
    from click.core import ParameterSource

    from ripe_press.studio.typed import set_out_again

    context = click.get_current_context()
    free = ("mixes", "ticket", "out", "as_json", "ticket_out")
    typed = [
        one
        for one in context.params
        if one not in free and context.get_parameter_source(one) is ParameterSource.COMMANDLINE
    ]
    if typed:
        message = f"A ticket says everything; take out {', '.join(sorted(typed))}, or change it in the ticket."
        raise BadInput("ticket.and-options", message)
    return set_out_again(mixes, read_ticket(ticket))


def _range_wish(typed: dict[str, Any]) -> "RangeWish":
    from ripe_press.core.wishes.edges import RING_BELOW_DBFS, RING_LIMIT_S, parse_end, parse_fade
    from ripe_press.studio.typed import RangeWish

    below, limit = typed["ring_below"], typed["ring_limit"]
    in_s, in_curve = parse_fade(typed["fade_in"] or "0")
    out_s, out_curve = parse_fade(typed["fade_out"] or "0")
    edges = replace(
        parse_end(typed["treatment"]), ring_below_dbfs=RING_BELOW_DBFS if below is None else below,
        ring_limit_s=RING_LIMIT_S if limit is None else limit, fade_in_s=in_s, fade_in_curve=in_curve,
        fade_out_s=out_s, fade_out_curve=out_curve,
        silence_before_s=typed["silence_before"], silence_after_s=typed["silence_after"],
        declick_ms=typed["declick"], room_tone=typed["room_tone"],
    )  # fmt: skip
    names = (
        "start", "end", "bars", "marker", "markers_file", "tempo", "metre", "bar_one", "name", "downmix", "silence",
    )  # fmt: skip
    return RangeWish(**{name: typed[name] for name in names}, edges=edges)
