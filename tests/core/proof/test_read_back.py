"""Reading a file back: progress, and what an unreadable file gives."""

from pathlib import Path

from ripe_press.core.blocks import BLOCK_FRAMES
from ripe_press.core.proof.read_back import prove
from support.signals import noise, write


def test_progress_counts_the_samples_read_up_to_all(tmp_path: Path) -> None:
    frames = 2 * BLOCK_FRAMES + 77
    seen: list[int] = []
    proof = prove(write(tmp_path / "a.wav", noise(frames), 48_000), progress=seen.append)
    assert seen == [BLOCK_FRAMES, 2 * BLOCK_FRAMES, frames] and proof.frames == frames
    assert proof.true_peak_dbtp is None and proof.integrated_lufs is None


def test_an_unreadable_file_is_a_result_with_its_size(tmp_path: Path) -> None:
    path = tmp_path / "a.wav"
    path.write_bytes(b"no sound at all")
    proof = prove(path)
    assert proof.unreadable and (proof.bytes, proof.frames) == (15, 0)
