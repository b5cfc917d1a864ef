"""Problems of this machine and this data folder, one sentence each."""

import os
import platform
import shutil
import stat
import sys
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from ripe_press.core.briefs.library import BLANK
from ripe_press.core.disk import UNFINISHED
from ripe_press.core.engine.resolve import mix_of_file, resolve
from ripe_press.core.errors import RipePressError
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.formats.libraries import library_versions
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.press import FailedFile, OrderedFile, PressOrder, press
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.rules.findings import Finding
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.whole_files import temporary_prefix
from ripe_press.core.words import quoted
from ripe_press.store.db import Database, shipped_migrations
from ripe_press.store.mixes import Mixes
from ripe_press.store.pressings import Pressings
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.pressing import copies_of

LITTLE_ROOM_BYTES = 2_000_000_000
"""Less than an hour of six files; common practice, no source."""
LITTLE_MEMORY_BYTES = 2_000_000_000


def examine(folder: DataFolder, page: Path) -> list[Finding]:
    """Looks at the machine and at the data folder; ``page`` is where the built page is. Nothing is changed."""
    return [*_machine(page), *_folder(folder), *_record(folder)]


def _machine(page: Path) -> Iterator[Finding]:
    versions = ", ".join(f"{name} {version}" for name, version in library_versions().items())
    python = f"Python {platform.python_version()} on {platform.system()} {platform.machine()}"
    yield Finding("libraries", "ready", f"{python}; {versions}.")
    yield _codecs()
    cores, memory = os.cpu_count() or 1, _memory_bytes()
    sentence = f"{cores} cores, {_gigabytes(memory)} of memory."
    if memory < LITTLE_MEMORY_BYTES:
        yield Finding("machine", "look", f"{sentence} Press few files at a time.")
    else:
        yield Finding("machine", "ready", sentence)
    if (page / "index.html").is_file():
        yield Finding("page", "ready", "Web page built.")
    else:
        yield Finding("page", "stop", "Web page not built. Run `make setup`.")


def _codecs() -> Finding:
    """Press a second of noise to every format and read it back: nothing less shows a missing codec."""
    with TemporaryDirectory(prefix=temporary_prefix("doctor")) as name:
        place = Path(name)
        mix = place / "noise.wav"
        with WavWriter(mix, "s16", 48_000, 2) as writer:
            writer.write(np.random.default_rng(1).integers(-(1 << 29), 1 << 29, (48_000, 2), dtype=np.int32))
        facts = facts_of_file(mix)
        whole = BLANK.delivery(Stretch(0, facts.frames), facts)
        files = [
            OrderedFile(file, BLANK, str(place / f"{at}{can.suffix}"))
            for at, can in enumerate(CAPABILITIES.values())
            for file in resolve(Changes(container=can.container).applied_to(whole), mix_of_file(facts, "Noise"))
        ]
        try:
            made = press(PressOrder(tuple(files)), lambda _event: None, lambda: False)
        except Exception as error:
            # If none could be made, the error of the first one is shown.
            return Finding("codecs", "stop", f"No format can be written: {error}")
    failed = [can.title for can, one in zip(CAPABILITIES.values(), made, strict=True) if isinstance(one, FailedFile)]
    if failed:
        sentence = f"Cannot write: {', '.join(failed)}. Reinstall the packages of the lock file."
        return Finding("codecs", "stop", sentence)
    return Finding("codecs", "ready", f"All {len(CAPABILITIES)} formats written and verified.")


def _folder(folder: DataFolder) -> Iterator[Finding]:
    root = folder.root
    if not root.is_dir():
        yield Finding("data folder", "look", f"{quoted(root)} does not exist yet; created at the first start.")
        return
    for place in (root, folder.mixes, folder.pressed, folder.journals):
        if place.exists() and not os.access(place, os.W_OK | os.X_OK):
            yield Finding("data folder", "stop", f"{quoted(place)} cannot be written. Give this user write permission.")
            return
    free = shutil.disk_usage(root).free
    sentence = f"{quoted(root)} has {_gigabytes(free)} free."
    yield Finding("data folder", "look" if free < LITTLE_ROOM_BYTES else "ready", sentence)
    token = root / "token"
    if token.is_file() and stat.S_IMODE(token.stat().st_mode) & 0o077:
        sentence = f"Others can read {quoted(token)}. Run `chmod 600` on it or delete it."
        yield Finding("token", "stop", sentence)
    left = list(folder.pressed.rglob(f"*{UNFINISHED}")) if folder.pressed.is_dir() else []
    if left:
        sentence = f"{len(left)} unfinished files; removed at the next start."
        yield Finding("unfinished files", "look", sentence)


def _record(folder: DataFolder) -> Iterator[Finding]:
    if not folder.database.is_file():
        return
    try:
        database = Database(folder.database)
    except RipePressError as error:
        yield Finding("record", "stop", error.message)
        return
    try:
        problems = database.problems_of(folder.database)
        if problems:
            sentence = f"The history is damaged ({problems[0]}). Run `ripe-press doctor --restore`: {_copies(folder)}."
            yield Finding("record", "stop", sentence)
            return
        shipped, applied = {name for name, _ in shipped_migrations()}, database.applied()
        unknown = applied - shipped
        if unknown:
            sentence = f"A newer Ripe Press used this folder ({', '.join(sorted(unknown))}). Use that version."
            yield Finding("record", "stop", sentence)
            return
        if not applied >= shipped:
            yield Finding("record", "look", "The history is from an older Ripe Press; upgraded at the next start.")
            return
        open_ones = len(Pressings(database).open())
        yield Finding("record", "ready", f"History intact; {open_ones} pressings queued or running.")
        gone = [mix for mix in Mixes(database).rows() if not Path(mix.path).is_file()]
        if gone:
            names = ", ".join(mix.title for mix in gone[:5])
            sentence = f"Files of {len(gone)} mixes missing ({names}). Restore or remove them."
            yield Finding("mixes", "look", sentence)
    finally:
        database.close()


def _copies(folder: DataFolder) -> str:
    found = copies_of(folder)
    return f"{len(found)} copies, newest {found[0].stem[7:17]}" if found else "no copy"


def _memory_bytes() -> int:
    if sys.platform == "win32":
        return LITTLE_MEMORY_BYTES
    return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")


def _gigabytes(count: int) -> str:
    return f"{count / 1e9:.1f} GB"
