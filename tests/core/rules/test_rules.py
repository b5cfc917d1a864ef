"""Every rule: once where it speaks, once where it stays quiet, all of them in one table."""

from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import pytest
from PIL import Image

from ripe_press.core import stations as st
from ripe_press.core.briefs.library import BLANK, brief_of
from ripe_press.core.engine.edges import EdgeLevels
from ripe_press.core.engine.levels import Shortfall
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.clipping import ClippedRun, ClippingResult
from ripe_press.core.measure.places.seam import Seam
from ripe_press.core.measure.places.speech import Speech
from ripe_press.core.measure.places.tail import Tail
from ripe_press.core.measure.places.tempo import TempoFound
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.naming import FilePlace
from ripe_press.core.proof.read_back import Proof
from ripe_press.core.requests.brief import Requirements
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import Edges, Stretch
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.requests.notes import MixNotes
from ripe_press.core.rules.case import Case, Expected, RangeMeasures, range_measures
from ripe_press.core.rules.findings import Check, Finding, Remedy, worst
from ripe_press.core.rules.registry import IDS, RULES, judge
from ripe_press.core.rules.turned_down import USUAL_DBTP
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.core.sending.parcel import Reason, ReasonKind, Refusal, Sends
from ripe_press.core.signal.fade import Fade
from ripe_press.core.stations.report import PathReport, Reduction, StationPeak
from ripe_press.core.stations.size.forecast import Forecast, known_size
from ripe_press.core.tags.embedded import Embedded
from ripe_press.core.tags.sheet import FileTags
from support.formats import SHEET
from support.press import delivery_of, files_for

FACTS = SourceFacts("/mix.wav", "wav", "pcm-float", 96_000, 2, 960_000, 32)
CHAIN = st.Finish(gain_db=-3.0)
CLEAN = RangeMeasures(0, None, 0, None)
PLACE = Path("/pressed/Millrace.wav")


def case(*, chain: st.Finish = st.NO_FINISH, tags: FileTags | None = None, **wish: Any) -> Case:
    """A file of a mix at 96 kHz in float: 16-bit WAV at the same rate unless something else is wished for."""
    made = delivery_of(FACTS, **{"encoding": "keep" if "container" in wish else "s16", **wish})
    (file, *_) = files_for(made, FACTS, finish=chain, notes=MixNotes())
    path = replace(file.path, tags=st.Tags(tags)) if tags else file.path
    return Case(path, file.path, file.wish, BLANK, chain, CLEAN)


def read_back(asked: Case, **found: Any) -> Case:
    """The case once its file is on the disk, as requested except for the given values."""
    codec = asked.path.codec
    kind = "pcm" if codec.encoding == "s16" else "mp3"
    depth = None if codec.lossy else 16
    proof = Proof("wav", kind, codec.rate_hz, depth, codec.channels, codec.frames, 100, "", -6.0, -5.9, -14.0)
    return replace(asked, proof=replace(proof, **{"embedded": Embedded(), **found}), seen=PathReport())


def measured(**more: Any) -> Case:
    return replace(case(), measures=replace(CLEAN, **more))


def wished(asked: Case, **more: Any) -> Case:
    return replace(asked, wish=replace(asked.wish, **more))


def followed(tail: Tail, end: str = "stop") -> Case:
    """A range with something behind its end, which is at −38 dBFS."""
    ring = 96_000 if end != "stop" else 0
    stretch = Stretch(0, 960_000, Edges(end), ring, tail=tail)  # type: ignore[arg-type]
    made = wished(measured(edges=EdgeLevels(-90.0, -20.0, -38.0, -38.5 if not ring else -90.0)), stretch=stretch)
    return replace(made, path=replace(made.path, cut=replace(made.path.cut, tail_frames=ring)))


def looped(bars_s: float) -> Case:
    """Ten seconds for a brief that wants whole bars."""
    return wished(briefed(case(), whole_bars=True), tempo="84bpm", bars="1-4", bars_s=bars_s)


