"""Measurements for people: figures with units in groups, and a small waveform."""

import shutil
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import click

_BARS = " ▁▂▃▄▅▆▇█"
_FLOOR_DB = -48.0
_LABEL = 26
_MOST_CLIPPED = 5


def say_measured(report: dict[str, Any], wave: Sequence[float], stretch: str = "") -> None:
    """Print the report of `measure`; ``wave`` holds linear peaks in order of time, one per column.

    ``stretch`` names the measured part if it is not the whole file.
    """
    click.echo(click.style(Path(report["path"]).name + stretch, bold=True))
    if wave:
        click.echo(waveform(wave))
    for title, lines in sections(report):
        click.echo(f"\n{click.style(title, bold=True)}")
        for label, value in lines:
            click.echo(f"  {label:{_LABEL}}{value}")


def room() -> int:
    """Columns of a waveform: those of the terminal, within limits."""
    return max(20, min(160, shutil.get_terminal_size().columns))


def waveform(peaks: Sequence[float]) -> str:
    """Peaks as bars of eighths from −48 dBFS up to full scale; ``!`` above that."""
    from ripe_press.core.units import db_from_linear

    def bar(peak: float) -> str:
        if peak > 1:
            return "!"
        part = 1 - db_from_linear(peak) / _FLOOR_DB if peak > 0 else 0.0
        return _BARS[max(0, min(8, round(part * 8)))]

    return "".join(map(bar, peaks))


def sections(report: dict[str, Any]) -> list[tuple[str, list[tuple[str, str]]]]:
    """The figures in groups, without those that were not found."""
    from ripe_press.core.units import print_clock, print_count, print_rate

    rate_hz = report["sample_rate_hz"]

    def peak(name: str, unit: str) -> str:
        channel, seconds = report[f"{name}_channel"], report[f"{name}_at_s"]
        side = {0: "left", 1: "right"}.get(channel, f"channel {channel + 1}") if report["channels"] > 1 else ""
        where = f" at {print_clock(round(seconds * rate_hz), rate_hz)}{f', {side}' if side else ''}"
        value = report[f"{name}_{unit.lower()}"]
        return level(f"{name}_{unit.lower()}", unit) + (where if value is not None else "")

    def level(name: str, unit: str) -> str:
        value = report[name]
        return "digital silence" if value is None else f"{value:+.1f} {unit}".replace("-", "−")

    depth = f", {report['bit_depth']} bits" if report["bit_depth"] else ""
    file = [
        ("Format", f"{report['container']}, {report['codec']}{depth}, {print_rate(rate_hz)}"),
        ("Channels", _channels(report)),
        ("Length", f"{print_clock(report['frames'], rate_hz)} ({print_count(report['frames'], 'sample')})"),
    ]
    if report["effective_bits"] and report["effective_bits"] != report["bit_depth"]:
        file.append(("Effective bit depth", str(report["effective_bits"])))
    if report["effective_bandwidth_hz"]:
        file.append(("Audio bandwidth", f"{report['effective_bandwidth_hz'] / 1000:.1f} kHz"))
    peaks = [("Sample peak", peak("sample_peak", "dBFS")), ("True peak", peak("true_peak", "dBTP"))]
    clipped, over = report["clipped_samples"], report["samples_over_full_scale"]
    peaks.append(("Clipped samples", print_count(clipped, "sample") if clipped else "none"))
    peaks += [("Over full scale", print_count(over, "sample"))] if over else []
    first = report["clipped_places"][:_MOST_CLIPPED]
    peaks += [("", f"at {print_clock(place['start_frame'], rate_hz)}") for place in first]
    if (more := len(report["clipped_places"]) - _MOST_CLIPPED) > 0:
        peaks.append(("", f"and {print_count(more, 'more place')}"))
    loudness = [
        ("Integrated", level("integrated_lufs", "LUFS")), ("Loudness range", f"{report['lra_lu']:.1f} LU"),
        ("Max momentary", level("max_momentary_lufs", "LUFS")),
        ("Max short-term", level("max_short_term_lufs", "LUFS")),
        ("Quietest half second", level("noise_floor_dbfs", "dBFS")),
    ]  # fmt: skip
    loudness += [(f"Normalised to −{-one['level_lufs']:g} LUFS", one["sentence"]) for one in report["plays"]]
    sounding, found = report["sounding"], report["tempo_found"]
    noise = sounding["noise_dbfs"]
    signal = [
        ("Silence before, after", f"{report['head_silence_s']:.2f} s, {report['tail_silence_s']:.2f} s"),
        ("Audio from, to", " to ".join(print_clock(sounding[name], rate_hz) for name in ("start_frame", "end_frame"))),
        (
            "Noise floor",
            "none"
            if noise is None
            else (f"{noise:+.1f} dBFS, silence below {sounding['silence_dbfs']:+.1f} dBFS".replace("-", "−")),
        ),
        (
            "Detected tempo",
            "none" if found is None else (f"{found['bpm']:g} bpm (confidence {found['confidence']:.2f})"),
        ),
        ("DC offset", ", ".join(f"{one:+.6f}" for one in report["dc_offset"]).replace("-", "−")),
    ]
    if report["channels"] == 2:
        correlation, balance = report["correlation"], report["balance_db"]
        signal.append(("Correlation", "none" if correlation is None else f"{correlation:+.2f}".replace("-", "−")))
        if balance is not None:
            signal.append(("Balance", f"{round(balance, 1) + 0.0:+.1f} dB".replace("-", "−")))
    beside = [(name, str(text)) for name, text in report["tags"].items()]
    beside += [("cover", f"{report['cover_bytes']:,} bytes")] if report["cover_bytes"] else []
    beside += [(print_clock(one["frame"], rate_hz), one["name"]) for one in report["markers"]]
    groups = [("File", file), ("Peaks", peaks), ("Loudness", loudness), ("Signal", signal), ("Metadata", beside)]
    return [(title, lines) for title, lines in groups if lines]


def _channels(report: dict[str, Any]) -> str:
    channels = {1: "mono", 2: "stereo"}.get(report["channels"], str(report["channels"]))
    if report["file_channels"] not in (0, report["channels"]):
        channels += f", of {report['file_channels']} in the file ({report['downmix']})"
    return channels
