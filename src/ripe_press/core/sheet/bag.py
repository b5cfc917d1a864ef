"""Packages for archives: files with their checksums and a description, as BagIt (RFC 8493) has them."""

import hashlib
import shutil
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.errors import Cancelled, Conflict
from ripe_press.core.whole_files import sync, sync_folder, temporary_beside
from ripe_press.core.words import quoted

DECLARATION = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"
_BLOCK = 1 << 20
_MOST_LINE = 78


def write_bag(
    target: Path,
    payload: Mapping[str, Path],
    papers: Mapping[str, bytes],
    info: Sequence[tuple[str, str]],
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
) -> None:
    """Writes a bag, which is there whole or not at all: files by their names in it, papers beside them, and ``info``.

    Raises: Conflict ``bag.name-taken``; Cancelled ``bag.cancelled``; OSError.
    """
    if target.exists():
        message = f"{quoted(target)} already exists. Choose another --out."
        raise Conflict("bag.name-taken", message, path=str(target))
    aside = temporary_beside(target)
    try:
        data = aside / "data"
        data.mkdir(parents=True)
        total = sum(one.stat().st_size for one in payload.values())
        done, sums = 0, []
        for name, source in payload.items():
            place = data / name
            place.parent.mkdir(parents=True, exist_ok=True)
            digest = hashlib.sha256()
            with source.open("rb") as reader, place.open("xb") as writer:
                while block := reader.read(_BLOCK):
                    if should_stop():
                        message = "Package cancelled. Nothing was kept."
                        raise Cancelled("bag.cancelled", message)
                    digest.update(block)
                    writer.write(block)
                    done += len(block)
                    progress(done, total)
            sync(place)
            sums.append((f"data/{name}", digest.hexdigest()))
        tags = {
            "bagit.txt": DECLARATION.encode(),
            "bag-info.txt": info_text([*info, ("Payload-Oxum", f"{done}.{len(payload)}")]).encode(),
            "manifest-sha256.txt": manifest(sums).encode(),
            **{f"delivery/{name}": data for name, data in papers.items()},
        }
        for name, text in tags.items():
            (aside / name).parent.mkdir(exist_ok=True)
            (aside / name).write_bytes(text)
            sync(aside / name)
        listed = manifest([(name, hashlib.sha256(text).hexdigest()) for name, text in tags.items()])
        (aside / "tagmanifest-sha256.txt").write_text(listed, encoding="utf-8")
        sync(aside / "tagmanifest-sha256.txt")
        for folder in (aside, *(one for one in aside.rglob("*") if one.is_dir())):
            sync_folder(folder)
        aside.rename(target)
        sync_folder(target.parent)
    finally:
        shutil.rmtree(aside, ignore_errors=True)


def manifest(sums: Sequence[tuple[str, str]]) -> str:
    """Names with their checksums; what would break a line is written with a percent sign (section 2.1.3)."""
    return "".join(f"{digest}  {_encoded(name)}\n" for name, digest in sorted(sums))


def info_text(info: Sequence[tuple[str, str]]) -> str:
    """Labels and values, long ones folded onto lines that begin with a space (section 2.2.2)."""
    return "".join(_folded(f"{label}: {' '.join(value.split())}") for label, value in info if value.strip())


def _encoded(name: str) -> str:
    return name.replace("%", "%25").replace("\n", "%0A").replace("\r", "%0D")


def _folded(line: str) -> str:
    lines, at = [], ""
    for word in line.split(" "):
        if at and len(at) + 1 + len(word) > _MOST_LINE:
            lines.append(at)
            at = f" {word}"
        else:
            at = f"{at} {word}" if at else word
    return "\n".join([*lines, at]) + "\n"
