"""Stems as files: names, folders, and facts that need their content."""

from dataclasses import replace
from pathlib import Path

from ripe_press.core.errors import NotFound
from ripe_press.core.formats.capabilities import READ_SUFFIXES
from ripe_press.core.formats.fingerprint import content_sum
from ripe_press.core.requests.part import StemNote
from ripe_press.core.survey import measure_bits, sides_alike
from ripe_press.core.words import quoted
from ripe_press.studio.planning import measured


def examined_stem(stem: StemNote) -> StemNote:
    """A stem with what can only be known by reading it: its fingerprint, the bits in use, whether it is mono."""
    source = measured(stem.facts).source
    bits = measure_bits(source) if stem.facts.holds_integers or stem.facts.is_float else None
    facts = replace(stem.facts, effective_bits=bits, content_sum=content_sum(Path(stem.facts.path)))
    return replace(stem, facts=facts, mono=sides_alike(source))


def stems_in(folder: Path, mix: Path) -> list[tuple[str, Path]]:
    """The sound files of a folder, but for the mix itself, each by its name without what it shares with the mix.

    Raises: NotFound ``stems.no-folder``.
    """
    if not folder.is_dir():
        message = f"Folder not found: {quoted(folder)}."
        raise NotFound("stems.no-folder", message, folder=str(folder))
    files = sorted(one for one in folder.iterdir() if one.suffix.lower() in READ_SUFFIXES and one.is_file())
    return [(stem_name(one, mix), one) for one in files if one.resolve() != mix.resolve()]


def stem_name(path: Path, mix: Path) -> str:
    """What a stem is called: ``Millrace bass.wav`` beside ``Millrace.wav`` is ``bass``."""
    name = path.stem
    if name.lower().startswith(mix.stem.lower()):
        name = name[len(mix.stem) :].strip(" -_.") or path.stem
    return name