def seamed(seam: Seam) -> Case:
    """A loop that was pressed and read back."""
    return read_back(looped(10.0), seam=seam)


def clipped(kind: str, dbfs: float) -> Case:
    """A file with one clipped sample, where one station raised the peak."""
    peaks = (StationPeak("finish", -3.0), StationPeak(kind, dbfs))
    return replace(read_back(case()), seen=PathReport(clipped_samples=1, peaks=peaks))


def spoken(**found: float) -> Case:
    """A chapter that meets the platforms' limits except for the given values."""
    require = replace(
        Requirements(), rms_dbfs=(-23.0, -18.0), noise_max_dbfs=-60.0, head_s=(0.5, 1.0), tail_s=(1.0, 5.0)
    )
    good = Speech(-20.0, -65.0, 0.75, 2.0)
    return replace(case(), brief=replace(BLANK, require=require), speech=replace(good, **found))


def leveled(**more: Any) -> Case:
    return replace(case(level=LevelRequest("loudness", -9.0)), **more)


def briefed(asked: Case, **require: Any) -> Case:
    return replace(asked, brief=replace(BLANK, require=Requirements(**require)))


def asdict_of(changes: Changes) -> dict[str, Any]:
    return {one.name: getattr(changes, one.name) for one in fields(changes)}


def refused(asked: Case, kind: ReasonKind, *words: str) -> Case:
    refusal = Refusal("Headrace", Reason(kind, "This desk wants it otherwise.", words))
    return replace(asked, sends=Sends(refusals=(refusal,)))


def mailed(size: int, limit: int, **wish: Any) -> Case:
    box = DropOff("Mill Lane", "mail", "in@weir.example", limit_bytes=limit)
    return replace(case(**wish), expected=Expected(size=known_size(size)), sends=Sends((box,)))


def summed(loss_db: float) -> Case:
    return replace(case(channels="mono"), mono_loss_db=loss_db)


def limited(by_db: float) -> Case:
    import numpy as np

    return replace(read_back(case()), seen=PathReport(reductions=(Reduction(96_000, np.array([0.0, by_db])),)))


def sized(container: str, size: int) -> Case:
    return replace(case(container=container), expected=Expected(size=known_size(size)))


def picture(size: tuple[int, int], folder: Path) -> str:
    path = folder / f"{size[0]}.png"
    Image.new("RGB", size).save(path)
    return str(path)


