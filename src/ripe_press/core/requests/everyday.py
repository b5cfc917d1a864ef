"""Everyday words of the trade for each control: how the page's search and the command line's help find it.

The page reads them from ``web/src/api/generated/words.json``, as other tables of words.
"""

import re
from typing import NamedTuple


class Everyday(NamedTuple):
    """Words that people use, and what of the command line does it: options of press, commands, topics of help."""

    words: str
    typed: str = ""


EVERYDAY: dict[str, Everyday] = {
    "Level": Everyday(
        "normalise normalize loudness lufs gain volume louder quieter peak true peak maximise ceiling",
        "--level levels",
    ),
    "Limiter": Everyday("limit brickwall ceiling peaks dbtp", "--level levels"),
    "Gain": Everyday("volume louder quieter trim gain boost", "--level levels"),
    "High-pass": Everyday("low cut rumble filter", "--finish"),
    "Remove DC offset": Everyday("dc bias", "--finish"),
    "Rate": Everyday("sample rate resample src convert 44.1 48 96 khz", "--rate"),
    "Quality": Everyday("resampling filter src", "--quality"),
    "Channels": Everyday("mono stereo sum split left right swap", "--channels"),
    "Depth": Everyday("bit depth bits 16 24 32 float word length", "--depth"),
    "Dither": Everyday("noise shaping word length truncate", "--dither"),
    "Format": Everyday(
        "wav flac mp3 aac opus ogg alac aiff m4a codec container convert file type compress", "--format formats"
    ),
    "Bit rate": Everyday("kbps 320 kbit size quality smaller", "--kbps --mode --encoder-quality"),
    "Find smallest transparent setting": Everyday("compress size smaller bit rate ladder", "ladder"),
    "Fade in": Everyday("fade edges start", "--fade-in times"),
    "Fade out": Everyday("fade edges end", "--fade-out times"),
    "End of range": Everyday("tail ring out reverb cut crossfade fold loop seam", "--end --ring-below times"),
    "Silence before": Everyday("gap pause pad head room tone", "--silence-before --room-tone"),
    "Silence after": Everyday("gap pause pad tail room tone", "--silence-after --room-tone"),
    "Range start": Everyday("in point selection trim crop from beginning", "--from --bars --marker times"),
    "Range end": Everyday("out point selection trim crop to", "--to --bars --marker times"),
    "Trim silence": Everyday("crop cut topping tailing strip head tail", "--from --to --silence"),
    "Whole mix": Everyday("select all full entire", "--from --to"),
    "Add or suggest ranges": Everyday("region split cut chapters sections bars", "--bars --marker order"),
    "Rename range": Everyday("region name label", "--range-name"),
    "Add a marker at cursor": Everyday("cue marker point locator", "--markers markers"),
    "Markers": Everyday("cues markers chapters import export", "--markers markers --write-markers"),
    "Tempo": Everyday("bpm tap bars beats metre grid", "--tempo --metre --bar-one times"),
    "Time units": Everyday("bars beats samples timecode ruler grid", "times"),
    "Snapping": Everyday("snap grid zero crossing", "--declick"),
    "Scale of the waveform": Everyday("zoom db linear vertical"),
    "Meter and volume": Everyday("monitor loudness meter level lufs output device headphones", "measure measuring"),
    "Tag sheet": Everyday(
        "metadata title artist album id3 isrc cover artwork lyrics genre year track number",
        "--tag --tags --cover --id3 tags",
    ),
    "Label pattern": Everyday("file name rename naming template", "--name --case --spaces names"),
    "If the file exists": Everyday("overwrite replace duplicate number", "--clash"),
    "Send to": Everyday("email mail upload drop-off share deliver", "send sending"),
    "Group": Everyday("album gain link same level", "--group"),
    "Save to": Everyday("folder destination directory location output path export where", "--out"),
    "Press": Everyday("export bounce render save convert make create mixdown", "press plan"),
    "Add deliveries": Everyday("format preset output export another copy version", "--brief briefs"),
    "Sets of deliveries": Everyday("preset template usual default save load favourite profile", "--set sets"),
    "Stems and captures": Everyday(
        "multitrack parts tracks session instruments live outboard", "--stems --part stems pass"
    ),
    "Play range from cursor / stop": Everyday("listen audition preview hear space", "serve listening"),
    "Loop on/off": Everyday("repeat cycle", "--end"),
    "Play as pressed": Everyday("preview hear delivery processed mono", "serve listening"),
    "Listening desk": Everyday("compare a/b blind abx listen reference", "serve listening"),
    "Findings": Everyday("problems errors warnings issues check clipping overs", "plan measure check"),
    "Undo": Everyday("back revert"),
    "Redo": Everyday("again forward"),
    "Shelf": Everyday("import open load mixes library add file", "serve watch"),
    "Orders": Everyday(
        "running order album sequence playlist cd burn disc track list gapless ddp", "order disc running-orders"
    ),
    "Pressings": Everyday("history queue jobs exports rendered", "history again"),
    "Proof": Everyday("verify check quality compare checksum report analyse", "check compare checking"),
    "Outbox": Everyday("send upload email ftp share drop-offs deliver transfer", "send sending"),
    "Tags": Everyday("metadata id3 batch edit isrc", "--tags tags"),
    "Briefs": Everyday("presets recipients requirements spec templates", "briefs --brief"),
}


def typed_for(query: str) -> list[str]:
    """What of the command line does what a query says, the best first; nothing for unknown words."""
    wanted = query.casefold().split()
    found: dict[str, int] = {}
    for name, (words, typed) in EVERYDAY.items():
        have = re.split(r"[^\w/.-]+", f"{name} {words}".casefold())
        hits = [max((2 if one == word else one.startswith(word) for one in have), default=0) for word in wanted]
        if not hits or not all(hits):
            continue
        for at, one in enumerate(typed.split()):
            # The name itself counts most, and the first thing named of a control.
            score = 10 * sum(hits) + 5 * (query.casefold() in name.casefold()) - at
            found[one] = max(found.get(one, 0), score)
    return sorted(found, key=lambda one: -found[one])
