import io
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image, ImageCms
from PIL.PngImagePlugin import PngInfo

from ripe_press.core.errors import NotFound, Unreadable
from ripe_press.core.tags.cover import (
    MOST_BYTES,
    MOST_PIXELS_A_SIDE,
    VIDEO_SIZE,
    prepare,
    prepared_cover,
    still_picture,
)


def picture(size: tuple[int, int], kind: str = "PNG", mode: str = "RGB", noise: bool = False) -> bytes:
    pixels = np.random.default_rng(2).integers(0, 256, (size[1], size[0], 3), dtype=np.uint8)
    image = Image.fromarray(pixels) if noise else Image.new("RGB", size, (116, 48, 90))
    out = io.BytesIO()
    image.convert(mode).save(out, kind)
    return out.getvalue()


def pixels(data: bytes) -> NDArray[np.int16]:
    with Image.open(io.BytesIO(data)) as found:
        return np.asarray(found.convert("RGB"), dtype=np.int16)


@pytest.mark.parametrize("kind", ["PNG", "JPEG"])
def test_a_picture_that_players_take_keeps_its_pixels_and_nothing_else(kind: str) -> None:
    """Where it was taken, what a program wrote beside it, and what hides behind its end."""
    secret = b"Weir House, 52.1N 8.4E"
    image = Image.fromarray(pixels(picture((80, 60), noise=True)).astype(np.uint8)).resize((640, 480))
    exif, out = Image.Exif(), io.BytesIO()
    exif[0x010E] = secret.decode()
    note = PngInfo()
    note.add_text("Comment", secret.decode(), zip=False)
    more = {"pnginfo": note} if kind == "PNG" else {"comment": secret, "quality": 85}
    image.save(out, kind, exif=exif, **more)
    data = out.getvalue() + secret + b"PK\x03\x04"
    assert data.count(secret) == 3
    cover = prepare(data, "a")
    assert (cover.mime, cover.note, cover.square) == (f"image/{kind.lower()}", "", False)
    assert secret not in cover.data and b"PK\x03\x04" not in cover.data
    with Image.open(io.BytesIO(cover.data)) as found:
        assert not found.getexif() and not set(found.info) & {"comment", "Comment", "exif", "icc_profile"}
    apart = np.abs(pixels(cover.data) - pixels(data))
    # Noise is the worst that JPEG can be given.
    assert apart.max() == 0 if kind == "PNG" else apart.mean() < 2.5
    assert prepare(data, "a") == cover


def test_colours_of_another_profile_become_those_that_players_show() -> None:
    image, out = Image.new("RGB", (64, 64), (200, 40, 40)), io.BytesIO()
    profile = ImageCms.createProfile("LAB")
    image.save(out, "PNG", icc_profile=ImageCms.ImageCmsProfile(profile).tobytes())
    broken = io.BytesIO()
    image.save(broken, "PNG", icc_profile=b"no profile at all")
    for data in (out.getvalue(), broken.getvalue()):
        with Image.open(io.BytesIO(prepare(data, "a").data)) as found:
            assert "icc_profile" not in found.info


@pytest.mark.parametrize(
    "data",
    [
        picture((2000, 2000)),
        picture((1500, 1500), noise=True),
        picture((300, 200), "JPEG", "CMYK"),
        picture((300, 200), "TIFF"),
        picture((300, 200), "WEBP"),
    ],
    ids=["too wide", "too heavy", "four colours", "TIFF", "WebP"],
)
def test_other_pictures_are_made_into_one(data: bytes) -> None:
    cover = prepare(data, "a")
    with Image.open(io.BytesIO(cover.data)) as found:
        assert (found.format, found.mode, found.size) == ("JPEG", "RGB", (cover.width, cover.height))
    assert max(cover.width, cover.height) <= MOST_PIXELS_A_SIDE
    assert len(cover.data) <= MOST_BYTES
    assert "JPEG" in cover.note
    assert prepare(data, "a") == cover


def test_a_picture_on_its_side_is_set_upright() -> None:
    image = Image.new("RGB", (80, 40))
    exif = Image.Exif()
    exif[0x0112] = 6
    out = io.BytesIO()
    image.save(out, "JPEG", exif=exif)
    cover = prepare(out.getvalue(), "a")
    assert (cover.width, cover.height, cover.square) == (40, 80, False)


def test_invalid_picture_is_rejected(tmp_path: Path) -> None:
    cut = picture((900, 900), noise=True)[:5_000]
    for data in (b"", b"Dear engineer", cut):
        with pytest.raises(Unreadable) as caught:
            prepare(data, "letter.png")
        assert caught.value.code == "cover.not-picture"
    with pytest.raises(Unreadable) as caught:
        prepare(picture((10_000, 8_001), mode="1"), "huge.png")
    assert caught.value.code == "cover.too-large"
    with pytest.raises(NotFound) as missing:
        prepared_cover(str(tmp_path / "gone.png"))
    assert missing.value.code == "cover.missing"


def test_a_file_is_read_again_when_it_changed(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    path.write_bytes(picture((10, 10)))
    assert prepared_cover(str(path)).width == 10
    path.write_bytes(picture((20, 20)))
    import os

    os.utime(path, ns=(1, 1))
    assert prepared_cover(str(path)).width == 20


def test_a_video_has_the_picture_in_its_middle(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    path.write_bytes(picture((100, 100)))
    shown = still_picture(str(path))
    assert shown.shape == (VIDEO_SIZE[1], VIDEO_SIZE[0], 3)
    assert tuple(shown[360, 640]) == (116, 48, 90)
    assert tuple(shown[360, 100]) == tuple(still_picture("")[0, 0])