QUIET_SIGNAL = SignalResult(-6.0, -5.9, -20.0)
LOUD = SignalResult(-0.1, 0.3, -20.0)
PEAKS = Expected(sample_peak_dbfs=1.2, true_peak_dbtp=1.3, integrated_lufs=-9.0)
QUIET = Expected(sample_peak_dbfs=-3.0, true_peak_dbtp=-2.0, integrated_lufs=-14.0)
SPEAKS: dict[str, tuple[Case, Case, str]] = {
    "file_reads_back": (read_back(case(), unreadable="It is cut short."), read_back(case()), "Cannot read the"),
    "rate_as_asked": (read_back(case(), rate_hz=48_000), read_back(case()), "48 kHz, expected 96 kHz"),
    "channels_as_asked": (read_back(case(), channels=1), read_back(case()), "1 channel, expected 2 channels"),
    "depth_as_asked": (read_back(case(), bit_depth=24), read_back(case()), "24 bits pcm, expected 16 bits pcm"),
    "codec_as_asked": (
        read_back(case(container="mp3", rate_hz=44_100), codec="aac"),
        read_back(case(container="mp3", rate_hz=44_100)), "aac, expected mp3",
    ),
    "frames_as_asked": (read_back(case(), frames=99), read_back(case()), "99 samples, expected 960,000 samples"),
    "samples_as_they_came": (
        replace(read_back(case(), fingerprint="0"), seen=PathReport(fingerprint="1")),
        replace(read_back(case(), fingerprint="1"), seen=PathReport(fingerprint="1")), "Not bit-exact",
    ),
    "level_as_asked": (
        read_back(case(level=LevelRequest("peak", -3.0))), read_back(case(level=LevelRequest("peak", -6.0))),
        "Sample peak is −6.0 dBFS, target −3.0 dBFS",
    ),
    "ceiling_held": (
        read_back(case(level=LevelRequest("loudness", -14.0, -9.0))),
        read_back(case(level=LevelRequest("loudness", -14.0, -1.0))), "−5.9 dBTP exceeds the −9.0 dBTP ceiling",
    ),
    "tags_read_back": (
        read_back(case(tags=FileTags((("title", "Millrace"),)))),
        read_back(case(tags=FileTags((("title", "Millrace"),))), embedded=Embedded((("title", "Millrace"),))),
        "differ after writing: title",
    ),
    "size_as_forecast": (
        replace(read_back(case()), forecast=known_size(101)), replace(read_back(case()), forecast=known_size(100)),
        "100 bytes, estimated 101",
    ),
    "size_beside_forecast": (
        replace(read_back(case()), forecast=Forecast(0, 80, "trial")),
        replace(read_back(case()), forecast=Forecast(0, 100, "trial")), "20.0 % off",
    ),
    "channels_unheard": (replace(case(), channels_unheard=6), case(), "6 unlabelled channels"),
    "samples_over_full_scale": (
        measured(overs=3, first_over_frame=48_000, clipped_samples=3),
        replace(case(encoding="f32"), measures=replace(CLEAN, overs=3)), "3 samples over full scale, first at 0:00.50",
    ),
    "clipped_in_the_mix": (
        measured(clipped_samples=12, first_clipped_frame=96_000), measured(), "12 clipped samples in the mix",
    ),
    "range_is_silent": (measured(sounding=False), measured(), "Range is silent"),
    "end_cuts_sound": (
        followed(Tail("tail", 2.4)), measured(edges=EdgeLevels(-90.0, -20.0, -38.0, -38.5)),
        "Tail cut off at 0:10.000, at −38.0 dBFS. Ring out adds 2.4 s.",
    ),
    "tail_is_music": (
        followed(Tail("music"), end="fold"), followed(Tail("tail", 2.0), end="ring"),
        "Choose Cut, a fade out or Crossfade",
    ),
    "tail_unsure": (
        followed(Tail("unsure", 2.0), end="ring"), followed(Tail("tail", 2.0), end="ring"), "tail or music",
    ),
    "loop_tempo": (
        replace(briefed(case(), whole_bars=True), tempo_found=TempoFound(84.0, 0.8, 0.5)), case(),
        "84 bpm (confidence 0.80)",
    ),
    "loop_length": (looped(bars_s=9.0), looped(bars_s=10.0), "96,000 samples too long for bars 1-4 at 84bpm"),
    "loop_seam": (
        seamed(Seam(9.0, 1.0, 0.0, 0.0)), seamed(Seam(0.2, 0.9, 1.0, -1.0)), "clicks at its seam",
    ),
    "part_to_choose": (
        wished(case(), stretch=Stretch(0, 960_000, shortened=True, loudest=(96_000, 960_000))), case(),
        "The loudest part begins at 0:01.0",
    ),
    "start_on_bar": (
        wished(case(), stretch=Stretch(48_000, 960_000, moved_frames=9_600)), case(), "Start moved from 0:00.600 to",
    ),
    "start_cuts_sound": (
        measured(edges=EdgeLevels(-20.0, -21.0, -80.0, -90.0)), measured(edges=EdgeLevels(-80.0, -21.0, -80.0, -90.0)),
        "Starts mid-sound",
    ),
    "dead_air": (measured(head_silence_frames=96_000), measured(head_silence_frames=40_000), "1.0 s at the start"),
    "clipped_by_conversion": (
        clipped("rate", 0.4), read_back(case()), "1 sample clipped: rate conversion raised the peak to +0.4 dBFS.",
    ),
    "clipped_by_edges": (clipped("range", 6.9), clipped("rate", 6.9), "Lower the level by 7.0 dB"),
    "clipped_by_channels": (clipped("channels", 2.0), clipped("level", 2.0), "the mono sum raised the peak"),
    "finish_left_out": (case(chain=CHAIN, finish=False), case(chain=CHAIN), "Finishing chain not applied"),
    "mono_cancels": (summed(-9.0), summed(-1.0), "loses 9.0 dB"),
    "rounded_without_dither": (case(dither="none"), case(), "16 bits without dither"),
    "clips_as_set_out": (
        replace(case(chain=CHAIN), expected=PEAKS), replace(case(), expected=PEAKS), "reach +1.2 dBFS",
    ),
    "turned_down": (
        replace(case(level=LevelRequest("true-peak", -1.0)), signal=SignalResult(5.9, 6.1, -9.0)),
        replace(case(level=LevelRequest("true-peak", -1.0)), signal=QUIET_SIGNAL),
        "Lowered by 7.1 dB: the mix peaks 6.1 dB over",
    ),
    "brief_rms": (spoken(rms_dbfs=-26.0), spoken(), "requires RMS −23.0 dBFS to −18.0 dBFS; this file: −26.0 dBFS"),
    "brief_noise": (spoken(noise_dbfs=-44.0), spoken(), "this file: −44.0 dBFS. Record it again"),
    "brief_head": (spoken(head_s=0.1), spoken(), "0.5 to 1 s of room tone before the speech; this file: 0.10 s"),
    "brief_tail": (spoken(tail_s=7.0), spoken(), "1 to 5 s of room tone after the speech"),
    "brief_steady": (
        briefed(case(container="mp3", rate_hz=44_100, mode="variable"), constant_bit_rate=True),
        briefed(case(container="mp3", rate_hz=44_100, mode="constant"), constant_bit_rate=True), "this file: variable",
    ),
    "limited_hard": (limited(-8.0), limited(-2.0), "8.0 dB of gain reduction"),
    "loudness_out_of_reach": (
        leveled(shortfall=Shortfall(-9.0, -10.04, "won")), leveled(signal=replace(LOUD, integrated_lufs=-12.0)),
        "maximum −10.1 LUFS",
    ),
    "name_twice": (replace(case(), placed=FilePlace(PLACE, "ticket")), replace(case(), placed=FilePlace(PLACE, "disk")),
                   "Same name"),
    "name_skipped": (replace(case(), placed=FilePlace(PLACE, "disk", skipped=True)),
                     replace(case(), placed=FilePlace(PLACE)), "exists; skipped"),
    "name_replaced": (replace(case(), placed=FilePlace(PLACE, "disk", replaces=True)),
                      replace(case(), placed=FilePlace(PLACE)), "will be replaced"),
    "becomes_rf64": (sized("wav", 2**32), sized("caf", 2**33), "Over 4 GiB"),
    "past_two_gib": (sized("wav", 2**31 + 1), sized("wav", 2**31), "2.0 GiB"),
    "played_by_few": (case(container="aac"), case(container="flac"), "AAC in MP4 at 96 kHz"),
    "float_over_full_scale": (
        replace(case(encoding="f32"), expected=PEAKS), replace(case(), expected=PEAKS), "Peak +1.2 dBFS clips",
    ),
    "will_clip_when_decoded": (
        replace(case(container="aac"), expected=PEAKS), replace(case(container="aac"), expected=QUIET),
        "True peak +1.3 dBTP; encoding adds more",
    ),
    "clips_when_decoded": (
        replace(read_back(case(container="aac")), expected=PEAKS),
        replace(read_back(case(container="aac")), expected=QUIET), "by 1.4 dB",
    ),
    "brief_container": (briefed(case(), containers=("flac", "alac")), briefed(case(), containers=("wav",)),
                        "Blank requires FLAC or ALAC in MP4; this file: WAV."),
    "brief_depth": (briefed(case(), encodings=("s24",)), briefed(case(), encodings=("s16",)), "24 bits; this file: 16"),
    "brief_bit_rate": (briefed(case(container="aac", kbps=128), kbps_min=256),
                       briefed(case(container="aac", kbps=256), kbps_min=256), "min 256 kbit/s; this file: 128"),
    "brief_rate": (briefed(case(), rates_hz=(44_100, 48_000)), briefed(case(), rates_hz=(96_000,)),
                   "requires 44.1 kHz, 48 kHz; this file: 96 kHz"),
    "brief_channels": (briefed(case(), channels=(1,)), briefed(case(), channels=(1, 2)), "1 channel; this file: 2"),
    "brief_sample_peak": (briefed(replace(case(), expected=PEAKS), sample_peak_max_dbfs=0.0),
                          briefed(replace(case(), expected=QUIET), sample_peak_max_dbfs=0.0), "this file: +1.2 dBFS"),
    "brief_true_peak": (briefed(replace(case(), expected=PEAKS), true_peak_max_dbtp=-1.0),
                        briefed(replace(case(), expected=QUIET), true_peak_max_dbtp=-1.0), "up to −1.0 dBTP"),
    "brief_loudness": (briefed(replace(case(), expected=PEAKS), loudness_lufs=(-15.0, -13.0)),
                       briefed(replace(case(), expected=QUIET), loudness_lufs=(-15.0, -13.0)), "this file: −9.0 LUFS"),
    "brief_size": (briefed(sized("wav", 20_000_000), bytes_max=10_000_000),
                   briefed(sized("wav", 9_000_000), bytes_max=10_000_000), "Over the 10.0 MB limit"),
    "brief_length": (briefed(case(), seconds_max=9.0), briefed(case(), seconds_max=10.0),
                     "requires max 9 s; this file: 10.00 s"),
    "brief_needs_tag": (replace(case(), brief=brief_of("distributor")),
                        replace(case(tags=FileTags(SHEET)), brief=brief_of("distributor")),
                        "Distributor requires title. Add it to the tag sheet."),
    "brief_tag_without_place": (
        replace(case(container="caf", tags=FileTags(SHEET, "x.png")), brief=replace(BLANK, tags=("cover",))),
        replace(case(container="flac", tags=FileTags(SHEET)), brief=replace(BLANK, tags=("title",))),
        "CAF cannot store",
    ),
    "tag_written_wrongly": (case(tags=FileTags((("language", "en1"),))),
                            case(tags=FileTags((("language", "eng"),))), "is not a language code"),
    "cover_missing": (case(container="video"), case(container="aac"), "black picture"),
    "cover_unreadable": (case(container="aac", tags=FileTags((), "/nowhere.png")), case(container="aac"),
                         "Choose it again"),
    "drop_off_unknown": (replace(case(), sends=Sends(missing=("Weir",))), replace(case(), sends=Sends()), "“Weir”"),
    "mail_too_large": (mailed(8_000_000, 10_000_000), mailed(7_000_000, 10_000_000), "Use AAC in MP4 at"),
    "refused_by_recipient": (refused(case(), "rate", "44100", "48000"), refused(case(), "rate", "96000"),
                             "Headrace rejected the file: This desk wants it otherwise."),
}  # fmt: skip


