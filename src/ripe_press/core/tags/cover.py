"""Cover pictures: looked at, and made into what players can show."""

import io
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.errors import NotFound, Unreadable
from ripe_press.core.words import quoted

if TYPE_CHECKING:
    from PIL.Image import Image
    from PIL.ImageFile import ImageFile

MOST_PIXELS_A_SIDE = 1600
MOST_BYTES = 1_000_000
"""Larger embedded pictures make players slow or are not shown at all (common practice, no source)."""

VIDEO_SIZE = (1280, 720)
_MOST_FILE_BYTES = 60_000_000
_MOST_PIXELS = 80_000_000
_STEPS = ((MOST_PIXELS_A_SIDE, 90), (MOST_PIXELS_A_SIDE, 80), (MOST_PIXELS_A_SIDE, 65), (1000, 80), (700, 80))
"""Pixels a side and JPEG quality, until it is small enough: the last is, whatever it shows."""

_KEPT = {"JPEG": "image/jpeg", "PNG": "image/png"}


@dataclass(frozen=True, slots=True)
class Cover:
    """A picture ready for embedding; ``note`` describes the conversion, if any."""

    data: bytes
    mime: str
    width: int
    height: int
    note: str

    @property
    def square(self) -> bool:
        """Whether its sides are equal."""
        return self.width == self.height


def prepared_cover(path: str) -> Cover:
    """The picture of a file: its pixels as they are where players take it, otherwise made smaller or a JPEG.

    Raises: NotFound ``cover.missing``; Unreadable ``cover.not-picture`` or ``cover.too-large``.
    """
    try:
        found = Path(path).stat()
    except OSError as error:
        message = f"Picture not found: {quoted(path)}. Choose it again."
        raise NotFound("cover.missing", message, path=path) from error
    if found.st_size > _MOST_FILE_BYTES:
        message = f"{quoted(Path(path).name)} has {found.st_size / 1e6:.0f} MB; a cover has max 60 MB. Choose another."
        raise Unreadable("cover.too-large", message, bytes=found.st_size)
    return _prepared(path, found.st_mtime_ns)


def still_picture(path: str) -> NDArray[np.uint8]:
    """What a video shows: the picture as large as it fits in the middle of a dark field, or the field alone.

    Shape ``(720, 1280, 3)``. Raises: as `prepared_cover`.
    """
    from PIL import Image, ImageOps

    canvas = Image.new("RGB", VIDEO_SIZE, (24, 20, 23))
    if path:
        with Image.open(io.BytesIO(prepared_cover(path).data)) as opened:
            fitted = ImageOps.contain(opened.convert("RGB"), VIDEO_SIZE)
        canvas.paste(fitted, ((VIDEO_SIZE[0] - fitted.width) // 2, (VIDEO_SIZE[1] - fitted.height) // 2))
    return np.asarray(canvas, dtype=np.uint8)


@lru_cache(maxsize=32)
def _prepared(path: str, _changed: int) -> Cover:
    return prepare(Path(path).read_bytes(), Path(path).name)


def prepare(data: bytes, name: str) -> Cover:
    """Prepare picture data. It is always decoded and encoded again: without metadata, location, colour profile
    (converted to sRGB) or trailing data.

    Raises: Unreadable ``cover.not-picture``, ``cover.too-large``.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    try:
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP", "TIFF", "BMP", "GIF")) as opened:
            if opened.width * opened.height > _MOST_PIXELS:
                message = f"{quoted(name)} has {opened.width} × {opened.height} pixels, too many. Choose a smaller one."
                raise Unreadable("cover.too-large", message, pixels=opened.width * opened.height)
            kind = opened.format or ""
            turned = opened.getexif().get(0x0112, 1) != 1
            profile = opened.info.get("icc_profile", b"")
            plain = opened.mode in ("RGB", "L", "P", "RGBA") and not turned and (not profile or b"sRGB" in profile)
            small = max(opened.size) <= MOST_PIXELS_A_SIDE and len(data) <= MOST_BYTES
            if kind in _KEPT and plain and small:
                return Cover(_encoded_anew(opened, kind), _KEPT[kind], opened.width, opened.height, "")
            upright = ImageOps.exif_transpose(_in_srgb(opened, profile)).convert("RGB")
            upright.info.clear()
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        message = f"{quoted(name)} is not a usable picture. Use JPEG or PNG."
        raise Unreadable("cover.not-picture", message, name=name) from error
    before = f"{upright.width} × {upright.height}, {len(data) / 1e6:.1f} MB, {kind}"
    for side, quality in _STEPS:
        upright.thumbnail((side, side), Image.Resampling.LANCZOS)
        out = io.BytesIO()
        upright.save(out, "JPEG", quality=quality, optimize=True)
        if out.tell() <= MOST_BYTES:
            break
    note = f"converted from {before} to {upright.width} × {upright.height}, {out.tell() / 1e6:.2f} MB, JPEG"
    return Cover(out.getvalue(), "image/jpeg", upright.width, upright.height, note)


def _encoded_anew(opened: "ImageFile", kind: str) -> bytes:
    """The same pixels (in JPEG by the same quantisation), and nothing that stood beside them."""
    opened.load()
    opened.info = {name: opened.info[name] for name in ("transparency",) if name in opened.info}
    out = io.BytesIO()
    if kind == "JPEG":
        opened.save(out, "JPEG", quality="keep", optimize=True)
    else:
        opened.save(out, "PNG", optimize=True)
    return out.getvalue()


def _in_srgb(opened: "Image", profile: bytes) -> "Image":
    """The picture in the colours that players show; a profile that cannot be read is left out."""
    from PIL import ImageCms

    if not profile:
        return opened
    try:
        given = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        made = ImageCms.profileToProfile(opened, given, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError, ValueError):
        return opened
    return made or opened
