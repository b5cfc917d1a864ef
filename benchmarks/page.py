"""How smoothly the waveform of a three-hour mix moves: frames a second while it is zoomed and dragged along.

Headless Chromium draws without a graphics card, so a desk with one does better.
"""

import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from playwright.sync_api import sync_playwright

RATE = 44_100
HOURS = 3
COMMAND = str(Path(sys.executable).with_name("ripe-press"))
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"]

MOVE = """
(seconds) => new Promise((done) => {
  const wave = document.querySelector('[data-testid=wave]');
  const box = wave.getBoundingClientRect();
  const times = [];
  const begin = performance.now();
  const step = (now) => {
    times.push(now);
    const share = (now - begin) / 1000 / seconds;
    if (share >= 1) return done(times);
    const zooming = share < 0.5;
    const options = {bubbles: true, cancelable: true, clientX: box.x + box.width / 2, clientY: box.y + 80};
    wave.dispatchEvent(new WheelEvent('wheel', zooming
      ? {...options, deltaY: Math.sin(share * 12) > 0 ? -60 : 60}
      : {...options, deltaX: 40, deltaY: 0}));
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
})
"""


def make_mix(path: Path) -> Path:
    """Three hours of noise that swells, 16 bits."""
    random = np.random.default_rng(3)
    minute = random.standard_normal((RATE * 60, 2)) * 0.15
    with soundfile.SoundFile(path, "w", RATE, 2, "PCM_16") as file:
        for number in range(HOURS * 60):
            file.write(minute * (0.3 + 0.7 * abs(np.sin(number / 9))))
    return path


def main() -> None:
    """Prints the frames a second and the slowest frames."""
    with tempfile.TemporaryDirectory() as folder:
        mix = make_mix(Path(folder) / "Long Pound.wav")
        words = [COMMAND, "serve", "--port", "0", "--data", f"{folder}/data"]
        server = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
        try:
            address = server.stdout.readline().split()[-1] if server.stdout else ""
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.goto(f"{address}/shelf")
                page.get_by_label("or give its path on this machine").fill(str(mix))
                page.get_by_role("button", name="Bring in").click()
                page.get_by_role("link", name="Open Long Pound on the bench").click(timeout=600_000)
                page.get_by_test_id("wave").wait_for()
                page.wait_for_timeout(60_000)
                for turn in ("first", "again"):
                    times = np.array(page.evaluate(MOVE, 8))
                    gaps = np.diff(times)
                    print(
                        f"{turn}: {1000 / gaps.mean():.1f} frames a second, median {np.median(gaps):.1f} ms, "
                        f"95 of 100 under {np.percentile(gaps, 95):.1f} ms, slowest {gaps.max():.0f} ms"
                    )
                browser.close()
        finally:
            server.terminate()
            server.wait(20)


if __name__ == "__main__":
    main()