@pytest.mark.parametrize("rule", list(SPEAKS))
def test_every_rule_speaks_and_stays_quiet(rule: str) -> None:
    loud, quiet, words = SPEAKS[rule]

    def found(one: Case) -> list[Finding]:
        found, checks = judge(one, "after" if one.proof else "before")
        assert {finding.rule for finding in (*found, *checks)} <= IDS
        return [finding for finding in found if finding.rule == rule]

    said, *_ = found(loud)
    assert words in said.sentence
    assert said.sentence.endswith((".", "?"))
    assert found(quiet) == []


def test_no_id_is_without_a_case() -> None:
    # Those that hold a file against its mix have wrong files of their own: `tests/core/proof/test_wrong_files.py`.
    against = {
        "same_source", "starts_as_asked", "sides_as_asked", "polarity_kept", "level_kept", "nothing_dropped",
        "tops_kept", "noise_as_meant", "samples_as_made", "difference_heard",
    }  # fmt: skip
    by_hand = {"cover_not_square", "bit_rate_as_set", "backed_off"} | against
    assert IDS - set(SPEAKS) == by_hand and not set(SPEAKS) - IDS
    assert all(rule.speaks and rule.__doc__ for rule in RULES)


def test_a_clean_file_is_ready_before_and_after() -> None:
    assert judge(case(), "before") == ((), ())
    findings, checks = judge(read_back(case()), "after")
    assert findings == ()
    assert [one.rule for one in checks] == ["rate_as_asked", "channels_as_asked", "depth_as_asked", "frames_as_asked"]


