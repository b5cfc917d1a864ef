"""Delivery into a music library: album artist, album, track and title, with cover and playlist."""

from contextlib import suppress
from pathlib import Path
from typing import Any

from ripe_press.core.errors import RipePressError
from ripe_press.core.formats.capabilities import READ_SUFFIXES
from ripe_press.core.naming import NameStyle, file_name
from ripe_press.core.sending.drop_off import LIBRARY_PATTERN
from ripe_press.core.sending.parcel import Parcel
from ripe_press.core.tags.pictures import read_cover
from ripe_press.core.whole_files import write_whole
from ripe_press.studio.sending.carriers.carrier import RunningTransfer, TransferResult
from ripe_press.studio.sending.carriers.folder import FolderCarrier, lying, put_into

_PNG = b"\x89PNG"


class LibraryCarrier(FolderCarrier):
    """Carries files into the folders of a music library."""

    def carry(self, parcel: Parcel, _kept: dict[str, Any], hand: RunningTransfer) -> TransferResult:
        """Copies a file to its place; writes the cover where there is none yet, and the playlist of its album."""
        self.look()
        path = put_into(parcel, self.drop_off.folder, self._name(parcel), hand)
        # The files next to it can be written again at any time: without them the file is delivered all the same.
        with suppress(OSError, RipePressError):
            _put_cover(path)
            _list_album(path.parent)
        return lying(path, parcel)

    def _name(self, parcel: Parcel) -> str:
        fields = dict(parcel.fields)
        fields["album_artist"] = fields.get("album_artist") or fields.get("artist") or "Unknown artist"
        fields["album"] = fields.get("album") or "Single tracks"
        fields["title"] = fields.get("title") or Path(parcel.name).stem
        return file_name(LIBRARY_PATTERN, fields, NameStyle(), Path(parcel.name).suffix)


def _put_cover(path: Path) -> None:
    cover = read_cover(path)
    target = path.with_name("cover.png" if cover.startswith(_PNG) else "cover.jpg")
    if cover and not target.exists():
        write_whole(target, cover)


def _list_album(folder: Path) -> None:
    names = sorted(one.name for one in folder.iterdir() if one.suffix.lower() in READ_SUFFIXES and one.name[0] != ".")
    write_whole(folder / f"{folder.name}.m3u8", "".join(f"{line}\n" for line in ["#EXTM3U", *names]))