def test_passed_check_has_the_id_of_its_rule() -> None:
    lossy = read_back(
        case(container="mp3", rate_hz=44_100, level=LevelRequest("peak", -9.0, back_off=True)), bytes=401_000
    )
    _, checks = judge(replace(lossy, backed_off_db=0.4), "after")
    told = {one.rule: one.found for one in checks}
    assert told["backed_off"] == "lowered by 0.4 dB; decoded peak below −9.0 dBTP"
    assert told["bit_rate_as_set"].endswith("set to 320 kbit/s constant")
    _, checks = judge(replace(read_back(case()), forecast=known_size(100)), "after")
    assert Check("size_as_forecast", "Size", "100 bytes, exactly as estimated") in checks


def test_covers_are_looked_at(tmp_path: Path) -> None:
    def rules(container: str, size: tuple[int, int]) -> list[str]:
        asked = case(container=container, tags=FileTags((), picture(size, tmp_path)))
        return [one.rule for one in judge(asked, "before")[0] if one.field == "cover"]

    assert rules("flac", (120, 80)) == ["cover_not_square"]
    assert rules("flac", (80, 80)) == []
    assert rules("video", (120, 80)) == []


def test_a_bit_exact_copy_of_a_whole_mix_keeps_its_silence() -> None:
    quiet = SPEAKS["dead_air"][0]
    exact = replace(quiet, path=replace(quiet.path, codec=replace(quiet.path.codec, exact=True)))
    assert judge(exact, "before")[0] == ()
    part = replace(exact, path=replace(exact.path, cut=replace(exact.path.cut, start_frame=1)))
    assert [one.rule for one in judge(part, "before")[0]] == ["dead_air"]


def test_remedies_clear_their_finding() -> None:
    cut_off = SPEAKS["end_cuts_sound"][0]
    ((found,), _) = judge(cut_off, "before")
    assert found.remedy == Remedy("Ring out", end="ring")
    faded = replace(cut_off.path, cut=replace(cut_off.path.cut, fade_out=Fade(48_000, "s")))
    assert judge(replace(cut_off, path=faded), "before") == ((), ())
    ((silent,), _) = judge(SPEAKS["dead_air"][0], "before")
    assert silent.remedy == Remedy("Trim silence", 96_000, 960_000)
    ((short,), _) = judge(SPEAKS["loudness_out_of_reach"][0], "before")
    assert (short.verdict, short.remedy) == ("look", Remedy("Set −10.1 LUFS", target_lufs=-10.1))
    ((over,), _) = judge(SPEAKS["samples_over_full_scale"][0], "before")
    down = LevelRequest("true-peak", -1.0)
    assert over.remedy == Remedy("True peak at −1.0 dBTP", changes=Changes(level=down))
    # Once a level is chosen there is none that would be put in its place.
    levelled = replace(SPEAKS["samples_over_full_scale"][0], wish=case(level=down).wish)
    assert [one.remedy for one in judge(levelled, "before")[0]] == [None]
    quieter = briefed(replace(case(), expected=Expected(true_peak_dbtp=-0.2)), true_peak_max_dbtp=-2.0)
    ((peak,), _) = judge(quieter, "before")
    assert peak.remedy and peak.remedy.label == "True peak at −2.0 dBTP"
    required = briefed(SPEAKS["loudness_out_of_reach"][0], loudness_lufs=(-9.5, -8.5))
    assert judge(required, "before")[0][0].verdict == "stop"


@pytest.mark.parametrize(
    ("kind", "words", "changes"),
    [
        ("rate", ("44100", "48000"), Changes(rate_hz=48_000)),
        ("container", ("flac", "alac"), Changes(container="flac")),
        ("depth", ("s24",), Changes(encoding="s24")),
        ("channels", ("1",), Changes(channels="mono")),
        ("clipped", (), Changes(level=LevelRequest("true-peak", USUAL_DBTP))),
    ],
)
def test_rejection_is_fixed_with_one_click(kind: ReasonKind, words: tuple[str, ...], changes: Changes) -> None:
    (found,) = [one for one in judge(refused(case(), kind, *words), "before")[0] if one.rule == "refused_by_recipient"]
    assert found.remedy and found.remedy.changes == changes
    mended = case(**{name: value for name, value in asdict_of(changes).items() if value is not None})
    again = replace(refused(mended, kind, *words), expected=Expected(sample_peak_dbfs=-1.0))
    assert not [one for one in judge(again, "before")[0] if one.rule == "refused_by_recipient"]


def test_finding_without_remedy_has_a_place() -> None:
    def said(one: Case) -> list[Finding]:
        return [found for found in judge(one, "before")[0] if found.rule == "refused_by_recipient"]

    (missing,) = said(refused(case(), "tag", "isrc"))
    assert (missing.field, missing.remedy) == ("isrc", None)
    tagged = case(tags=FileTags((("isrc", "QZWLT2600001"),)))
    assert said(refused(tagged, "tag", "isrc")) == []
    (used,) = said(refused(tagged, "code-used", "QZWLT2600001"))
    assert used.field == "isrc" and said(refused(tagged, "code-used", "QZWLT2600002")) == []
    assert said(refused(case(), "cover", "1000"))[0].field == "cover"
    # A finding that cannot be checked beforehand stays until the file is sent again.
    assert said(refused(case(), "damaged")) and said(refused(case(), "other"))


def test_mail_over_the_limit_offers_a_format_that_fits() -> None:
    (found,) = [one for one in judge(mailed(3_840_000, 1_000_000), "before")[0] if one.rule == "mail_too_large"]
    assert found.remedy and found.remedy.changes and found.remedy.changes.container == "aac"
    # Ten seconds: 0.73 MB of a file at most.
    kbps = found.remedy.changes.kbps or 0
    assert 300 <= kbps <= 560 and f"{kbps} kbit/s" in found.remedy.label
    (hopeless,) = [one for one in judge(mailed(3_840_000, 3_000), "before")[0] if one.rule == "mail_too_large"]
    assert hopeless.remedy is None and "another drop-off" in hopeless.sentence


def test_clearly_unreachable_loudness_is_found_without_a_test() -> None:
    ((found,), _) = judge(leveled(signal=replace(LOUD, integrated_lufs=-30.0)), "before")
    assert found.rule == "loudness_out_of_reach"
    assert "over 12 dB" in found.sentence


def test_half_of_a_pair_need_not_meet_the_level_of_both() -> None:
    half = case(channels="split", level=LevelRequest("loudness", -9.0, -1.0))
    assert half.path.sides is not None
    assert judge(read_back(half), "after")[0] == ()


def test_measures_of_a_range_name_the_first_of_each() -> None:
    runs = (ClippedRun(10, 3, 0, 0), ClippedRun(20, 1, 1, 1))
    assert range_measures(ClippingResult(4, 1, runs, complete=True)) == RangeMeasures(1, 20, 4, 10)


def test_the_worst_finding_is_the_verdict() -> None:
    look, stop = Finding("dead_air", "look", "."), Finding("frames_as_asked", "stop", ".")
    assert [worst(()), worst((look,)), worst((look, stop, look))] == ["ready", "look", "stop"]
